"""Readings of levels, and lines of the log that belong to no take."""

from low_tide.store.models import NoteRow, ReadingRow


def migrate(migrator, database, **kwargs):
    """Create their tables."""
    migrator.create_model(ReadingRow)
    migrator.create_model(NoteRow)


def rollback(migrator, database, **kwargs):
    """Drop them."""
    migrator.remove_model(NoteRow)
    migrator.remove_model(ReadingRow)
