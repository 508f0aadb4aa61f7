"""One name in the schema means one type: two would be written over each other without a word."""

from __future__ import annotations

import dataclasses
from collections import defaultdict
from collections.abc import Iterator
from typing import Any, get_args, get_type_hints

from pydantic import BaseModel

import low_tide.web.api  # noqa: F401 - registers every model
from low_tide.web.api.base import Model, Whole


def every_model(of: tuple[type[BaseModel], ...] = (Model, Whole)) -> Iterator[type[BaseModel]]:
    for each in of:
        for found in each.__subclasses__():
            yield found
            yield from every_model((found,))


def types_in(annotation: Any, seen: set[type]) -> None:
    """Every model and dataclass that an annotation leads to."""
    for each in get_args(annotation):
        types_in(each, seen)
    if not isinstance(annotation, type) or annotation in seen:
        return
    if issubclass(annotation, BaseModel):
        seen.add(annotation)
        for field in annotation.model_fields.values():
            types_in(field.annotation, seen)
    elif dataclasses.is_dataclass(annotation):
        seen.add(annotation)
        for hint in get_type_hints(annotation, include_extras=True).values():
            types_in(hint, seen)


def test_no_name_means_two_types() -> None:
    seen: set[type] = set()
    for model in every_model():
        types_in(model, seen)
    named = defaultdict(set)
    for each in seen:
        named[each.__name__].add(f"{each.__module__}.{each.__qualname__}")
    assert len(seen) > 200
    assert {name: found for name, found in named.items() if len(found) > 1} == {}
