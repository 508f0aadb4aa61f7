"""Leads: what they carry, and whether they fit."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.gear.base import CONNECTOR_NAMES, Socket
from low_tide.core.inventory import Lead
from low_tide.core.judging.checks.load import amp_of, harmed_when_open, is_open
from low_tide.core.judging.checks.moves import other_lead
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.power.joint_states import FLAT
from low_tide.core.power.shares import carried
from low_tide.core.power.speaker_network import node_of
from low_tide.core.power.worst_case import Among, Reached, Worst, turned, worst
from low_tide.core.rig.changes import Connect
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.validation import fits
from low_tide.core.units import figure, in_ohms, in_watts

FAMILY = "Leads"
HARMLESS_WATTS = 1.0


def worst_watts(case: Case, link: Link) -> float:
    """The most power (W) that goes through a screened lead flat out, whatever steps, knobs and switches stand at."""
    wholes = (whole for whole in case.reached if link.lead in whole.as_set.through)
    return max((most.value for whole in wholes if (most := most_through(whole, link.lead, turned))), default=0.0)


def most_through(whole: Reached, lead: str, among: Among) -> Worst | None:
    """The most power (W) through a lead flat out, over the states of `worst_case.worst`."""
    return worst(whole, lambda joint: joint.through[lead][:, FLAT], among)


@check(
    "screened-speaker-lead",
    FAMILY,
    "A screened lead carries speaker power; under 1 W it is only a note.",
    reads=("network", "seen", "reached"),
    may_stop=True,
)
def screened_speaker_lead(case: Case) -> Iterator[Finding]:
    plain = []
    for link in case.rig.hookup.links:
        lead = case.rig.conductor(link)
        speaker = any(case.rig.socket(end).level == "speaker" for end in link.ends())
        if not isinstance(lead, Lead) or not speaker:
            continue
        if lead.construction == "speaker":
            plain.append(link)
            continue
        node = case.network.find(node_of(link.a))
        feeding = [s for s in case.seen if node in case.network.connected(s.output.node)]
        # An amp that has to have a load has none yet: whatever is plugged in to mend that draws its power through here.
        open_now = [s.output.flat_power for s in feeding if is_open(s) and harmed_when_open(amp_of(case, s))]
        watts = max(open_now) if open_now else worst_watts(case, link)
        harmless = watts < HARMLESS_WATTS
        yield Finding(
            id="screened-speaker-lead",
            severity="note" if harmless else "stop",
            text=f"{lead.name} is a {lead.construction} lead at speaker level.",
            reason=f"It carries at most {in_watts(watts)}; that little does no harm."
            if harmless
            else f"Up to {in_watts(watts)} goes through a core made for a guitar's signal: too thin for the"
            " current, and its failure leaves the amp without a load.",
            units=tuple(e.unit for e in link.ends()),
            leads=(link.lead,),
            fixes=tuple(other_lead(case.rig, link, "speaker")),
        )
    if plain:
        names = ", ".join(case.rig.gear[k.lead].name for k in plain)
        yield Finding(
            id="screened-speaker-lead",
            severity="fine",
            text="Speaker leads are speaker leads.",
            reason=f"Two plain conductors: {names}.",
            leads=tuple(k.lead for k in plain),
        )


@check(
    "speaker-lead-as-signal",
    FAMILY,
    "An unscreened lead carries line, instrument or microphone level.",
    reads=("leads",),
)
def speaker_lead_as_signal(case: Case) -> Iterator[Finding]:
    for link in case.rig.hookup.links:
        lead = case.rig.conductor(link)
        if not isinstance(lead, Lead) or lead.construction != "speaker":
            continue
        if any(case.rig.socket(end).level == "speaker" for end in link.ends()):
            continue
        yield Finding(
            id="speaker-lead-as-signal",
            severity="caution",
            text=f"{lead.name} is a speaker lead on a signal path.",
            reason="It has no screen, so it picks up hum and radio.",
            units=tuple(e.unit for e in link.ends()),
            leads=(link.lead,),
            fixes=(
                *other_lead(case.rig, link, "balanced"),
                *other_lead(case.rig, link, "screened"),
            ),
        )


@check(
    "jack-does-not-fit",
    FAMILY,
    "A plug does not go into its socket.",
    reads=("leads",),
    may_stop=True,
)
def jack_does_not_fit(case: Case) -> Iterator[Finding]:
    for link in case.rig.hookup.links:
        lead = case.rig.conductor(link)
        a, b = case.rig.socket(link.a), case.rig.socket(link.b) if link.b else None
        if not isinstance(lead, Lead) or fits(lead, a, b):
            continue
        ends = " and ".join(
            f"{case.rig.label(e)} ({CONNECTOR_NAMES[case.rig.socket(e).connector]})" for e in link.ends()
        )
        yield Finding(
            id="jack-does-not-fit",
            severity="stop",
            text=f"The plugs of {lead.name} do not fit.",
            reason=f"It has {CONNECTOR_NAMES[lead.plug_a]} and {CONNECTOR_NAMES[lead.plug_b]} for"
            f" {ends}. {_adapter(a, b)}",
            units=tuple(e.unit for e in link.ends()),
            leads=(link.lead,),
            fixes=tuple(other_lead(case.rig, link, lead.construction)),
        )


def _adapter(a: Socket, b: Socket | None) -> str:
    """What joins two sockets: a lead by its plugs, or nothing, since none should exist."""
    if b is not None and a.level != b.level and "speaker" in (a.level, b.level):
        return "No adapter should exist between speaker level and anything else: do not make one."
    ends = " at one end and ".join(dict.fromkeys(CONNECTOR_NAMES[s.connector] for s in (a, b) if s))
    what = "speaker lead" if a.level == "speaker" else "lead"
    return f"A {what} with {ends} would join them; a loose adapter in a speaker line can fall out."


@check(
    "hard-wired-combo",
    FAMILY,
    "A combo's own speaker lead is soldered, or too short to reach another box.",
    reads=("leads",),
)
def hard_wired_combo(case: Case) -> Iterator[Finding]:
    for unit, cabinet in case.rig.cabinets():
        lead = cabinet.own_lead
        link = case.rig.link_at(End(unit, "in1")) if lead else None
        if not lead or not link or not link.b:
            continue
        far = link.a if link.b.unit == unit else link.b
        home = any(amp.inner_speaker == unit and u == far.unit for u, amp in case.rig.amps())
        if home or (not lead.soldered and lead.length >= 1.0):
            continue
        what = "is soldered to the amp" if lead.soldered else f"is only {figure(lead.length)} m long"
        yield Finding(
            id="hard-wired-combo",
            severity="caution",
            text=f"The lead of {cabinet.name} {what}.",
            reason=f"Here it would have to reach {case.rig.name(far.unit)}. Put that box right beside the combo, or"
            " have a technician fit a proper jack; do not open the amp.",
            units=(unit, far.unit),
            leads=(link.lead,),
        )


MOST_LOST = 0.05


def lost_share(case: Case, link: Link, resistance: float) -> float:
    """Part of the power into a lead that would heat it, if its loop resistance (Ω) were this one.

    The lead is in series with what it feeds: R/(R + Z), Z the rated impedance behind it.
    """
    through = carried(case.rig).get(link.lead)
    return resistance / (resistance + through.ohms) if through else 0.0


@check(
    "lead-loss",
    FAMILY,
    "Over 5 % of the power that goes through a speaker lead stays in it as heat.",
    reads=("leads", "speaker"),
)
def lead_loss(case: Case) -> Iterator[Finding]:
    for link in case.rig.speaker_links:
        lead = case.rig.conductor(link)
        if not isinstance(lead, Lead):
            continue
        lost = lost_share(case, link, lead.resistance())
        if lost <= MOST_LOST:
            continue
        better = (f for f in other_lead(case.rig, link, "speaker") if _loses_little(case, link, f))
        yield Finding(
            id="lead-loss",
            severity="caution",
            text=f"{figure(100 * lost, 2)} % of the power stays in {lead.name}.",
            reason=f"It has {in_ohms(lead.resistance())} there and back. A thicker or shorter lead loses less.",
            units=tuple(e.unit for e in link.ends()),
            leads=(link.lead,),
            fixes=tuple(better),
        )


def _loses_little(case: Case, link: Link, fix: Fix) -> bool:
    put_in = next(c.lead for c in fix.changes if isinstance(c, Connect))
    lead = case.rig.gear[put_in]
    return isinstance(lead, Lead) and lost_share(case, link, lead.resistance()) <= MOST_LOST


@check(
    "lead-choice",
    FAMILY,
    "A lead does not reach as far as its sockets stand apart, or has no angled plug where one is wanted.",
    reads=("leads",),
)
def lead_choice(case: Case) -> Iterator[Finding]:
    for link in case.rig.hookup.links:
        lead = case.rig.conductor(link)
        if not isinstance(lead, Lead) or link.b is None:
            continue
        short = link.reach is not None and lead.length < link.reach
        straight = link.tight and lead.angled == "none"
        if not short and not straight:
            continue
        between = f"{case.rig.label(link.a)} and {case.rig.label(link.b)}"
        yield Finding(
            id="lead-choice",
            severity="note",
            text=f"{lead.name} is too short: {figure(lead.length)} m for {figure(link.reach or 0)} m."
            if short
            else f"{lead.name} has straight plugs where an angled one is wanted.",
            reason=f"It would have to reach between {between}."
            if short
            else f"There is little room at {between}: a straight plug is bent or knocked out.",
            units=tuple(e.unit for e in link.ends()),
            leads=(link.lead,),
            fixes=tuple(other_lead(case.rig, link, lead.construction)),
        )
