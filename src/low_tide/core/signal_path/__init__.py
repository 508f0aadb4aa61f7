"""Where signal goes, and how high it peaks on the way."""
