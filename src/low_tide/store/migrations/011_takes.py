"""What more is said of a take, the names of its gear to be found by, and what lists of takes are narrowed by."""

from typing import Any

SAID = (
    "rating VARCHAR(255) NOT NULL DEFAULT ''",
    "guide INTEGER NOT NULL DEFAULT 0",
    "replaces INTEGER",
    "guitar VARCHAR(255) NOT NULL DEFAULT ''",
    "pickup VARCHAR(255) NOT NULL DEFAULT ''",
    "guitar_volume VARCHAR(255) NOT NULL DEFAULT ''",
    "tuning VARCHAR(255) NOT NULL DEFAULT ''",
    "afterwards TEXT NOT NULL DEFAULT ''",
    "gear TEXT NOT NULL DEFAULT ''",
    "clipped INTEGER NOT NULL DEFAULT 0",
)
INDEXES = {
    "take_at": "take (at)",
    "take_session_at": "take (session_id, at)",
    "take_hookup": "take (hookup_id)",
    "take_part": "take (part)",
    "take_verdict": "take (verdict)",
    "take_rating": "take (rating)",
    "take_guide": "take (guide)",
    "take_replaces": "take (replaces)",
    "take_with_audio": "take (id) WHERE audio IS NOT NULL",
    "take_clipped": "take (id) WHERE clipped > 0",
    "take_accepted": "take (id) WHERE accepted <> '[]'",
}
STATEMENTS = (
    *(f"ALTER TABLE take ADD COLUMN {column}" for column in SAID),
    "UPDATE take SET gear = coalesce((SELECT group_concat(json_extract(unit.value, '$.name'), '; ')"
    " FROM snapshot, json_each(snapshot.doc, '$.gear') AS unit WHERE snapshot.take_id = take.id"
    " AND json_extract(unit.value, '$.kind') NOT IN ('lead', 'room', 'partition', 'place', 'mount')), '')",
    "UPDATE take SET clipped = coalesce(json_extract(measures, '$.clipped_runs'), 0)",
    *(f"CREATE INDEX {name} ON {what}" for name, what in INDEXES.items()),
    # Made anew from what there is to be found by now.
    "DROP TABLE IF EXISTS take_words",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
