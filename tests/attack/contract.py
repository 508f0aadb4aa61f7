"""The OpenAPI document held against the server: everything it allows is sent, and something it does not."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import hypothesis
import schemathesis
from hypothesis import HealthCheck, Phase, settings
from schemathesis.specs.openapi.checks import positive_data_acceptance

from tests.written import WRITTEN

FILES = ("audio/wav", "audio/flac", "audio/aiff", "application/octet-stream", "text/csv")
ELSEWHERE = ("/api/live/stream", "/api/lightship")
"""Without an end, or long on the way: tests/web/test_on_the_network.py and tests/web/test_first.py read them."""
PATIENCE_S = 60
"""What an answer says is held against the document, not how long it takes."""


@schemathesis.serializer(*FILES)
def as_bytes(_: Any, value: Any) -> bytes:
    """A body that is a file: whatever comes, as bytes."""
    return value if isinstance(value, bytes) else repr(value).encode("utf-8", "replace")


def failures(url: str, examples: int, seed: int = 0) -> Iterator[tuple[str, str]]:
    """Operation and what was wrong with an answer, over so many requests to each operation of a running server.

    A request within the schema may be refused: what goes together is more than a schema says.
    """
    schema = schemathesis.openapi.from_dict(WRITTEN)
    schema.config.update(base_url=url)
    for found in schema.get_all_operations():
        operation = found.ok()
        if operation.path in ELSEWHERE:
            continue
        yield from ((operation.label, said) for said in _untrue(operation, examples, seed))


def _untrue(operation: Any, examples: int, seed: int) -> list[str]:
    told: dict[str, str] = {}

    @hypothesis.seed(seed)
    @settings(
        max_examples=examples,
        deadline=None,
        database=None,
        suppress_health_check=list(HealthCheck),
        phases=[Phase.generate],
    )
    @hypothesis.given(case=operation.as_strategy())
    def ask(case: Any) -> None:
        try:
            case.call_and_validate(excluded_checks=[positive_data_acceptance], timeout=PATIENCE_S)
        except BaseExceptionGroup as group:
            for each in group.exceptions:
                told.setdefault(type(each).__name__, f"{type(each).__name__}: {each}; {case.as_curl_command()}")

    ask()
    return list(told.values())


def operations() -> int:
    """How many operations the document has."""
    return sum(method in item for item in WRITTEN["paths"].values() for method in ("get", "post", "put", "delete"))
