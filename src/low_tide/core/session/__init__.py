"""A hook-up put to work: its run sheet."""
