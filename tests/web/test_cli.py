"""The command: exit codes, what it prints, and what it says of files it cannot read."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from low_tide.cli import main
from low_tide.demo.hookups import HOOKUPS
from tests.serving import command


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
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch, filled: Path
) -> None:
    folder = shutil.copytree(filled, tmp_path / "home")
    monkeypatch.setenv("LOW_TIDE_HOME", str(folder))
    assert main(["backup", str(tmp_path / "kept.zip")]) == 0
    assert main(["restore", str(tmp_path / "kept.zip")]) == 0
    assert "What was there before" in capsys.readouterr().out
    assert main(["restore", str(tmp_path / "nowhere.zip")]) == 1
    assert "Nothing was changed" in capsys.readouterr().err


def test_a_port_that_is_none(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("LOW_TIDE_PORT", "eight")
    with pytest.raises(SystemExit, match="LOW_TIDE_PORT"):
        main(["serve"])


@pytest.mark.parametrize("port", ["eight", "²", "٨", "-1", "65536", "80800000", " ", "8 0"])
def test_a_port_that_is_no_number_is_said(tmp_path: Path, port: str) -> None:
    code = command("serve", said=tmp_path / "said", LOW_TIDE_HOME=str(tmp_path), LOW_TIDE_PORT=port)
    assert (code, (tmp_path / "said").read_text()) == (1, f"LOW_TIDE_PORT: “{port}” is not a port from 0 to 65535.\n")


def garbage(folder: Path) -> None:
    (folder / "low-tide.db").write_bytes(b"no database" * 1000)


def a_file(folder: Path) -> None:
    folder.rmdir()
    folder.write_text("a file")


def gone(folder: Path) -> None:
    (folder / "audio").mkdir()
    (folder / "audio" / f"{'0' * 64}.wav").write_bytes(b"RIFF")


def pointing_nowhere(folder: Path) -> None:
    (folder / "current").write_text("data-0123456789abcdef")


@pytest.mark.parametrize(
    ("made", "does", "says"),
    [
        (garbage, "serve", "cannot be read (file is not a database); restore a backup."),
        (a_file, "serve", "cannot be used: File exists."),
        (gone, "serve", "The database is gone from"),
        (pointing_nowhere, "serve", "names no data that is there; restore a backup."),
        (gone, "backup", "No backup was written. There is no database in"),
        (garbage, "backup", "No backup was written. The database cannot be read. Restore a backup."),
        (gone, "restore", "Nothing was changed. "),
    ],
)
def test_a_data_folder_that_cannot_be_used_is_said_in_a_sentence(
    tmp_path: Path, made: Callable[[Path], None], does: str, says: str
) -> None:
    folder = tmp_path / "home"
    folder.mkdir()
    made(folder)
    args = [does] if does == "serve" else [does, str(tmp_path / "kept.zip")]
    assert command(*args, said=tmp_path / "said", LOW_TIDE_HOME=str(folder), LOW_TIDE_PORT="0") == 1
    said = (tmp_path / "said").read_text()
    assert says in said
    assert len(said.splitlines()) == 1
    assert not (tmp_path / "kept.zip").exists()


def test_a_backup_writes_over_nothing_but_a_backup(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], filled: Path
) -> None:
    monkeypatch.setenv("LOW_TIDE_HOME", str(shutil.copytree(filled, tmp_path / "home")))
    (tmp_path / "thesis.txt").write_text("years of work")
    assert main(["backup", str(tmp_path / "thesis.txt")]) == 1
    assert "is no backup" in capsys.readouterr().err
    assert (tmp_path / "thesis.txt").read_text() == "years of work"
    for _ in range(2):
        assert main(["backup", str(tmp_path / "kept.zip")]) == 0


def in_full(*args: str, home: Path, stdout: Any = subprocess.PIPE) -> tuple[int, str]:
    """Exit code and what a command says on its error output, started as a person starts it."""
    env = {**os.environ, "LOW_TIDE_HOME": str(home), "LOW_TIDE_PORT": "0"}
    whole = [sys.executable, "-m", "low_tide.cli", *args]
    run = subprocess.run(whole, env=env, stdout=stdout, stderr=subprocess.PIPE, timeout=60)
    return run.returncode, run.stderr.decode()


def test_output_that_cannot_be_written_is_said(tmp_path: Path) -> None:
    with Path("/dev/full").open("wb") as full:
        code, said = in_full("example", "split-fog", home=tmp_path, stdout=full)
    assert (code, said) == (1, "The disk that holds the data is full. Make room on it, then try again.\n")
    listed = [sys.executable, "-m", "low_tide.cli", "example", "split-fog"]
    with subprocess.Popen(listed, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as run:
        assert run.stdout
        assert run.stderr
        run.stdout.close()  # whoever reads has had enough
        assert run.stderr.read() == b""


def test_a_file_without_end_is_told_and_not_read(tmp_path: Path) -> None:
    code, said = in_full("check", "/dev/zero", home=tmp_path)
    assert code == 64
    assert "a hook-up file has at most 8 MiB" in said
