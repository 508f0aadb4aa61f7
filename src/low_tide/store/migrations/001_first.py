"""The first schema."""

from low_tide.store.models import GearRow, HookupRow, PreferenceRow, RevisionRow, SessionRow, TakeRow

TABLES = (GearRow, HookupRow, RevisionRow, SessionRow, TakeRow, PreferenceRow)


def migrate(migrator, database, **kwargs):
    """Create the tables of the first release."""
    for table in TABLES:
        migrator.create_model(table)


def rollback(migrator, database, **kwargs):
    """Drop them."""
    for table in reversed(TABLES):
        migrator.remove_model(table)
