"""The first schema."""

from low_tide.store.models import TABLES


def migrate(migrator, database, **kwargs):
    """Create every table."""
    for table in TABLES:
        migrator.create_model(table)


def rollback(migrator, database, **kwargs):
    """Drop every table."""
    for table in reversed(TABLES):
        migrator.remove_model(table)
