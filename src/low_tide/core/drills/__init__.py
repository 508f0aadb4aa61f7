"""Drills: mistakes put into sound hook-ups, numbers, orders and sounds to be asked about; truth by the judge alone."""
