"""Recordings held against each other: brought into line, matched in level, and what differs between them."""
