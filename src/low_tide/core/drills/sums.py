"""Numbers to be worked out in the head: what is given, what is asked, and the core's own answer, step by step."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import log10
from random import Random
from typing import TypeAlias

from low_tide.core.acoustics.exposure import LISTENING, NO_ALLOWANCE_DBA, allowed_hours
from low_tide.core.circuit.cable import loop_resistance
from low_tide.core.gear.interface import Input
from low_tide.core.inventory import Amp, Cabinet, Interface, Lead, Load, Unit
from low_tide.core.preferences import LISTENING_NAMES, Preferences
from low_tide.core.rig.rig import GearById
from low_tide.core.units import db, figure, in_ohms, in_watts, level_figure, parallel, volts

WITHIN_DB = 0.5
WITHIN_PART = 0.1
"""How near an answer from the head has to be: half a decibel, or a tenth of it."""


@dataclass(frozen=True)
class Given:
    """One thing that is known, with its unit."""

    name: str
    value: str


@dataclass(frozen=True)
class Sum:
    """A number that is asked for. `within`: how far an answer may lie from `value`, in its unit. `steps`: how it is
    worked out."""

    ask: str
    given: tuple[Given, ...]
    unit: str
    value: float
    within: float
    steps: tuple[str, ...]

    def is_right(self, answer: float) -> bool:
        """Whether a number is near enough; the edge counts."""
        return abs(answer - self.value) <= self.within * (1 + 1e-9)


Make: TypeAlias = Callable[[GearById, Preferences, int, Random], Sum]


@dataclass(frozen=True)
class Number:
    """A kind of number: what it is called, the rule, the section of the physics, and the formula as a hint."""

    id: str
    name: str
    rule: str
    page: str
    hint: str
    make: Make


NUMBERS: dict[str, Number] = {}


def number(id: str, name: str, rule: str, page: str, hint: str) -> Callable[[Make], Make]:
    """Register a kind of number under its id. A second one of an id raises ValueError."""

    def register(make: Make) -> Make:
        if id in NUMBERS:
            raise ValueError(f"number {id} is registered twice")
        NUMBERS[id] = Number(id, name, rule, page, hint, make)
        return make

    return register


def _part_of(value: float) -> float:
    return abs(value) * WITHIN_PART


def _name(unit: Unit, *fields: str) -> str:
    """Its name, marked where one of the fields that count is typical and not known."""
    return f"{unit.name} (typical)" if set(fields) & set(unit.typical) else unit.name


def _boxes(gear: GearById) -> list[tuple[str, float]]:
    """Cabinets and loads by name and ohms; usual ones where none are owned."""
    there = [g for g in gear.values() if not g.archived]
    found = [(_name(g, "Rated impedance"), g.nominal()) for g in there if isinstance(g, Cabinet)]
    found += [(_name(g, "Impedance"), g.impedances[0]) for g in there if isinstance(g, Load)]
    usual = [("a cabinet", 4.0), ("a cabinet", 8.0), ("a cabinet", 16.0), ("a load", 8.0), ("a load", 16.0)]
    return found if len(found) >= 3 else found + usual


def _watts(gear: GearById, lots: Random) -> tuple[str, float]:
    amps = [g for g in gear.values() if isinstance(g, Amp) and not g.archived]
    if not amps:
        return "An amp", float(lots.choice((18, 30, 45, 50, 100)))
    amp = lots.choice(amps)
    return _name(amp, "Label power"), max(mode.jack_power() for mode in amp.modes)


@number(
    "ohms-in-parallel",
    "Ohms in parallel",
    "Side by side, ohms make less than the least of them; equal ones share by their number.",
    "two-networks",
    "1/R = 1/R₁ + 1/R₂; of two it is their product over their sum.",
)
def ohms_in_parallel(gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """Two or three boxes on jacks of one tap."""
    boxes = _boxes(gear)
    lots.shuffle(boxes)
    # Those of the same ohms come first at the first level: each is told with the ohms it has.
    alike = sorted(boxes, key=lambda box: box[1] != boxes[0][1]) if level == 1 else boxes
    chosen = alike[: 2 if level < 3 else 3]
    ohms = [z for _, z in chosen]
    value = parallel(*ohms)
    inverses = " + ".join(f"1/{figure(z)}" for z in ohms)
    return Sum(
        "All of them on parallel jacks of one tap: what does the amp see?",
        tuple(Given(name, in_ohms(z)) for name, z in chosen),
        "Ω",
        value,
        _part_of(value),
        (f"{inverses} = {figure(sum(1 / z for z in ohms))} S", f"the inverse of that: {in_ohms(value)}"),
    )


@number(
    "ohms-in-series",
    "Ohms in series",
    "One after the other, ohms add up; two equal chains side by side are one chain again.",
    "two-networks",
    "Add up each chain, then put the chains side by side: equal ones share by their number.",
)
def ohms_in_series(_gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """Drivers of a cabinet in one chain, or in two side by side."""
    each = lots.choice((4.0, 6.0, 8.0, 15.0, 16.0))
    chains, length = (1, 2) if level == 1 else (2, 2) if level == 2 else (lots.choice((2, 3)), lots.choice((2, 3)))
    chain = each * length
    value = parallel(*(chain,) * chains)
    steps = [f"one chain: {length} × {in_ohms(each)} = {in_ohms(chain)}"]
    if chains > 1:
        steps.append(f"{chains} equal chains side by side: {in_ohms(chain)} / {chains} = {in_ohms(value)}")
    wired = f"{length} in series" if chains == 1 else f"{chains} chains in parallel, {length} in series in each"
    given = (Given("Drivers", f"{chains * length} of {in_ohms(each)}"), Given("Wired", wired))
    return Sum("What is the cabinet?", given, "Ω", value, _part_of(value), tuple(steps))


@number(
    "watts-from-volts",
    "Watts from volts",
    "Watts are volts squared over ohms: half the volts are a quarter of the watts.",
    "the-amp",
    "P = V²/R.",
)
def watts_from_volts(gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """What a meter shows at the plug, and the ohms it is across."""
    name, most = _watts(gear, lots)
    ohms = lots.choice((8.0,) if level == 1 else (4.0, 8.0, 16.0))
    power = most * (1.0 if level == 1 else lots.choice((1.0, 0.5, 0.25, 0.1)))
    shown = round(volts(power, ohms), 0 if level == 1 else 1) or 1.0
    value = shown**2 / ohms
    return Sum(
        f"How much power does {name} give?",
        (Given("Across the load", f"{figure(shown)} V RMS"), Given("The load", in_ohms(ohms))),
        "W",
        value,
        _part_of(value),
        (f"{figure(shown)}² = {figure(shown**2)}", f"{figure(shown**2)} / {figure(ohms)} = {in_watts(value)}"),
    )


@number(
    "decibels-of-watts",
    "Decibels for watts",
    "Ten times the watts are 10 dB, twice are 3 dB: half the power is far from half as loud.",
    "power-and-margin",
    "10 × log₁₀ of the ratio: 2 is 3 dB, 10 is 10 dB, and factors add up.",
)
def decibels_of_watts(gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """From the watts of an amp to fewer."""
    name, most = _watts(gear, lots)
    ratio = lots.choice((2, 10, 4) if level == 1 else (20, 40, 5, 8, 100) if level == 2 else (3, 15, 30, 64, 250, 1000))
    value = -db(ratio)
    left = most / ratio
    return Sum(
        "By how many dB does the power change? Down is negative.",
        (Given(f"{name} gives", in_watts(most)), Given("To be left", in_watts(left))),
        "dB",
        value,
        WITHIN_DB,
        (
            f"{in_watts(most)} over {in_watts(left)} is {figure(ratio)}",
            f"10 × log₁₀ {figure(ratio)} = {figure(db(ratio))} dB, downwards: {level_figure(value)} dB",
        ),
    )


@number(
    "line-to-full-scale",
    "dBu to dBFS",
    "At the converter counts what arrives, less what full scale takes, plus the gain before it.",
    "up-to-the-converter",
    "dBFS = dBu − full scale in dBu + gain − pad.",
)
def line_to_full_scale(gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """What a line comes to at an input of an interface."""
    inputs = [
        (f"{_name(g, 'Full scale at least gain')}, {each.name}", each)
        for g in gear.values()
        if isinstance(g, Interface) and not g.archived
        for each in g.inputs
    ]
    name, at = lots.choice(inputs) if inputs else ("An input", Input())
    arrives = float(lots.randint(-10, 8))
    gain = 0.0 if level == 1 else float(lots.randint(0, int(min(20.0, at.most_gain - at.least_gain))))
    pad = at.pad if level == 3 and at.pad else 0.0
    value = arrives - at.max_level + gain - pad
    given = [
        Given("The loudest sine on the line", f"{level_figure(arrives)} dBu"),
        Given(f"Full scale of {name}", f"{level_figure(at.max_level)} dBu at least gain"),
    ]
    given += [Given("Gain, over the least", f"{figure(gain)} dB")] if gain else []
    given += [Given("Pad", f"{figure(pad)} dB")] if pad else []
    said = f"{level_figure(arrives)} − {figure(at.max_level)}"
    said += f" + {figure(gain)}" if gain else ""
    said += f" − {figure(pad)}" if pad else ""
    steps = (f"{said} = {level_figure(value)} dBFS",)
    return Sum("Where does it peak?", tuple(given), "dBFS", value, WITHIN_DB, steps)


@number(
    "lead-loss",
    "What a lead takes",
    "A lead takes its own ohms' part of all ohms: long, thin and low-ohm together make heat of it.",
    "speakers-loads-pads",
    "Its ohms over its ohms and the load's together. There and back counts.",
)
def lead_loss(gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """Part of the power that stays in a speaker lead."""
    leads = [
        g for g in gear.values() if isinstance(g, Lead) and g.construction == "speaker" and g.gauge and not g.archived
    ]
    owned = lots.choice(leads) if leads else Lead("", "A speaker lead", construction="speaker", gauge=18)
    length = owned.length if level == 1 else float(lots.choice((6, 10, 15, 20, 30)))
    gauge = owned.gauge or 18
    ohms = lots.choice((4.0, 8.0, 16.0))
    lead, name = round(loop_resistance(length, gauge), 3), _name(owned, "Conductor")
    value = 100 * lead / (lead + ohms)
    return Sum(
        "Which part of the power stays in the lead, in percent?",
        (
            Given(f"{name}, at {figure(length)} m, there and back with its plugs", f"{figure(lead * 1000)} mΩ"),
            Given("Behind it", in_ohms(ohms)),
        ),
        "%",
        value,
        _part_of(value),
        (
            f"{figure(lead)} Ω + {figure(ohms)} Ω = {figure(lead + ohms, 4)} Ω",
            f"{figure(lead)} / {figure(lead + ohms, 4)} = {figure(value)} %",
        ),
    )


@number(
    "hours-one-may-listen",
    "Hours one may listen",
    "Every few decibels more halve the time: three by the strict schools, five by the legal limit.",
    "ears",
    "From the school's level and hours on: halve the hours once for every exchange rate the level is over it.",
)
def hours_one_may_listen(_gear: GearById, preferences: Preferences, level: int, lots: Random) -> Sum:
    """Time within the allowance of the chosen school, in a day or a week as it counts."""
    school = preferences.listening
    rule = LISTENING[school]
    most = int((NO_ALLOWANCE_DBA - rule.level) // rule.exchange)
    steps_up = lots.randint(1, min(3, most)) if level == 1 else lots.randint(1, min(6, most))
    off = 0 if level < 3 else -1 if steps_up == most else lots.choice((-1, 1))
    at = rule.level + steps_up * rule.exchange + off
    value = allowed_hours(at, school)
    unit, factor = ("h", 1.0) if value >= 1 else ("min", 60.0)
    halvings = (at - rule.level) / rule.exchange
    per = "a week" if rule.days > 1 else "a day"
    return Sum(
        f"How long may one listen {per}?",
        (Given("At the ears", f"{figure(at)} dBA"), Given("School", LISTENING_NAMES[school])),
        unit,
        value * factor,
        _part_of(value * factor),
        (
            f"{figure(at)} − {figure(rule.level)} = {figure(at - rule.level)} dB,"
            f" which is {figure(halvings)} × {figure(rule.exchange)} dB",
            f"{figure(rule.hours)} h halved {figure(halvings)} times = {figure(value * factor)} {unit}",
        ),
    )


@number(
    "attenuation-for-a-level",
    "Attenuation for a level",
    "What a speaker makes of a watt, plus the watts in dB, less the way: what is over the wish is to be taken off.",
    "in-the-room",
    "Level = dB of one watt at one metre + 10 log₁₀ W − 20 log₁₀ m; twice the way is 6 dB.",
)
def attenuation_for_a_level(gear: GearById, _: Preferences, level: int, lots: Random) -> Sum:
    """How far to turn down between amp and cabinet, in the open."""
    name, most = _watts(gear, lots)
    watts = 10.0 if level == 1 else most
    makes = float(lots.choice((96, 97, 98, 99, 100)))
    metres = 1.0 if level == 1 else lots.choice((2.0, 4.0)) if level == 2 else lots.choice((3.0, 5.0, 8.0))
    there = makes + db(watts) - 20 * log10(metres)
    wish = float(round(there) - lots.choice((6, 10, 12, 18, 20, 24)))
    value = there - wish
    given = (
        Given(f"{name} gives" if level > 1 else "The amp gives", in_watts(watts)),
        Given("The cabinet makes", f"{figure(makes)} dB of 1 W at 1 m"),
        Given("Heard in the open, at", f"{figure(metres)} m"),
        Given("Wished for", f"{figure(wish)} dB"),
    )
    steps = (
        f"{figure(makes)} + 10 × log₁₀ {figure(watts)} = {figure(makes + db(watts), 4)} dB at 1 m",
        f"less 20 × log₁₀ {figure(metres)} = {figure(20 * log10(metres))} dB for the way: {figure(there, 4)} dB",
        f"{figure(there, 4)} − {figure(wish)} = {figure(value)} dB to take off",
    )
    return Sum("How many dB are to be taken off before the speaker?", given, "dB", value, WITHIN_DB, steps)
