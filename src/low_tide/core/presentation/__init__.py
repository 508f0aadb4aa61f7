"""What a screen shows of a hook-up."""
