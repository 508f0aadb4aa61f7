"""From watts at the speaker to dBA at a place, and what readings teach."""
