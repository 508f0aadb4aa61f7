"""How settings read in a sentence."""

from __future__ import annotations

from low_tide.core.gear.base import Control, Setting
from low_tide.core.rig.rig import Rig


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


def control_words(control: Control) -> str:
    """A control within a sentence, told from others like it: 'line 3 gain'."""
    return f"{control.of} {in_sentence(control.label)}".lstrip()


def replugged(before: Rig, after: Rig) -> tuple[str, ...]:
    """What has to be plugged anew to get from one rig to another, a lead at a time; empty where turning is enough."""
    old = {link.lead: link for link in before.hookup.links}
    new = {link.lead: link for link in after.hookup.links}
    found = [f"take out {before.gear[lead].name}" for lead in old if lead not in new]
    for lead, link in new.items():
        if lead in old and {old[lead].a, old[lead].b} == {link.a, link.b}:
            continue
        ends = " to ".join(after.label(end) for end in link.ends())
        found.append(f"{after.gear[lead].name} from {ends}")
    return tuple(found)
