"""Names of files, as recorders and people write them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.formats.file_names import LONGEST, named_in, take_name


@pytest.mark.parametrize(
    ("file_name", "take"),
    [
        ("fog_theme-take 03.wav", "fog theme"),
        ("Fog Theme_12.aiff", "Fog Theme"),
        ("C:\\takes\\Foghorn swell TK2.flac", "Foghorn swell"),
        ("over/there/lantern.wav", "lantern"),
        ("1967.wav", "1967"),
        ("mistake.wav", "mistake"),
        ("AC30.wav", "AC30"),
        (".wav", "take"),
        ("", "take"),
    ],
)
def test_a_take_is_called_by_what_its_file_is_called(file_name: str, take: str) -> None:
    assert take_name(file_name) == take


@given(st.text(max_size=400))
def test_a_take_has_a_name_whatever_its_file_is_called(file_name: str) -> None:
    assert 0 < len(take_name(file_name)) <= LONGEST


def test_the_longest_name_that_is_in_the_files_is_meant() -> None:
    hookups = [(1, "Fog"), (2, "Fog theme, driven"), (3, "Fog theme"), (4, "A")]
    assert named_in("2026-11-26 fog_theme_DRIVEN 2.wav", hookups) == 2
    assert named_in("fogtheme.wav", hookups) == 3
    assert named_in("a.wav", hookups) is None
    assert named_in("Fête de la mer.wav", [(1, "fete")]) == 1
    assert named_in("lantern.wav", hookups) is None
    assert named_in("lantern.wav", []) is None
