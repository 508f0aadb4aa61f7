"""Rooms, what lies between them, places where one listens, and what units stand on."""
