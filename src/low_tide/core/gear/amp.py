"""Guitar amps."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal

from low_tide.core.circuit.amplifier import DAMPING_NAMES, DAMPING_PRESETS
from low_tide.core.circuit.attenuator import l_pad
from low_tide.core.circuit.network import GROUND, Element, Parts
from low_tide.core.gear import line_out as line_outs
from low_tide.core.gear.base import (
    ANSWER_NAMES,
    CONNECTOR_NAMES,
    STAGE,
    Answer,
    Connector,
    Control,
    Identity,
    Name,
    Notes,
    Ohms,
    Option,
    OwnPapers,
    Passive,
    Setting,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    identity,
    once,
)
from low_tide.core.gear.line_out import LineOut
from low_tide.core.spec import Spec
from low_tide.core.units import figure, from_db_power, in_watts, peak_of_dbu

INNER = ".inner"
"""What the node of a tap gets behind its name where the power stage drives it through a built-in attenuator."""

WARM_UP_TYPICAL_S, DARK_TYPICAL_S = 60.0, 60.0
"""How long valves usually warm on standby, and how long after mains off a head's speaker side is left alone, s."""

NOT_KNOWN = "?"
"""Position of a selector that nobody has read off, or that stands between two marks."""


@dataclass(frozen=True)
class Tap:
    """One output-transformer tap, or the output of a transistor amp, with its jacks."""

    impedance: Annotated[float, Spec("Tap", "Ω", 1, 64, typical=8, needed=True)] = 8.0
    jacks: Annotated[int, Spec("Jacks on this tap", "", 1, 4, neutral=True)] = 1
    permitted: Annotated[
        tuple[Ohms, ...], Spec("Loads the maker permits", le=8, help="Empty: the maker gives no list.")
    ] = ()


@dataclass(frozen=True)
class PowerMode:
    """A position of the power switch: its label power, and what it makes the output stage want.

    `technician`: valves are pulled for it, so it is no switch, and nothing to rely on before one has `confirmed` it.
    """

    name: Annotated[str, Spec("Mode", ge=1, le=40)] = "full"
    power: Annotated[float, Spec("Label power", "W", 0.05, 2000, typical=50, needed=True)] = 50.0
    load_factor: Annotated[
        float,
        Spec("Wanted load ×", "", 0.5, 4, help="1 as marked; 2 where half the valves are pulled.", neutral=True),
    ] = 1.0
    attenuation: Annotated[
        float,
        Spec(
            "Built-in attenuator",
            "dB",
            0,
            40,
            help="Between the power stage and the speaker jacks.",
            neutral=True,
        ),
    ] = 0.0
    label_counts: Annotated[
        Literal["after", "before"],
        Spec(
            "Label power counts",
            names={
                "after": "at the speaker jack",
                "before": "at the power stage",
            },
            help="After the built-in attenuator, as panels say, or before it.",
        ),
    ] = "after"
    technician: Annotated[bool, Spec("A technician must confirm it")] = False
    confirmed: Annotated[bool, Spec("A technician has confirmed it")] = False

    def stage_power(self) -> float:
        """Label power (W) of the power stage itself, before a built-in attenuator."""
        return self.power * (from_db_power(self.attenuation) if self.label_counts == "after" else 1.0)

    def jack_power(self) -> float:
        """Label power (W) at the speaker jack into the tap's own load."""
        return self.stage_power() * from_db_power(-self.attenuation)


@dataclass(frozen=True)
class Loop:
    """An effects loop: how it is wired, what it sends, and what its return stands."""

    wiring: Annotated[
        Literal["series", "parallel"],
        Spec(
            "Loop is wired",
            names={
                "series": "in series: all of the signal goes through it",
                "parallel": "in parallel: the loop is mixed in",
            },
        ),
    ] = "series"
    send_dbu: Annotated[float | None, Spec("Send, at its peaks", "dBu", -40, 24, typical=0)] = None
    return_max: Annotated[float | None, Spec("Return stands", "dBu", -40, 28, typical=6)] = None


@dataclass(frozen=True)
class Amp(Passive):
    """A guitar amp, head or combo. A combo's own speaker is a cabinet with its own lead."""

    id: Identity
    name: Name
    kind: Literal["amp"] = "amp"
    notes: Notes = ""
    typical: TypicalNames = ()
    technology: Annotated[
        Literal["valve", "transistor", "transformerless", "hybrid"],
        Spec(
            "Power stage",
            names={
                "valve": "valve (tube)",
                "transistor": "transistor",
                "transformerless": "valve, transformerless",
                "hybrid": "hybrid, no output transformer",
            },
            needed=True,
        ),
    ] = "valve"
    form: Annotated[Literal["head", "combo"], Spec("Form")] = "head"
    inner_speaker: Annotated[str, identity("Combo's own speaker (a cabinet)", "|")] = ""
    modes: Annotated[tuple[PowerMode, ...], Spec("Power modes", ge=1, le=8, needed=True)] = (PowerMode(),)
    taps: Annotated[tuple[Tap, ...], Spec("Taps", ge=1, le=6, needed=True)] = (Tap(),)
    tap_choice: Annotated[
        Literal["selector", "sockets"],
        Spec("Tap is chosen", names={"selector": "by a selector", "sockets": "by its own jack"}),
    ] = "selector"
    connector: Annotated[Connector, Spec("Speaker jacks", names=CONNECTOR_NAMES)] = "jack"
    jack_wiring: Annotated[
        Literal["parallel", "switching", "unknown"],
        Spec(
            "Jacks of a tap are",
            names={
                "parallel": "in parallel",
                "switching": "the second cuts the first off",
                "unknown": "not known",
            },
            needed=True,
        ),
    ] = "unknown"
    empty_shorts: Annotated[bool, Spec("First jack shorts itself when empty")] = False
    floating: Annotated[
        Answer,
        Spec("Speaker output is bridged or floating", names=ANSWER_NAMES, help="Then its sleeve must not meet earth."),
    ] = "no"
    several_taps: Annotated[bool, Spec("Maker allows two taps at once")] = False
    minimum_load: Annotated[
        float | None, Spec("Minimum load", "Ω", 0.5, 64, help="For amps without output transformer.", needed=True)
    ] = None
    feedback: Annotated[
        Literal["none", "moderate", "strong", "transistor", "current"],
        Spec(
            "Feedback",
            names=DAMPING_NAMES,
            help="Gives the typical damping factor where none was measured.",
        ),
    ] = "moderate"
    damping_factor: Annotated[
        float | None,
        Spec("Damping factor, measured", "", 0.02, 2000, help="Empty: typical for its feedback."),
    ] = None
    crank: Annotated[float, Spec("Flat out gives label ×", "", 1, 2.5, typical=1.5)] = 1.5
    safe_without_load: Annotated[Answer, Spec("Safe without a load", names=ANSWER_NAMES)] = "unknown"
    mains_earth: Annotated[Answer, Spec("Has mains earth", names=ANSWER_NAMES, needed=True)] = "unknown"
    loop: Annotated[Loop | None, Spec("Effects loop")] = None
    warm_up: Annotated[
        float | None, Spec("Warms on standby for", "s", 0, 1800, help="Empty: a minute, usual for valves.")
    ] = None
    dark: Annotated[
        float | None,
        Spec(
            "After mains off, leave its speaker side alone for", "s", 0, 1800, help="Empty: a minute, usual for valves."
        ),
    ] = None
    master: Annotated[bool, Spec("Master volume")] = True
    own_tails: Annotated[bool, Spec("Own reverb or delay")] = False
    noise_under_label: Annotated[
        float, Spec("Own noise, under its label", "dB", 20, 120, typical=60, help="At the speaker jack, turned up.")
    ] = 60.0
    line_out: Annotated[LineOut | None, Spec("Own line out")] = None
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = field(default=False)

    def __post_init__(self) -> None:
        # As they stand on a panel, in whatever order they were typed.
        object.__setattr__(self, "taps", tuple(sorted(self.taps, key=lambda t: t.impedance)))
        if len({f"{t.impedance:g}" for t in self.taps}) < len(self.taps):
            raise ValueError("Taps: two of them have the same impedance; give one tap more jacks instead.")
        if len({m.name for m in self.modes}) < len(self.modes):
            raise ValueError("Power modes: two of them have the same name.")

    def tap_sockets(self) -> tuple[tuple[Tap, str, tuple[str, ...]], ...]:
        """Each tap with its node and the ids of its jacks; under a selector all share one node."""
        if self.tap_choice == "selector":
            jacks = tuple(f"out{i + 1}" for i in range(max(t.jacks for t in self.taps)))
            return tuple((tap, "out", jacks) for tap in self.taps)
        return tuple(
            (tap, f"tap{tap.impedance:g}", tuple(f"tap{tap.impedance:g}.{i + 1}" for i in range(tap.jacks)))
            for tap in self.taps
        )

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found: dict[str, Socket] = {}
        for tap, _, jacks in self.tap_sockets():
            for i, jack in enumerate(jacks):
                marked = "speaker" if self.tap_choice == "selector" else f"{tap.impedance:g} Ω"
                label = (
                    (f"{marked} {i + 1}" if marked == "speaker" else f"{marked} ({i + 1})")
                    if len(jacks) > 1
                    else marked
                )
                found[jack] = Socket(jack, label, "out", "speaker", self.connector, speaker_rated=True)
        front = [Socket("input", "input", "in", "instrument", "jack", ohms=1e6)]
        if self.loop:
            front.append(Socket("return", "return", "in", "line", "jack", ohms=50e3, max_dbu=self.loop.return_max))
            front.append(Socket("send", "send", "out", "line", "jack", ohms=600))
        line = (self.line_out.socket(),) if self.line_out else ()
        return (*front, *found.values(), *line)

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        if self.tap_choice == "selector" and len(self.taps) > 1:
            options = tuple(Option(f"{t.impedance:g}", f"{t.impedance:g}") for t in self.taps)
            default = "8" if "8" in {o.value for o in options} else options[-1].value
            options = (*options, Option(NOT_KNOWN, "?"))
            found.append(
                Control("tap", "Tap", "choice", default, options, unit="Ω", safe_live=False, affects="speaker")
            )
        if len(self.modes) > 1:
            options = tuple(Option(m.name, f"{m.name}, {in_watts(m.power)}") for m in self.modes)
            found.append(
                Control(
                    "mode",
                    "Power",
                    "choice",
                    self.modes[0].name,
                    options,
                    safe_live=False,
                    hand="switched",
                    affects="speaker",
                )
            )
        found.append(Control("flat_out", "Run flat out", "switch", False, affects="speaker"))
        if self.master:
            found.append(Control("master_down", "Master turned down", "switch", False, folded=True))
        if self.own_tails:
            found.append(Control("tails", "Reverb", "switch", False, role="tails"))
            found.append(Control("on_purpose", "Tails before the drive on purpose", "switch", False, folded=True))
        return (*found, *(self.line_out.controls() if self.line_out else ()))

    def reach(self, control: Control) -> tuple[Setting, ...]:
        # What a technician has to pull valves for is no position of a switch.
        if control.id == "mode":
            return tuple(m.name for m in self.modes if not m.technician)
        return control.positions()

    def is_source_of_voltage(self) -> bool:
        """Whether it holds its voltage whatever hangs on it: a transistor output stage, no output transformer."""
        return self.technology in ("transistor", "hybrid")

    def flat_out_factor(self) -> float:
        """What it gives flat out over its label: overdrive is a matter of valves."""
        return 1.0 if self.is_source_of_voltage() else self.crank

    def mode(self, settings: Mapping[str, Setting]) -> PowerMode:
        """The power mode it stands in."""
        return next((m for m in self.modes if m.name == settings.get("mode")), self.modes[0])

    def damping(self) -> float:
        """The measured damping factor, or the typical one for this kind of feedback."""
        return self.damping_factor or DAMPING_PRESETS[self.feedback]

    def in_use(self, site: Site) -> tuple[tuple[Tap, str, tuple[str, ...]], ...]:
        """Taps in use: the selected one, or every tap whose own jack holds a plug (the first if none does)."""
        taps = self.tap_sockets()
        if self.tap_choice == "selector":
            chosen = str(site.settings.get("tap", ""))
            return tuple(t for t in taps if f"{t[0].impedance:g}" == chosen) or taps[:1]
        return tuple(t for t in taps if site.plugged & set(t[2])) or taps[:1]

    def cut_off(self, site: Site) -> tuple[str, ...]:
        """Jacks that a plug in the second jack of their tap has cut off."""
        if self.jack_wiring != "switching":
            return ()
        return tuple({js[0]: None for _, _, js in self.tap_sockets() if set(js[1:]) & site.plugged})

    def shorted(self, site: Site) -> tuple[str, ...]:
        """First jacks that short their tap, being empty while another jack of it is used."""
        if not self.empty_shorts:
            return ()
        return tuple(
            {js[0]: None for _, _, js in self.in_use(site) if js[0] not in site.plugged and set(js) & site.plugged}
        )

    def stage_node(self, site: Site, node: str) -> str:
        """The node the power stage drives: the tap's own, or the near side of a built-in attenuator."""
        return f"{node}{INNER}" if self.mode(site.settings).attenuation > 0 else node

    def parts(self, site: Site) -> Parts:
        cut = self.cut_off(site)
        joints = [
            (site.node(node), site.node(jack))
            for _, node, jacks in self.tap_sockets()
            for jack in jacks
            if jack not in cut
        ]
        joints += [(site.node(jack), GROUND) for jack in self.shorted(site)]
        return Parts(self._built_in(site), tuple(dict.fromkeys(joints)))

    def _built_in(self, site: Site) -> tuple[Element, ...]:
        down = self.mode(site.settings).attenuation
        if down <= 0:
            return ()
        found = []
        for tap, node, _ in self.in_use(site):
            series, shunt = l_pad(down, tap.impedance)
            found.append(site.resistor("series arm", f"{node}{INNER}", node, series))
            found.append(site.resistor("shunt arm", node, GROUND, shunt))
        return tuple(found)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        tails = f"the reverb of {self.name}" if site.settings.get("tails") else ""
        down = "the master" if site.settings.get("master_down") else ""
        looped = self.loop is not None and "return" in site.plugged
        found = []
        if self.loop:
            found.append(Transfer("input", "send", None))
            found.append(Transfer("return", STAGE, None, tails=tails, control="tails", down=down))
        if not looped or (self.loop and self.loop.wiring == "parallel"):
            found.append(Transfer("input", STAGE, None, tails=tails, control="tails", down=down))
        origin = "input" if self.line_out and self.line_out.origin == "preamp" else STAGE
        return (*found, *line_outs.of(self.line_out, origin, site))

    def emits(self, site: Site) -> Mapping[str, float]:
        sent = self.loop.send_dbu if self.loop else None
        return {} if sent is None else {"send": peak_of_dbu(sent)}

    def assumptions(self) -> tuple[str, ...]:
        found = []
        if self.flat_out_factor() > 1:
            found.append(f"{self.name}: flat out taken as {figure(self.crank)} × the label")
        if self.damping_factor is None:
            found.append(f"{self.name}: damping factor typical ({figure(self.damping())}), not measured")
        return tuple(found)

    def summary(self) -> str:
        watts = figure(self.modes[0].power)
        return f"{'valve' if self.technology == 'valve' else self.technology} {self.form}, {watts} W"
