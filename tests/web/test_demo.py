"""The lightship: what it must hold, and that it is served by the command."""

from __future__ import annotations

import io
import json
import os
import re
import subprocess
import sys
import urllib.request
from collections import Counter
from itertools import pairwise

import numpy as np
import pytest
import soundfile

from low_tide.core.inventory import Amp, Attenuator, Lead, Load
from low_tide.core.judging.judge import judge
from low_tide.core.rig.validation import checked
from low_tide.demo.fill import TAKES_IN_ALL
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.demo.sound import RATE, Recipe, encoded, pluck, take


def test_the_gear_is_all_there() -> None:
    count = Counter(u.kind for u in GEAR.values())
    least = {"amp": 4, "load": 3, "attenuator": 2, "tap_box": 2, "cabinet": 4, "lead": 8, "interface": 2}
    assert all(count[kind] >= n for kind, n in least.items())
    amps = [u for u in GEAR.values() if isinstance(u, Amp)]
    assert {a.form for a in amps} == {"head", "combo"}
    assert any(a.technology == "transistor" for a in amps)
    assert any(len(a.modes) > 1 for a in amps)
    assert any(isinstance(u, Load) and u.through == "switching" and u.behaviour == "reactive" for u in GEAR.values())
    steps = [u.steps for u in GEAR.values() if isinstance(u, Attenuator) and u.steps]
    assert any(min(b - a for a, b in pairwise(s)) >= 8 for s in steps)
    looks = [u for u in GEAR.values() if isinstance(u, Lead) and u.construction == "screened" and u.plug_a == "jack"]
    assert len(looks) >= 2


def test_verdicts_of_the_hookups() -> None:
    found = Counter(judge(checked(h, GEAR)).verdict.words for h in HOOKUPS.values())
    assert found["Clear to switch on"] >= 2
    assert found["Check first"] >= 2
    assert found["Do not switch on"] >= 2


@pytest.mark.parametrize("frequency", [82.4, 196.0])
def test_a_plucked_string_sounds_at_its_pitch(frequency: float) -> None:
    string = pluck(frequency, 2.0, np.random.default_rng(3))
    spectrum = np.abs(np.fft.rfft(string * np.hanning(len(string))))
    near = spectrum[int(frequency * 2 * 0.9) : int(frequency * 2 * 1.1)]
    assert int(frequency * 2 * 0.9) + near.argmax() == pytest.approx(frequency * 2, abs=4)


def test_takes_reach_their_peak_and_decode() -> None:
    samples = take(Recipe((110.0, 146.8), 12, -9.0), seed=1)
    for kind in ("WAV", "FLAC", "AIFF"):
        back, rate = soundfile.read(io.BytesIO(encoded(samples, kind)))
        assert rate == RATE
        assert 20 * np.log10(np.abs(back).max()) == pytest.approx(-9.0, abs=0.02)


def test_the_demo_is_served_in_a_throwaway_folder() -> None:
    env = {**os.environ, "LOW_TIDE_PORT": "0", "LOW_TIDE_HOME": "/nonexistent"}
    args = [sys.executable, "-m", "low_tide.cli", "demo"]
    process = subprocess.Popen(args, env=env, stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout
        found = re.search(r"http://[\d.]+:\d+/", process.stdout.readline())
        assert found
        about = json.load(urllib.request.urlopen(f"{found.group(0)}api/about"))
        assert about["demo"] is True
        takes = json.load(urllib.request.urlopen(f"{found.group(0)}api/takes"))
        assert takes["total"] == TAKES_IN_ALL
    finally:
        process.terminate()
        process.wait()
