"""What to record when: days laid out by what is loud, what the ears bear and which leads move."""
