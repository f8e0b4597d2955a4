"""Tuning by hand, in the right order: P up to the edge, back off, I until nothing is left over,
D to brake. What to do next, and what to watch, from what the last run showed.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.control.controller import Gains
from tickstone.core.control.measures import BAND, Measures

EDGE, REST, BRAKE, DONE = "p", "i", "d", "done"
STAGES = {
    EDGE: "P alone, up to where it just swings",
    REST: "I, until nothing is left over",
    BRAKE: "D, to brake it",
    DONE: "As far as a hand goes",
}
_DIES, _GROWS = 0.85, 1.15
_LIVELY, _OVER, _MANY = 0.5, 0.30, 4
"""A swing that leaves so much of itself, a first top so high, so many halves of swings."""
_CALM_OVER, _NOISY = 0.10, 0.05


@dataclass(frozen=True, slots=True)
class Advice:
    """stage: the one to go on with. do: one sentence. watch: what to look at in the next run.
    gains: to try next; None when there is nothing to change.
    """

    stage: str
    says: str
    do: str
    watch: str
    gains: Gains | None


def advise(stage: str, gains: Gains, told: Measures, span: float, rolls_on: bool = False) -> Advice:
    """What to do after a run with some gains, at one stage of the order.

    span: of the output, from end to end. rolls_on: whether P alone can never bring it to rest.
    Raises ValueError for a stage there is none of.

    >>> calm = Measures(0, 1.0, 2.0, 1.0, 1.0, 0.1, 1.0, 0.0, 0.0, 0, math.nan)
    >>> advise(EDGE, Gains(1.0, 0.0, 0.0), calm, 200.0).gains
    Gains(kp=1.5, ki=0.0, kd=0.0)
    """
    if stage not in STAGES:
        raise ValueError(f"stage: “{stage[:20]}” is none of {', '.join(STAGES)}")
    if stage == EDGE:
        return _edge(gains, told, rolls_on)
    if stage == REST:
        return _rest(gains, told)
    if stage == BRAKE:
        return _brake(gains, told, span)
    return Advice(DONE, "", "Keep it, and try it on the rig.", "Wheels off the floor first.", None)


def _edge(gains: Gains, told: Measures, rolls_on: bool) -> Advice:
    if rolls_on:
        kd = gains.kd or 0.5 * gains.kp
        return Advice(
            BRAKE,
            "P alone swings at every gain here: what is steered rolls on and on.",
            "Put D in before I, and turn it up until it comes to rest.",
            "Whether each swing is smaller than the one before.",
            Gains(gains.kp, 0.0, kd),
        )
    alone = Gains(gains.kp, 0.0, 0.0)
    if gains != alone:
        return Advice(
            EDGE, "I and D are in it still.", "Take them out: first P alone.",
            "How it goes to its target, and what is left over.", alone,
        )  # fmt: skip
    if math.isnan(told.decay) or told.decay < _DIES:
        return Advice(
            EDGE, "It does not swing on by itself yet.", "Turn P up by half.",
            "Whether its swings die out, stay, or grow.", Gains(1.5 * gains.kp, 0.0, 0.0),
        )  # fmt: skip
    if told.decay > _GROWS:
        return Advice(
            EDGE, "Its swings grow: that is past the edge.", "Turn P down by a fifth.",
            "Whether its swings stay as they are.", Gains(0.8 * gains.kp, 0.0, 0.0),
        )  # fmt: skip
    half = 0.5 * gains.kp
    return Advice(
        REST, "It just swings on: this is the edge.", "Back off to half, and begin with I.",
        "What is left over at the end.", Gains(half, 0.2 * abs(half) * _sign(half), 0.0),
    )  # fmt: skip


def _rest(gains: Gains, told: Measures) -> Advice:
    swings_on = told.swings >= _MANY and not told.decay <= _LIVELY
    too_lively = swings_on or told.overshoot > _OVER
    if too_lively and gains.ki != 0.0:
        return Advice(
            BRAKE if abs(gains.ki) <= 0.05 * abs(gains.kp) else REST,
            "It swings more than twice before it rests.", "Turn I down by a third.",
            "Whether it still comes to its target.", Gains(gains.kp, 0.67 * gains.ki, gains.kd),
        )  # fmt: skip
    if math.isnan(told.settling_s):
        ki = 1.5 * gains.ki if gains.ki != 0.0 else 0.2 * abs(gains.kp) * _sign(gains.kp)
        return Advice(
            REST, f"It does not come to rest within {100 * BAND:.0f} % of the step.",
            "Turn I up by half.", "Whether it still sticks beside its target.",
            Gains(gains.kp, ki, gains.kd),
        )  # fmt: skip
    return Advice(
        BRAKE, "Nothing is left over.", "Leave I, and begin with D.",
        "How far it goes beyond its target, and how restless the output is.",
        Gains(gains.kp, gains.ki, gains.kd or 0.1 * gains.kp),
    )  # fmt: skip


def _brake(gains: Gains, told: Measures, span: float) -> Advice:
    if told.noise_out > _NOISY * span:
        return Advice(
            DONE, "Noise, or its own haste, shakes the output: that is too much D.",
            "Turn D down to half, and leave it there; more needs a longer smoothing.",
            "Whether the actuator is quiet at the end.",
            Gains(gains.kp, gains.ki, 0.5 * gains.kd),
        )  # fmt: skip
    if told.overshoot > _CALM_OVER or told.swings >= _MANY:
        kd = 1.4 * gains.kd if gains.kd != 0.0 else 0.1 * gains.kp
        return Advice(
            BRAKE, "It goes too far beyond its target.", "Turn D up by two fifths.",
            "Whether it brakes in time, and the output stays quiet.", Gains(gains.kp, gains.ki, kd),
        )  # fmt: skip
    if math.isnan(told.settling_s):
        return Advice(
            REST, "It is calm, but does not come to rest at its target.",
            "Go back to I, and turn it up a little.", "What is left over.",
            Gains(gains.kp, gains.ki * 1.25 or 0.1 * gains.kp, gains.kd),
        )  # fmt: skip
    return Advice(
        DONE, "It comes to its target, brakes in time and is quiet.",
        "Keep it, and try it on the rig.", "Wheels off the floor first.", None,
    )  # fmt: skip


def _sign(value: float) -> float:
    return math.copysign(1.0, value)
