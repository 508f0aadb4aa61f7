"""Markdown (CommonMark, with tables): run sheets, kit lists and session sheets to print or to keep beside the work."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

_MARKS = re.compile(r"([\\`*_{}\[\]<>#|~])")
_BEGINS_A_LIST = re.compile(r"^(\d*)([-+.)])(\s)")
"""What may be escaped is the mark, never the number before it."""


def plain(text: str) -> str:
    """Text of somebody's as it was typed, on one line: nothing in it is taken for Markdown."""
    one_line = " ".join(text.split())
    return _BEGINS_A_LIST.sub(r"\1\\\2\3", _MARKS.sub(r"\\\1", one_line))


def heading(level: int, text: str) -> str:
    """A heading of a level from 1."""
    return f"{'#' * level} {plain(text)}\n"


def ticked(done: bool, text: str, beneath: str = "") -> str:
    """A line to tick, with what belongs to it indented beneath."""
    line = f"- [{'x' if done else ' '}] {plain(text)}\n"
    return line + (f"  {plain(beneath)}\n" if beneath else "")


def document(title: str, about: Iterable[str], parts: Iterable[tuple[str, Iterable[str]]]) -> Iterator[str]:
    """A title, paragraphs, and parts of lines under headings of their own; parts without lines are left out."""
    yield heading(1, title)
    for paragraph in about:
        yield f"\n{plain(paragraph)}\n"
    for name, lines in parts:
        there = list(lines)
        if there:
            yield f"\n{heading(2, name)}\n"
            yield from there


def table(heads: Sequence[str], lines: Iterable[Sequence[str]]) -> Iterator[str]:
    """A table: what its columns are called, and its lines."""
    yield _cells(heads)
    yield "|" + " --- |" * len(heads) + "\n"
    yield from (_cells(line) for line in lines)


def _cells(line: Sequence[str]) -> str:
    return "| " + " | ".join(plain(cell) for cell in line) + " |\n"
