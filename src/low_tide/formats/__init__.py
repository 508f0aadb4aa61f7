"""Open formats: bytes in, core values out, and back. Refusals are sentences that name field and bound."""
