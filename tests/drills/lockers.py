"""Lockers made by lot: what somebody may own, with ratings, ohms and sockets of every kind."""

from __future__ import annotations

from functools import cache
from random import Random

from low_tide.core.drills.bases import Stock, stock
from low_tide.core.gear.amp import Amp, Loop, PowerMode, Tap
from low_tide.core.gear.attenuator import Attenuator
from low_tide.core.gear.cabinet import Cabinet, Driver
from low_tide.core.gear.guitar import Guitar
from low_tide.core.gear.interface import Input, Interface
from low_tide.core.gear.lead import Lead
from low_tide.core.gear.line_out import LineOut
from low_tide.core.gear.load import Load
from low_tide.core.gear.microphone import Microphone
from low_tide.core.gear.pedal import Pedal
from low_tide.core.gear.tap_box import TapBox
from low_tide.core.inventory import Unit
from low_tide.core.preferences import Preferences
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS


def _amp(lots: Random, n: int) -> Amp:
    watts = float(lots.choice((6, 17, 28, 42, 55, 90)))
    modes = (PowerMode("full", watts), PowerMode("low", watts / 5))[: lots.choice((1, 2))]
    taps = tuple(Tap(z, lots.choice((1, 2))) for z in sorted(lots.sample((4.0, 8.0, 16.0), lots.randint(1, 3))))
    how = lots.choice(("selector", "sockets"))
    loop = Loop() if lots.random() < 0.5 else None
    return Amp(f"amp-{n}", f"Head {n}", modes=modes, taps=taps, tap_choice=how, loop=loop)  # type: ignore[arg-type]


def _line(lots: Random) -> LineOut:
    return LineOut(
        ratio_db=float(lots.choice((-30, -26, -20))),
        filter=lots.choice(("none", "switchable")),
        earth_lift=lots.random() < 0.5,
        connector=lots.choice(("trs", "xlr")),
    )


def locker(seed: int) -> dict[str, Unit]:
    """Gear by id, the same for the same seed."""
    lots = Random(seed)
    made: list[Unit] = [Guitar("guitar", "Guitar"), Microphone("mic", "Microphone")]
    made += [_amp(lots, n) for n in range(3)]
    for n in range(3):
        line, watts = _line(lots), float(lots.choice((50, 100, 200)))
        through = lots.choice(("none", "parallel", "switching"))
        load = Load(f"load-{n}", f"Load {n}", impedances=(8.0,), rating=watts, through=through, line_out=line)  # type: ignore[arg-type]
        made.append(load)
    for n, ohms in enumerate((8.0, 16.0)):
        watts = float(lots.choice((60, 120)))
        made.append(Attenuator(f"attenuator-{n}", f"Attenuator {n}", impedance=ohms, rating=watts, bypass=n == 0))
    for n in range(4):
        driver = Driver(lots.choice((4.0, 8.0, 16.0)), float(lots.choice((30, 60, 100))), 97.0)
        made.append(Cabinet(f"cabinet-{n}", f"Cabinet {n}", drivers=(driver,), jacks=lots.choice((1, 2))))
    made.append(TapBox("tap", "Tap box", load_ohms=33.0, load_watts=3.0, line_out=_line(lots)))
    made += [Pedal("drive", "Drive"), Pedal("echo", "Echo", does="tails")]
    inputs = tuple(
        Input(f"in {n}", level="microphone" if n < 2 else "line", phantom=n < 2, pad=20.0 if n == 0 else None)
        for n in range(4)
    )
    made.append(Interface("desk", "Desk", inputs=inputs))
    for n in range(7):
        made.append(Lead(f"speaker-{n}", f"Speaker lead {n}", construction="speaker", length=1.0 + n, gauge=16))
    for n in range(5):
        screen = "one" if n == 4 else "both"
        made.append(Lead(f"screened-{n}", f"Screened lead {n}", construction="screened", length=2.0 + n, screen=screen))  # type: ignore[arg-type]
    for n in range(6):
        plug = ("trs", "xlr")[n % 2]
        lead = Lead(
            f"balanced-{n}", f"Balanced lead {n}", construction="balanced", length=3.0, plug_a=plug, plug_b=plug
        )  # type: ignore[arg-type]
        made.append(lead)
    return {unit.id: unit for unit in made}


SEEDS = (11, 12, 13)


@cache
def stocks() -> tuple[Stock, ...]:
    """The lightship, and three lockers made by lot."""
    made = (stock(locker(seed), {}, Preferences()) for seed in SEEDS)
    return (stock(GEAR, HOOKUPS, Preferences()), *made)
