"""The lightship: an invented studio, its gear, hook-ups and one session, for trying the program out."""
