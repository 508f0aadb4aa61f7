"""What a field of a gear record means: its label, unit, bounds and typical value, said once.

A `Spec` rides in `typing.Annotated`. The validation library at the program's edges finds the two
hook methods by name, so bounds and labels reach forms, error sentences and the JSON Schema from here
without the core importing that library.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, get_type_hints


@dataclass(frozen=True)
class Spec:
    """Meaning of one field. `ge` and `le` are inclusive, in `unit`; for text they bound the length.

    `typical` is offered where the user does not know; a value taken from it stays listed in the
    unit's `typical` tuple and so marked through every result. `refers`: the text is the id of gear of this kind.
    `pattern`: a regular expression that the whole of a text keeps to, which `wanted` says in words.
    `needed`: a verdict rests on it; what is not known of it is "check first". `neutral`: its default says that there
    is none of it (0 dB, ×1, one jack), so a form that brings it along claims nothing.
    """

    label: str
    unit: str = ""
    ge: float | None = None
    le: float | None = None
    typical: float | str | None = None
    help: str = ""
    refers: str = ""
    pattern: str = ""
    wanted: str = ""
    needed: bool = False
    neutral: bool = False
    names: dict[str, str] = field(default_factory=dict, hash=False)

    def __get_pydantic_core_schema__(self, source: Any, handler: Any) -> Any:
        schema = handler(source)
        inner = schema
        while inner["type"] in ("nullable", "default"):
            inner = inner["schema"]
        text = inner["type"] in ("str", "list", "tuple")
        low, high = ("min_length", "max_length") if text else ("ge", "le")
        if self.ge is not None:
            inner[low] = int(self.ge) if text else self.ge
        if self.le is not None:
            inner[high] = int(self.le) if text else self.le
        if self.pattern:
            inner["pattern"] = f"^(?:{self.pattern})$"
        if inner["type"] == "float":
            inner["allow_inf_nan"] = False
        return schema

    def __get_pydantic_json_schema__(self, core_schema: Any, handler: Any) -> Any:
        schema = dict(handler(core_schema))
        schema["title"] = self.label
        extra: dict[str, Any] = {
            "x-unit": self.unit,
            "x-typical": self.typical,
            "x-names": self.names,
            "x-refers": self.refers,
        }
        extra |= {key: True for key, said in (("x-needed", self.needed), ("x-neutral", self.neutral)) if said}
        schema.update({key: value for key, value in extra.items() if value not in ("", None, {})})
        if self.help:
            schema["description"] = self.help
        return schema


_SPECS: dict[type, Mapping[str, Spec]] = {}


def specs_of(kind: type) -> Mapping[str, Spec]:
    """What the fields of a kind of record mean, by their names, in its order; those without a `Spec` left out."""
    if kind not in _SPECS:
        hints = get_type_hints(kind, include_extras=True).items()
        said = ((name, getattr(hint, "__metadata__", ())) for name, hint in hints)
        _SPECS[kind] = {name: each for name, found in said for each in found if isinstance(each, Spec)}
    return _SPECS[kind]
