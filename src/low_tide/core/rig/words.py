"""How settings read in a sentence."""

from __future__ import annotations

from low_tide.core.gear.base import Control, Setting


def shown(control: Control, value: Setting) -> str:
    """A setting as it reads on the unit."""
    if control.kind == "switch":
        return "on" if value else "off"
    if control.kind == "choice":
        label = next((o.label for o in control.options if o.value == value), str(value))
        return f"{label} {control.unit}".strip()
    return f"{value:g} {control.unit}".strip().replace("-", "−")


def in_sentence(label: str) -> str:
    """A label within a sentence: lower case, but for abbreviations and numbers."""
    first = label.split()[0]
    return label if first.isupper() else label[:1].lower() + label[1:]
