"""The command: exit codes, what it prints, and what it says of files it cannot read."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from low_tide.cli import main
from low_tide.demo.fill import fill
from low_tide.demo.hookups import HOOKUPS
from low_tide.store.files import open_home
from low_tide.store.models import database


def example(name: str, folder: Path, capsys: pytest.CaptureFixture[str]) -> str:
    assert main(["example", name]) == 0
    path = folder / f"{name}.json"
    path.write_text(capsys.readouterr().out, encoding="utf-8")
    return str(path)


@pytest.mark.parametrize(("name", "code"), [("silent-night", 0), ("tap-on-lead", 1), ("split-fog", 2)])
def test_check_exits_with_the_verdict(name: str, code: int, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = example(name, tmp_path, capsys)
    assert main(["check", file]) == code
    text = capsys.readouterr().out
    assert text.startswith(("Clear to switch on", "Check first", "Do not switch on"))
    assert main(["check", file, "--json"]) == code
    assert json.loads(capsys.readouterr().out)["verdict"]["words"] == text.split("  (")[0]


def test_the_text_names_fixes_and_estimates(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    main(["check", example("split-fog", tmp_path, capsys)])
    text = capsys.readouterr().out
    assert "STOP    Godwit 45 sees 4 Ω on its 8 Ω tap." in text
    assert "→ Set the tap to 4 Ω" in text
    assert "damping factor typical (0.6), not measured" in text


def test_export(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = example("quiet-hold", tmp_path, capsys)
    target = tmp_path / "result.json"
    assert main(["export", file, "--to", "json", "-o", str(target)]) == 0
    assert len(json.loads(target.read_text(encoding="utf-8"))["curves"][0]["real"]) == 481
    assert main(["export", file, "--to", "csv"]) == 0
    assert capsys.readouterr().out.startswith("section,unit,quantity,value")
    assert main(["export", file, "--to", "csv", "-o", str(tmp_path / "no" / "where.csv")]) == 1


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (None, "No such file"),
        ("{", "Not readable as JSON"),
        ('{"format": "low-tide/hookup", "version": 9}', "version 9"),
    ],
)
def test_unreadable_files_exit_64(
    content: str | None, says: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "x.json"
    if content is not None:
        file.write_text(content)
    assert main(["check", str(file)]) == 64
    assert says in capsys.readouterr().err


def test_examples_are_listed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["example", "--list"]) == 0
    assert len(capsys.readouterr().out.splitlines()) == len(HOOKUPS)
    assert main(["example", "nowhere"]) == 64


def test_backup_and_restore(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "home"
    monkeypatch.setenv("LOW_TIDE_HOME", str(folder))
    fill(open_home(folder))
    database.close()
    assert main(["backup", str(tmp_path / "kept.zip")]) == 0
    assert main(["restore", str(tmp_path / "kept.zip")]) == 0
    assert "What was there before" in capsys.readouterr().out
    assert main(["restore", str(tmp_path / "nowhere.zip")]) == 1
    assert "Nothing was changed" in capsys.readouterr().err


def test_a_port_that_is_none(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("LOW_TIDE_PORT", "eight")
    with pytest.raises(SystemExit, match="LOW_TIDE_PORT"):
        main(["serve"])
