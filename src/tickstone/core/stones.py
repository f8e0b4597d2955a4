"""The stones: what is done, and does it still hold. Pure rules, one function per stage."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum

from tickstone.core.air import cramer
from tickstone.core.air.conditions import AirConditions
from tickstone.core.families.catalogue import Family
from tickstone.core.uncertainty import expanded

AIR_CHANGE_LIMIT_C = 5.0
"""A calibration made in air warmer or colder by more than this wants another look."""
CALIBRATION_INTERVAL = timedelta(days=180)
FEWEST_SAMPLES_HEARD = 20
SMALLEST_GOOD_SHARE = 0.8


class WorkStage(StrEnum):
    """The five stages of the work, in their order."""

    WIRED = "wired"
    HEARD = "heard"
    CALIBRATED = "calibrated"
    TUNED = "tuned"
    DRIVEN = "driven"


class StoneState(StrEnum):
    """Where a stage of the work stands for one sensor. ABSENT: the family has no such stage."""

    HOLLOW = "hollow"
    TICKED = "ticked"
    STALE = "stale"
    FAILING = "failing"
    ABSENT = "absent"


@dataclass(frozen=True, slots=True)
class Stone:
    """One cell of the table. short: a few words for the cell. reason: one sentence."""

    stage: WorkStage
    state: StoneState
    short: str
    reason: str


@dataclass(frozen=True, slots=True)
class SignOffFacts:
    """Somebody looked, and said whether it is right."""

    at: datetime
    is_right: bool
    note: str = ""


@dataclass(frozen=True, slots=True)
class RecordingFacts:
    """The newest recording of a sensor. rate_hz: readings per second. statuses: count by status."""

    name: str
    at: datetime
    samples: int
    good: int
    no_echo: int
    rate_hz: float


@dataclass(frozen=True, slots=True)
class CalibrationFacts:
    """The calibration in use. grounds: the chain parameters it rests on, by name."""

    identity: str
    at: datetime
    air: AirConditions
    grounds: Mapping[str, float | str]
    scale: float
    offset_m: float
    u_at_1m_m: float
    marks: int
    errors: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class ThresholdFacts:
    """The threshold in use and the stopping distance it was set from, m."""

    at: datetime
    stop_m: float
    go_m: float
    needed_m: float | None
    calibration_identity: str | None


@dataclass(frozen=True, slots=True)
class SensorFacts:
    """All the rules look at. grounds: the chain's parameters as they are now."""

    family: Family
    now: datetime
    air: AirConditions
    grounds: Mapping[str, float | str] = field(default_factory=dict)
    reads_the_air: bool = True
    wired: SignOffFacts | None = None
    recording: RecordingFacts | None = None
    calibration: CalibrationFacts | None = None
    threshold: ThresholdFacts | None = None
    driven: SignOffFacts | None = None


def stones_for(facts: SensorFacts) -> tuple[Stone, ...]:
    """The five stones of one sensor, in the order of work."""
    calibrated = calibrated_stone(facts)
    tuned = tuned_stone(facts, calibrated)
    return (wired_stone(facts), heard_stone(facts), calibrated, tuned, driven_stone(facts, tuned))


def wired_stone(facts: SensorFacts) -> Stone:
    """Ticked when somebody has looked at the wiring and said that it is right."""
    stage = WorkStage.WIRED
    if facts.wired is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "Nobody has noted the wiring as right.")
    if not facts.wired.is_right:
        why = facts.wired.note or "it was noted as wrong"
        return Stone(stage, StoneState.FAILING, "wrong", f"The wiring is not right: {why}.")
    return Stone(
        stage,
        StoneState.TICKED,
        _day(facts.wired.at),
        f"Looked over and noted as right on {_day(facts.wired.at)}.",
    )


def heard_stone(facts: SensorFacts) -> Stone:
    """Ticked when a recording since the last wiring holds enough good readings."""
    stage = WorkStage.HEARD
    if not facts.family.has_chain:
        return _absent(stage, facts.family)
    recording = facts.recording
    if recording is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No recording has been brought in.")
    if recording.samples < FEWEST_SAMPLES_HEARD:
        return Stone(
            stage,
            StoneState.FAILING,
            f"{recording.samples} readings",
            f"“{recording.name}” holds {recording.samples} readings; "
            f"{FEWEST_SAMPLES_HEARD} are the least to go by.",
        )
    if recording.good < SMALLEST_GOOD_SHARE * recording.samples:
        silent, flagged = recording.no_echo, recording.samples - recording.good
        zeros = silent >= 0.5 * flagged
        share = 100.0 * (silent if zeros else flagged) / recording.samples
        what = "are zeros: no echo came back" if zeros else "are flagged"
        return Stone(
            stage,
            StoneState.FAILING,
            f"{share:.0f} % zeros" if zeros else f"{share:.0f} % flagged",
            f"{share:.0f} % of the readings in “{recording.name}” {what}; "
            f"more than {100 * (1 - SMALLEST_GOOD_SHARE):.0f} % is too many to work with.",
        )
    if facts.wired is not None and facts.wired.at > recording.at:
        return Stone(
            stage,
            StoneState.STALE,
            "re-wired",
            f"The wiring was looked over on {_day(facts.wired.at)}, after the last recording "
            f"({_day(recording.at)}).",
        )
    return Stone(
        stage,
        StoneState.TICKED,
        f"{recording.rate_hz:.1f} /s",
        f"“{recording.name}”: {recording.samples} readings, {recording.rate_hz:.1f} a second, "
        f"{100.0 * recording.good / recording.samples:.0f} % good.",
    )


def calibrated_stone(facts: SensorFacts) -> Stone:
    """Ticked while the air, the chain and the calendar are what the calibration rests on."""
    stage = WorkStage.CALIBRATED
    if not facts.family.has_chain:
        return _absent(stage, facts.family)
    calibration = facts.calibration
    if calibration is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No marks have been fitted and saved.")
    if calibration.errors:
        return Stone(stage, StoneState.FAILING, "marks at odds", " ".join(calibration.errors))
    stale = _why_calibration_is_stale(facts, calibration)
    if stale is not None:
        return Stone(stage, StoneState.STALE, *stale)
    doubt = f"± {expanded(calibration.u_at_1m_m) * 1000.0:.1f} mm"
    return Stone(
        stage,
        StoneState.TICKED,
        doubt,
        f"{_marks(calibration.marks)} on {_day(calibration.at)} at "
        f"{calibration.air.temperature_c:.1f} °C: {doubt} at 1 m.",
    )


def _why_calibration_is_stale(
    facts: SensorFacts, calibration: CalibrationFacts
) -> tuple[str, str] | None:
    changed = [
        name for name, was in calibration.grounds.items() if facts.grounds.get(name, was) != was
    ]
    if changed:
        return (
            f"{changed[0]} changed",
            f"It was fitted with another {' and '.join(changed)} than the chain has now.",
        )
    if facts.wired is not None and facts.wired.at > calibration.at:
        return "re-wired", f"The wiring was looked over since, on {_day(facts.wired.at)}."
    warmer = air_change_c(calibration.air, facts.air)
    if abs(warmer) > AIR_CHANGE_LIMIT_C:
        return f"air {_signed(warmer)} °C", _air_sentence(facts, calibration, warmer)
    if facts.now - calibration.at > CALIBRATION_INTERVAL:
        days = (facts.now - calibration.at).days
        return f"{days} days old", (
            f"It was made {days} days ago; after {CALIBRATION_INTERVAL.days} it wants another look."
        )
    return None


def air_change_c(then: AirConditions, now: AirConditions) -> float:
    """How much warmer the air is now, °C.

    >>> air_change_c(AirConditions(9.5), AirConditions(21.5))
    12.0
    """
    return round(now.temperature_c - then.temperature_c, 6)


def air_effect_at_1m_m(then: AirConditions, now: AirConditions) -> float:
    """How far apart, m, two echoes' worth of air put a target 1 m away.

    >>> round(air_effect_at_1m_m(AirConditions(9.5), AirConditions(21.5)), 3)
    0.022
    """
    return cramer.speed_of_sound(now) / cramer.speed_of_sound(then) - 1.0


def _air_sentence(facts: SensorFacts, calibration: CalibrationFacts, warmer: float) -> str:
    millimetres = abs(air_effect_at_1m_m(calibration.air, facts.air)) * 1000.0
    direction = "warmer" if warmer > 0 else "colder"
    made = (
        f"It was made at {calibration.air.temperature_c:.1f} °C; the air is now "
        f"{facts.air.temperature_c:.1f} °C, {abs(warmer):.0f} °C {direction} "
        f"(limit {AIR_CHANGE_LIMIT_C:.0f} °C)."
    )
    if facts.reads_the_air:
        return (
            f"{made} At 1 m that is {millimetres:.0f} mm, and only the thermometer vouches for it: "
            "mark again."
        )
    return f"{made} At 1 m that is {millimetres:.0f} mm, and a fixed speed of sound corrects none."


def tuned_stone(facts: SensorFacts, calibrated: Stone) -> Stone:
    """Ticked while thresholds rest on the calibration in use and cover the stopping distance."""
    stage = WorkStage.TUNED
    if not facts.family.has_chain:
        return _absent(stage, facts.family)
    threshold = facts.threshold
    if threshold is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No stop and go-again distances are set.")
    if threshold.needed_m is not None and threshold.stop_m < threshold.needed_m:
        return Stone(
            stage,
            StoneState.FAILING,
            "too short",
            f"It stops below {threshold.stop_m:.2f} m, but stopping takes "
            f"{threshold.needed_m:.2f} m.",
        )
    identity = facts.calibration.identity if facts.calibration else None
    if threshold.calibration_identity != identity:
        return Stone(
            stage,
            StoneState.STALE,
            "other calibration",
            "The thresholds were set on another calibration than the one in use.",
        )
    if calibrated.state in (StoneState.STALE, StoneState.FAILING):
        return Stone(
            stage, StoneState.STALE, "follows", "They rest on a calibration that wants a look."
        )
    return Stone(
        stage,
        StoneState.TICKED,
        f"stop {threshold.stop_m:.2f} m",
        f"Stops below {threshold.stop_m:.2f} m, goes again above {threshold.go_m:.2f} m"
        + ("." if threshold.needed_m is None else f"; stopping takes {threshold.needed_m:.2f} m."),
    )


def driven_stone(facts: SensorFacts, tuned: Stone) -> Stone:
    """Ticked when a drive went as expected and nothing it rests on has changed since."""
    stage = WorkStage.DRIVEN
    if facts.driven is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No drive has been noted.")
    if not facts.driven.is_right:
        why = facts.driven.note or "it did not go as expected"
        return Stone(stage, StoneState.FAILING, "went wrong", f"The last drive failed: {why}.")
    newer = facts.threshold is not None and facts.threshold.at > facts.driven.at
    if newer or tuned.state in (StoneState.STALE, StoneState.FAILING):
        return Stone(
            stage,
            StoneState.STALE,
            "follows",
            f"What it was driven with on {_day(facts.driven.at)} has changed since.",
        )
    return Stone(
        stage, StoneState.TICKED, _day(facts.driven.at), f"Went well on {_day(facts.driven.at)}."
    )


@dataclass(frozen=True, slots=True)
class NextStone:
    """The stone to turn to: index of the sensor, and the stone."""

    sensor: int
    stone: Stone


def next_stone(stones: Sequence[Sequence[Stone]]) -> NextStone | None:
    """The first stone not ticked: stones that went bad first, then what was never done.

    stones: one row per sensor. Returns None when all is ticked.
    """
    for wanted in ((StoneState.FAILING, StoneState.STALE), (StoneState.HOLLOW,)):
        for index, row in enumerate(stones):
            for stone in row:
                if stone.state in wanted:
                    return NextStone(index, stone)
    return None


def _absent(stage: WorkStage, family: Family) -> Stone:
    return Stone(
        stage, StoneState.ABSENT, "–", f"Tick Stone has no bench for a {family.label} here yet."
    )


def _day(at: datetime) -> str:
    return f"{at.day} {at:%b}"


def _signed(value: float) -> str:
    return f"{'+' if value > 0 else '−'}{abs(value):.0f}"


def _marks(count: int) -> str:
    return f"{count} mark{'' if count == 1 else 's'}"
