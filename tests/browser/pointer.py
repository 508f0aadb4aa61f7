"""What a pointer does in the tests."""

from __future__ import annotations

from playwright.sync_api import Locator


def drag(what: Locator, start: tuple[float, float], by: tuple[float, float]) -> None:
    """Press `what` at `start`, CSS pixels from its corner, and let go `by` further on.

    Hovering first waits until `what` stands still: a picture that has only just been measured
    may yet move away from under a pointer that was sent to where it stood.
    """
    what.hover(position={"x": start[0], "y": start[1]})
    box = what.bounding_box()
    assert box
    x, y = box["x"] + start[0], box["y"] + start[1]
    mouse = what.page.mouse
    mouse.down()
    mouse.move(x + by[0], y + by[1], steps=4)
    mouse.up()
