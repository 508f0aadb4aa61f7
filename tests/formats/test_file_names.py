"""Names of files, as recorders and people write them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.formats.file_names import LONGEST, file_name, named_in, numbered_in, on_any_disk, take_name


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


LISTED = [(1, "01-dry-track-into-groyne-r8.wav"), (2, "02-dry-track-into-turnstone-2x12.wav"), (3, "12-open-back.wav")]


def test_what_a_listed_recording_is_to_be_called() -> None:
    assert file_name(1, "Dry track into Groyne R8") == "01-dry-track-into-groyne-r8.wav"
    assert file_name(12, "Été, «à bord» / 2×12") == "12-ete-a-bord-2-12.wav"
    assert file_name(3, "潮") == "03-take.wav"


@given(st.integers(1, 16), st.text(max_size=200))
def test_every_such_name_is_one_that_disks_take_and_that_is_found_again(number: int, name: str) -> None:
    made = file_name(number, name)
    assert made.isascii()
    assert not set(made) & set('<>:"/\\|?*\0')
    assert len(made) <= 70
    assert numbered_in(made, [(number, made)]) == number


@pytest.mark.parametrize(
    ("came", "meant"),
    [
        ("01-dry-track-into-groyne-r8.wav", 1),
        ("Mix_01-dry-track-into-groyne-r8 (2).wav", 1),
        ("2.wav", 2),
        ("12 bounce.flac", 3),
        ("/home/x/2026/take 2.wav", 2),
        ("2026-11-27 nothing.wav", None),
        ("nothing.wav", None),
        ("3.wav", None),
    ],
)
def test_which_of_a_list_a_file_is(came: str, meant: int | None) -> None:
    assert numbered_in(came, LISTED) == meant


@given(name=st.text(max_size=80), most=st.integers(1, 60))
def test_a_name_on_any_disk_is_no_path_and_ends_in_no_dot(name: str, most: int) -> None:
    made = on_any_disk(name, most)
    assert not set(made) & set('<>:"/\\|?*\n\0')
    assert len(made) <= most
    assert made == made.strip(" .")
