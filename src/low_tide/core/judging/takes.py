"""What a take says: rules over its inspection, each with its places in the sound and advice from its own hook-up."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from math import inf
from typing import Any, TypeAlias

from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.inspection import Inspection
from low_tide.core.audio.speaker_sound import SpeakerSound, if_rolled_off
from low_tide.core.judging.checks.earth import lift_fixes
from low_tide.core.judging.checks.level import level_fixes, limiter_fixes
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.checks.speaker_sound import OnTheWay, speakers_on_the_way
from low_tide.core.judging.findings import RANK, Finding, Severity
from low_tide.core.judging.judge import judge, worsened
from low_tide.core.preferences import Preferences
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.gain_staging import as_it_stands
from low_tide.core.signal_path.levels import WINDOW_DBFS, LinePoint
from low_tide.core.units import figure, level_figure

MOST_FIXES = 2
NEAR_PREDICTION_DB, FAR_FROM_PREDICTION_DB = 3.0, 6.0
HUM_FAR_UNDER_DB = 60.0
"""Hum so far under the loud of a take is not heard when it is played; a note."""
LEAST_QUIET_S = 0.5
"""So much of a quiet part is wanted to tell a noise floor by."""
MOST_OF_IT_DB = 3.0
ABOUT_DB = 6.0
"""Noise that is so near to what was computed is what was computed: the amp's own is typical, not measured."""
THIN_DB = 40.0
"""A noise floor that is no further under the loud of a take is heard in every pause."""
DC_NOTE_DBFS, DC_CAUTION_DBFS = -50.0, -35.0
LONG_SILENCE_S = 5.0
LEVEL_CHECKS = ("converter-clips", "converter-low", "noise-lift")
"""What these say rests on the predicted level; for a take there is the measured one."""


@dataclass(frozen=True)
class Beside:
    """A recording of the same performance that a take was held against; `inverted`: one is the other way round."""

    name: str
    inverted: bool


@dataclass(frozen=True)
class Heard:
    """A take's inspection, the hook-up it was made with, its input there (None where that is not known), and recordings
    of the same performance, a direct track say."""

    inspection: Inspection
    case: Case
    point: LinePoint | None
    beside: tuple[Beside, ...] = ()

    @property
    def measured(self) -> LinePoint | None:
        """The input with the level that was measured in place of the predicted one."""
        peak = self.inspection.measures.peak_dbfs
        return None if self.point is None or peak is None else replace(self.point, dbfs=peak)


@dataclass(frozen=True)
class TakeFinding:
    """What a take says, and where in the sound that is heard."""

    finding: Finding
    at: tuple[SoundPart, ...] = ()


Rule: TypeAlias = Callable[[Heard], Iterator[TakeFinding]]


@dataclass(frozen=True)
class TakeRule:
    """One rule: its id, what makes it speak in one sentence, and the function."""

    id: str
    when: str
    run: Rule


TAKE_RULES: dict[str, TakeRule] = {}


def rule(id: str, when: str) -> Callable[[Rule], Rule]:
    """Register a rule under its id; a second one of an id raises ValueError."""

    def register(run: Rule) -> Rule:
        if id in TAKE_RULES:
            raise ValueError(f"rule {id} is registered twice")
        run.__doc__ = run.__doc__ or when
        TAKE_RULES[id] = TakeRule(id, when, run)
        return run

    return register


def input_of(points: tuple[LinePoint, ...], wanted: str) -> LinePoint | None:
    """The input a take was recorded at (the end's name); where nobody said, the one that is expected loudest."""
    if wanted:
        return next((p for p in points if p.input.name == wanted), None)
    return max(points, key=lambda p: -inf if p.dbfs is None else p.dbfs, default=None)


def what_a_take_says(
    inspection: Inspection,
    rig: Rig,
    recorded_at: str = "",
    preferences: Preferences | None = None,
    beside: tuple[Beside, ...] = (),
) -> tuple[TakeFinding, ...]:
    """Every finding of every rule, worst first. Fixes that would make the hook-up worse are left out."""
    case = Case(rig, preferences or Preferences())
    heard = Heard(inspection, case, input_of(case.line_points, recorded_at), beside)
    found = [each for one in TAKE_RULES.values() for each in one.run(heard)]
    judged = judge(rig, case.preferences) if any(f.finding.fixes for f in found) else None

    def harmless(each: TakeFinding) -> TakeFinding:
        fixes = each.finding.fixes if judged else ()
        kept = tuple(f for f in fixes if judged and worsened(f.changes, judged, LEVEL_CHECKS) == ())[:MOST_FIXES]
        return replace(each, finding=replace(each.finding, fixes=kept, fix=next(iter(kept), None)))

    return tuple(sorted(map(harmless, found), key=lambda f: -RANK[f.finding.severity]))


def _about(heard: Heard) -> dict[str, Any]:
    """Units and leads of the way the take came."""
    point = heard.point
    if point is None:
        return {}
    return {"units": (point.source.unit, *point.through, point.input.unit), "leads": (point.lead,)}


def _db(value: float) -> str:
    return level_figure(value).replace("+", "")


@rule("take-silent", "Nothing is in the take.")
def take_silent(heard: Heard) -> Iterator[TakeFinding]:
    measures = heard.inspection.measures
    if measures.peak_dbfs is None:
        reason = "Every sample is zero. The track was not armed, or the wrong input was recorded."
    elif heard.inspection.loud_dbfs is None:
        reason = (
            f"Its peaks reach {_db(measures.peak_dbfs)} dBFS, which is no more than noise. Look for a lead that is out,"
            " or a level that is down."
        )
    else:
        return
    yield TakeFinding(
        Finding(
            id="take-silent",
            severity="caution",
            text="There is nothing to hear in this take.",
            reason=reason,
            **_about(heard),
        )
    )


@rule("take-clips", "Tops of waves are cut off: at full scale by the converter, below it by a limiter or a pedal.")
def take_clips(heard: Heard) -> Iterator[TakeFinding]:
    for by in ("converter", "limiter"):
        clips = [c for c in heard.inspection.clips if c.by == by]
        if not clips:
            continue
        count, level = sum(c.runs for c in clips), max(c.dbfs for c in clips)
        often = "once" if count == 1 else "twice" if count == 2 else f"{count:,} times"
        if by == "converter":
            text = f"Clipped {often}, at full scale."
            reason = "The converter ran out of level. What was above it is gone; record it again with less."
            fixes = tuple(level_fixes(heard.case, heard.measured)) if heard.measured else ()
        else:
            text = f"Flat tops {often}, at {_db(level)} dBFS."
            reason = "Below full scale: a limiter, a pedal or a preamp, not the converter."
            fixes = tuple(limiter_fixes(heard.case, heard.measured)) if heard.measured else ()
            if fixes:
                reason += " Less line level and as much more gain keeps the peak and takes the flat tops away."
        yield TakeFinding(
            Finding(
                id="take-clips", severity="caution", text=text, reason=reason, fixes=fixes, which=by, **_about(heard)
            ),
            tuple(SoundPart(c.start, c.stop) for c in clips),
        )


@rule("take-level", "Its peaks lie outside the window from −18 to −6 dBFS.")
def take_level(heard: Heard) -> Iterator[TakeFinding]:
    peak = heard.inspection.measures.peak_dbfs
    if peak is None or heard.inspection.loud_dbfs is None:
        return
    low, high = WINDOW_DBFS
    said = f"Peaks at {_db(peak)} dBFS"
    fixes = tuple(level_fixes(heard.case, heard.measured)) if heard.measured else ()
    about = _about(heard)
    severity: Severity = "caution"
    if peak < low:
        text = f"{said}, {figure(low - peak, 2)} dB under the window."
        reason = "What is lifted afterwards brings its noise along."
    elif peak > high:
        if any(c.by == "converter" for c in heard.inspection.clips):
            return  # said already, and worse
        text = f"{said}, {figure(peak - high, 2)} dB over the window."
        reason = "The next harder stroke may clip; aim for −12 dBFS."
    else:
        text, severity, fixes = f"{said}.", "fine", ()
        reason = "That lies in the window from −18 to −6 dBFS."
    yield TakeFinding(Finding(id="take-level", severity=severity, text=text, reason=reason, fixes=fixes, **about))


@rule("level-off-prediction", "Its peaks are more than 3 dB from what the hook-up was to bring.")
def level_off_prediction(heard: Heard) -> Iterator[TakeFinding]:
    peak, point = heard.inspection.measures.peak_dbfs, heard.point
    if peak is None or point is None or point.dbfs is None or heard.inspection.loud_dbfs is None:
        return
    off = peak - point.dbfs
    if abs(off) <= NEAR_PREDICTION_DB or any(c.by == "converter" for c in heard.inspection.clips):
        return
    far = abs(off) > FAR_FROM_PREDICTION_DB
    way = "over" if off > 0 else "under"
    yield TakeFinding(
        Finding(
            id="level-off-prediction",
            severity="caution" if far else "note",
            text=f"Peaks {figure(abs(off), 2)} dB {way} the prediction.",
            reason=f"About {_db(point.dbfs)} dBFS was expected at {heard.case.rig.label(point.input)}. "
            + (
                "Is a control not where the hook-up has it, the amp at another volume, or another guitar played?"
                if far
                else "How hard the amp is played accounts for so much."
            ),
            **_about(heard),
        )
    )


@rule("take-hum", "Mains hum stands out of the noise where nothing is played.")
def take_hum(heard: Heard) -> Iterator[TakeFinding]:
    inspection = heard.inspection
    hum = inspection.hum
    if inspection.measures.peak_dbfs is None:
        return
    if hum is None:
        if inspection.hum_why:
            yield TakeFinding(
                Finding(
                    id="take-hum",
                    severity="note",
                    text="Whether it hums cannot be told.",
                    reason=f"{inspection.hum_why[:1].upper()}{inspection.hum_why[1:]}. Leave two seconds before the"
                    " first note, the guitar's volume down.",
                )
            )
        else:
            yield TakeFinding(
                Finding(id="take-hum", severity="fine", text="No hum.", reason="No line of the mains stands out."),
                inspection.quiet,
            )
        return
    loud = inspection.loud_dbfs
    faint = loud is not None and hum.total_dbfs < loud - HUM_FAR_UNDER_DB
    kind = "with a buzz on top" if hum.buzz else "without buzz"
    yield TakeFinding(
        Finding(
            id="take-hum",
            severity="note" if faint else "caution",
            text=f"Hum at {hum.line * hum.nominal_hz} Hz, {_db(hum.dbfs)} dBFS, {kind}.",
            reason=f"All its lines together come to {_db(hum.total_dbfs)} dBFS"
            + (f", {figure(loud - hum.total_dbfs, 2)} dB under the loud parts. " if loud is not None else ". ")
            + (
                "A buzz comes by the screens or from a supply nearby; mains earth stays connected, always."
                if hum.buzz
                else "A hum that is pure comes by a transformer's field or an earth loop; mains earth stays connected."
            ),
            fixes=tuple(lift_fixes(heard.case, heard.point.input)) if heard.point else (),
            **_about(heard),
        ),
        inspection.quiet,
    )


@rule("take-noise", "The noise floor is less than 40 dB under the loud parts.")
def take_noise(heard: Heard) -> Iterator[TakeFinding]:
    noise, loud = heard.inspection.noise, heard.inspection.loud_dbfs
    if noise is None or loud is None:
        return
    if sum(part.stop - part.start for part in heard.inspection.quiet) < LEAST_QUIET_S:
        yield TakeFinding(
            Finding(
                id="take-noise",
                severity="note",
                text="Its noise cannot be told.",
                reason="It is played from end to end. Leave two seconds before the first note.",
            )
        )
        return
    under = loud - noise.dbfs
    chain = _chain_noise(heard)
    beside = "" if chain is None else _beside(noise.dbfs, chain)
    weighted = "" if noise.a_weighted_dbfs is None else f", {_db(noise.a_weighted_dbfs)} dBFS A-weighted"
    hum = heard.inspection.hum
    hums = hum is not None and hum.total_dbfs > noise.dbfs - MOST_OF_IT_DB
    thin = under < THIN_DB and not hums
    if hums:
        beside = " Most of it is the hum."
    yield TakeFinding(
        Finding(
            id="take-noise",
            severity="caution" if thin else "note" if under < THIN_DB else "fine",
            text=f"Noise {_db(noise.dbfs)} dBFS, {figure(under, 2)} dB under the loud parts.",
            reason=f"The level a tenth of the take stays under{weighted}.{beside}"
            + (
                " A gate helps after the recording, not before it: what it cuts off does not come back." if thin else ""
            ),
            **(_about(heard) if thin else {}),
        ),
        heard.inspection.quiet,
    )


def _chain_noise(heard: Heard) -> float | None:
    """RMS (dBFS) of what the line makes by itself, as it was set."""
    found = None if heard.point is None else as_it_stands(heard.case.rig, heard.point).noise
    # Computed levels are those of a sine with such a peak, measured ones the RMS of samples.
    return None if found is None else found - 3.01


def _beside(measured: float, chain: float) -> str:
    more = measured - chain
    if more > ABOUT_DB:
        return f" {figure(more, 2)} dB more than the line makes by itself (about {_db(chain)})."
    return f" About what the line makes by itself ({_db(chain)})." if more > -ABOUT_DB else ""


@rule("speaker-contradicts", "The sound has a speaker in it where the hook-up has none, or the other way about.")
def speaker_contradicts(heard: Heard) -> Iterator[TakeFinding]:
    expected = None if heard.point is None else speakers_on_the_way(heard.case, heard.point.input)
    if expected is None or heard.inspection.loud_dbfs is None:
        return
    told = if_rolled_off(heard.inspection.speaker) if expected.rolled_off else heard.inspection.speaker
    severity, text, reason = _of_speakers(expected, told)
    slope = "" if told.slope_db is None else f" From 3 to 11 kHz it falls by {figure(told.slope_db, 2)} dB."
    yield TakeFinding(
        Finding(id="speaker-contradicts", severity=severity, text=text, reason=reason + slope, **_about(heard))
    )


def _of_speakers(expected: OnTheWay, told: SpeakerSound) -> tuple[Severity, str, str]:
    """Severity, text and reason of what the sound and the hook-up say of speakers."""
    before = expected.before
    said = {0: "no speaker", 1: "one speaker"}.get(before, f"{before} speakers")
    if told.speakers == "cannot tell":
        return (
            "note",
            "Whether a speaker is in it cannot be told by the sound.",
            f"{told.why[:1].upper()}{told.why[1:]}. The hook-up says {said}.",
        )
    heard = {"none": 0, "one": 1, "two": 2}[told.speakers]
    if heard == before == 0:
        give = "The IR on its track gives it one." if expected.on_track else "Bare it is harsh: give it one afterwards."
        return "fine", "No speaker in it, as the hook-up says.", give
    if heard == before == 1:
        return "fine", "One speaker in it, as the hook-up says.", "That is all it needs."
    if heard and before > 1:
        return "caution", "More than one speaker in it, as the hook-up says.", "In series they are dull; take one off."
    if heard == 2 and before == 1:
        why = "Some are as dark as that; else a cab filter is on that the hook-up does not know of."
        return "note", "Steep enough for two speakers in series, where the hook-up has one.", why
    if heard == 1 and expected.on_track:
        why = "The IR on its track seems to be in the file already: a second one would be too much."
        return "note", "One speaker in it.", why
    return (
        "caution",
        f"The take has {('no speaker', 'a speaker', 'more than one speaker')[heard]} in it; the hook-up says {said}.",
        "A cab filter or an IR is on that the hook-up does not know of, or it was recorded at another input."
        if heard
        else "What should do a speaker's work is off, or it was recorded at another input.",
    )


@rule("take-dc", "It has a constant offset.")
def take_dc(heard: Heard) -> Iterator[TakeFinding]:
    dc = heard.inspection.dc_dbfs
    if dc is None or dc < DC_NOTE_DBFS or heard.inspection.measures.peak_dbfs is None:
        return
    yield TakeFinding(
        Finding(
            id="take-dc",
            severity="caution" if dc >= DC_CAUTION_DBFS else "note",
            text=f"A constant offset of {_db(dc)} dBFS.",
            reason="It takes headroom, and every cut in the sound clicks. Cut off what is under 20 Hz; if every take"
            " has it, the converter wants a look.",
        )
    )


@rule("take-channels", "One of two channels is empty, or both hold the same.")
def take_channels(heard: Heard) -> Iterator[TakeFinding]:
    words = {
        "same": ("Both channels hold the same.", "It is a mono take in a stereo file: half of it is enough."),
        "left only": ("The right channel is empty.", "One input of a pair, or a lead that is not stereo."),
        "right only": ("The left channel is empty.", "One input of a pair, or a lead that is not stereo."),
    }
    said = words.get(heard.inspection.channels)
    if said and heard.inspection.measures.peak_dbfs is not None:
        yield TakeFinding(Finding(id="take-channels", severity="note", text=said[0], reason=said[1]))


@rule("take-turned", "It is the other way round than a recording of the same performance that Compare held it against.")
def take_turned(heard: Heard) -> Iterator[TakeFinding]:
    for other in heard.beside:
        if other.inverted:
            yield TakeFinding(
                Finding(
                    id="take-turned",
                    severity="note",
                    text=f"The other way round than “{other.name}”.",
                    reason="Of one performance, mixed so, they take the lows from each other. Turn one of them.",
                    which=other.name,
                )
            )


@rule("take-silence", "Nothing is played for more than 5 s at its head or its tail.")
def take_silence(heard: Heard) -> Iterator[TakeFinding]:
    silence, seconds = heard.inspection.silence, heard.inspection.measures.seconds
    if heard.inspection.loud_dbfs is None:
        return
    long = [
        (where, length, at)
        for where, length, at in (
            ("at the head", silence.head, SoundPart(0.0, silence.head)),
            ("at the tail", silence.tail, SoundPart(seconds - silence.tail, seconds)),
        )
        if length > LONG_SILENCE_S
    ]
    if long:
        yield TakeFinding(
            Finding(
                id="take-silence",
                severity="note",
                text=f"Nothing is played for {' and '.join(f'{figure(n, 2)} s {where}' for where, n, _ in long)}.",
                reason="It can be trimmed; two seconds of it are worth keeping, to tell hum and noise by.",
            ),
            tuple(at for _, _, at in long),
        )


def recorded_inputs(rig: Rig) -> tuple[LinePoint, ...]:
    """Inputs a take of this hook-up may have been recorded at."""
    return Case(rig, Preferences()).line_points
