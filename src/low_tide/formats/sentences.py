"""Turning validation errors into sentences that name the field and its bound."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from pydantic import BaseModel, RootModel, ValidationError

from low_tide.core.spec import Spec
from low_tide.core.units import figure


class FormatError(ValueError):
    """Something that cannot be read. `problems` are sentences; `fields` their paths, in the same order."""

    def __init__(self, problems: Iterable[str], fields: Iterable[tuple[str | int, ...]] = ()) -> None:
        self.problems = list(problems)
        self.fields = list(fields)
        super().__init__(" ".join(self.problems))


def _inner(hint: Any) -> tuple[Any, Spec | None]:
    """The type under Annotated, and its Spec."""
    spec = None
    while get_origin(hint) is Annotated:
        hint, *metadata = get_args(hint)
        spec = next((m for m in metadata if isinstance(m, Spec)), spec)
    return hint, spec


def _members(hint: Any) -> list[Any]:
    """The types a hint may stand for: union members and tuple items, unwrapped."""
    hint, _ = _inner(hint)
    if isinstance(hint, type) and issubclass(hint, RootModel):
        return _members(hint.model_fields["root"].annotation)
    args = get_args(hint)
    if not args or hint is None:
        return [hint]
    return [m for a in args if a is not Ellipsis and a is not type(None) for m in _members(a)]


def spec_at(kind: Any, path: tuple[str | int, ...]) -> tuple[str, Spec | None]:
    """Label such as 'Power modes 1, Label power' and the Spec for a path into a type."""
    labels: list[str] = []
    hints, spec = _members(kind), None
    for step in path:
        if isinstance(step, int):
            if labels:
                labels[-1] = f"{labels[-1]} {step + 1}"
            continue
        tagged = [m for m in hints if step in (getattr(m, "kind", None), getattr(m, "op", None))]
        if tagged and len(hints) > 1:  # what tells members apart stands in the path once; a field may be called so too
            hints = tagged
            continue
        found = None
        for member in hints:
            if dataclasses.is_dataclass(member) or (isinstance(member, type) and issubclass(member, BaseModel)):
                names = get_type_hints(member, include_extras=True)
                if step in names:
                    found = names[step]
                    break
        if found is None:
            continue  # a field nobody knows
        hint, spec = _inner(found)
        labels.append(spec.label if spec else step.replace("_", " "))
        hints = _members(hint)
    return ", ".join(labels), spec


def _said(error: Any, label: str, spec: Spec | None) -> str:
    unit = f" {spec.unit}" if spec and spec.unit else ""
    given, ctx = error.get("input"), error.get("ctx", {})
    value = figure(given, 6) if isinstance(given, int | float) and not isinstance(given, bool) else f"“{given!s:.40}”"
    if isinstance(given, str) and error["type"] in ("greater_than_equal", "less_than_equal"):
        value = figure(float(given), 6)  # a number in an address comes as text
    where = label or "This"
    match error["type"]:
        case "greater_than_equal":
            return f"{where}: {value}{unit} is under the least allowed, {figure(ctx['ge'], 12)}{unit}."
        case "less_than_equal":
            return f"{where}: {value}{unit} is over the most allowed, {figure(ctx['le'], 12)}{unit}."
        case "finite_number":
            return f"{where}: it must be a finite number."
        case "missing":
            return f"{where} is missing." if label else f"“{error['loc'][-1]}” is missing."
        case "literal_error" | "union_tag_invalid":
            return f"{where}: {value} is not one of {ctx.get('expected') or ctx.get('expected_tags')}."
        case "string_pattern_mismatch" if spec and spec.wanted:
            return f"{where}: {value} does not go; {spec.wanted} are wanted."
        case "string_too_short":
            return f"{where}: it must not be empty."
        case "string_too_long":
            return f"{where}: at most {ctx['max_length']} characters, this has {len(str(given))}."
        case "too_short":
            return f"{where}: at least {ctx['min_length']} needed."
        case "too_long":
            return f"{where}: at most {ctx['max_length']} allowed."
        case "value_error":
            return str(ctx.get("error", error["msg"]))
        case "float_type" | "float_parsing" | "int_type" | "int_parsing":
            return f"{where}: {value} is not a number."
        case "json_invalid":
            return f"This is not complete JSON: {ctx.get('error', '')}."
        case _:
            return f"{where}: {error['msg']}."


def sentences(error: ValidationError, kind: Any) -> FormatError:
    """The refusal in words. A container that only failed because of its items is not mentioned itself."""
    details = error.errors(include_url=False)
    paths = {tuple(d["loc"]) for d in details}
    problems, fields = [], []
    for detail in details:
        path = tuple(detail["loc"])
        if detail["type"] == "too_short" and any(p[: len(path)] == path and len(p) > len(path) for p in paths):
            continue
        label, spec = spec_at(kind, path)
        said = _said(detail, label, spec)
        if said not in problems:
            problems.append(said)
            fields.append(path)
    return FormatError(problems, fields)
