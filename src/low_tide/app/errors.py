"""Refusals of the use cases. Each carries sentences a person can act on."""

from __future__ import annotations


class Refusal(Exception):
    """Something that was not done. `problems` are sentences; `title` says what kind of refusal it is."""

    title = "That cannot be done"

    def __init__(self, *problems: str) -> None:
        super().__init__(" ".join(problems))
        self.problems = list(problems)


class NotFound(Refusal):
    title = "Not found"


class Invalid(Refusal):
    title = "Some values cannot be taken"

    def __init__(self, *problems: str, fields: list[tuple[str | int, ...]] | None = None) -> None:
        super().__init__(*problems)
        self.fields = fields or []


class Conflict(Refusal):
    """Somebody else saved in between."""

    title = "Changed elsewhere in the meantime"


class Busy(Refusal):
    """Too much is asked for at one time."""

    title = "Busy"


class InUse(Refusal):
    title = "Still in use"


class SwitchedOn(Refusal):
    """A change on the speaker side while the amp is on."""

    title = "The amp is on"


class NotReady(Refusal):
    """Marked as on too early."""

    title = "Not ready to switch on"
