"""Calibrated: readings were held against a ruler, and the grounds of that still hold."""

from __future__ import annotations

from datetime import timedelta

from tickstone.core.air import cramer
from tickstone.core.air.conditions import AirConditions
from tickstone.core.reading_units import small_length, temperature, temperature_step, typed_length
from tickstone.core.stones.facts import CalibrationFacts, SensorFacts
from tickstone.core.stones.stone import Stone, StoneState, WorkStage, absent, day
from tickstone.core.uncertainty import expanded

AIR_CHANGE_LIMIT_C = 5.0
"""A calibration made in air warmer or colder by more than this wants another look."""
CALIBRATION_INTERVAL = timedelta(days=180)


def calibrated_stone(facts: SensorFacts) -> Stone:
    """Ticked while the air, the chain and the calendar are what the calibration rests on."""
    stage = WorkStage.CALIBRATED
    if not facts.family.has_chain:
        return absent(stage, facts.family)
    calibration = facts.calibration
    if calibration is None:
        return Stone(stage, StoneState.HOLLOW, "not yet", "No marks have been fitted and saved.")
    if calibration.errors:
        return Stone(stage, StoneState.FAILING, "marks at odds", " ".join(calibration.errors))
    stale = _why_calibration_is_stale(facts, calibration)
    if stale is not None:
        return Stone(stage, StoneState.STALE, *stale)
    doubt = f"± {small_length(expanded(calibration.u_at_1m_m), 1)}"
    return Stone(
        stage,
        StoneState.TICKED,
        doubt,
        f"{_marks(calibration.marks)} on {day(calibration.at)} at "
        f"{temperature(calibration.air.temperature_c, 1)}: {doubt} at {typed_length(1.0)}.",
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
        return "re-wired", f"The wiring was looked over since, on {day(facts.wired.at)}."
    warmer = air_change_c(calibration.air, facts.air)
    if abs(warmer) > AIR_CHANGE_LIMIT_C:
        sign = "+" if warmer > 0 else ""
        return f"air {sign}{temperature_step(warmer, 0)}", _air_sentence(facts, calibration, warmer)
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
    off = small_length(abs(air_effect_at_1m_m(calibration.air, facts.air)), 0)
    direction = "warmer" if warmer > 0 else "colder"
    made = (
        f"It was made at {temperature(calibration.air.temperature_c, 1)}; the air is now "
        f"{temperature(facts.air.temperature_c, 1)}, {temperature_step(abs(warmer), 0)} "
        f"{direction} (limit {temperature_step(AIR_CHANGE_LIMIT_C, 0)})."
    )
    if facts.reads_the_air:
        return (
            f"{made} At {typed_length(1.0)} that is {off}, and only the thermometer vouches for "
            "it: mark again."
        )
    return f"{made} At {typed_length(1.0)} that is {off}, and a fixed speed of sound corrects none."


def _marks(count: int) -> str:
    return f"{count} mark{'' if count == 1 else 's'}"
