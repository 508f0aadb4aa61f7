"""What every record of the venue has in common: nothing is plugged into it."""

from __future__ import annotations

from low_tide.core.gear.base import Passive, Socket


class Surrounding(Passive):
    """What is no unit of a hook-up: it has no sockets."""

    def sockets(self) -> tuple[Socket, ...]:
        return ()
