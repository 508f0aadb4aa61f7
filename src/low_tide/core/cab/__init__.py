"""The speaker after the fact: impulse responses, what they are like, and blends of them."""
