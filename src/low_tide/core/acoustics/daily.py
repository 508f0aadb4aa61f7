"""What levels of daily life are, to think of a number in dBA by: typical figures, never a limit."""

from __future__ import annotations

from low_tide.core.preferences import LevelMark

DAILY = (
    LevelMark("a whisper", 35.0),
    LevelMark("talk, 1 m away", 60.0),
    LevelMark("a vacuum cleaner", 72.0),
    LevelMark("a shout, 1 m away", 88.0),
)
"""Speech after ISO 9921 (normal at 1 m: 60 dBA); the others as commonly read, ± 5 dB."""
