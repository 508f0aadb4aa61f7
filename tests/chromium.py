"""Where Debian put Chromium."""

from __future__ import annotations

import shutil


def chromium() -> str | None:
    """The shell of it that never had a window, which does the same at half the work; else the whole of it."""
    return shutil.which("chromium-headless-shell") or shutil.which("chromium")
