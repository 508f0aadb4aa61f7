"""Passive networks and what they are made of, before any unit of gear: the lowest floor of the electrical rules."""
