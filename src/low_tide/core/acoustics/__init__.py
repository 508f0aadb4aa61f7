"""Sound in rooms and at ears, before any unit of gear: the lowest floor of the acoustic rules."""
