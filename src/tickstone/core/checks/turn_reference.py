"""Turns held against a film, a motor, a watch or another meter: which cause fits the ratio."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.checks.kind import CheckKind, CheckResult
from tickstone.core.display import decimals_for, grouped
from tickstone.core.finding import Finding
from tickstone.core.inputs import Choice, check_inputs, choice, number
from tickstone.core.uncertainty import rectangular

_FILM, _WATCH, _MOTOR, _METER = "film", "watch", "motor", "meter"
_WAY = "against"


@dataclass(frozen=True, slots=True)
class TurnReference:
    """What the reading is held against. Rates turns/s inside, times s."""

    against: str = choice(
        "Held against",
        (
            Choice(_FILM, "a slow-motion film"),
            Choice(_WATCH, "turns counted by a watch"),
            Choice(_MOTOR, "an unloaded motor"),
            Choice(_METER, "another meter"),
        ),
    )
    frames: float = number(
        "Frames", "", 20.0, 1.0, 1e7, "from a mark passing to its passing again",
        when=(_WAY, _FILM), decimals=0,
    )  # fmt: skip
    film_turns: float = number(
        "Turns in those frames", "", 1.0, 0.1, 1e6, when=(_WAY, _FILM), decimals=1
    )
    frames_per_s: float = number(
        "Frames a second", "Hz", 240.0, 1.0, 1e6, when=(_WAY, _FILM), decimals=0
    )
    turns: float = number("Turns counted", "", 20.0, 1.0, 1e6, when=(_WAY, _WATCH), decimals=0)
    seconds: float = number("In", "s", 10.0, 0.1, 1e6, when=(_WAY, _WATCH), decimals=1)
    reaction_s: float = number(
        "Started and stopped within, ±", "s", 0.3, 0.0, 60.0, when=(_WAY, _WATCH), decimals=1
    )
    kv_rpm_per_v: float = number(
        "KV, turns a minute per volt", "", 1000.0, 1.0, 1e6, when=(_WAY, _MOTOR), decimals=0
    )
    volts: float = number("At", "V", 8.0, 0.01, 1e3, when=(_WAY, _MOTOR), decimals=2)
    motor_percent: float = number(
        "Known to, ±", "%", 10.0, 0.0, 50.0, "KV as printed, and some load",
        when=(_WAY, _MOTOR), decimals=0,
    )  # fmt: skip
    meter_turns_per_s: float = number(
        "It says", "turn/s", 2.0, 1e-6, 1e6, when=(_WAY, _METER), decimals=1
    )
    meter_percent: float = number(
        "It is good to, ±", "%", 2.0, 0.0, 50.0, when=(_WAY, _METER), decimals=1
    )

    def __post_init__(self) -> None:
        check_inputs(self)

    def rate(self) -> tuple[float, float]:
        """Turns a second, and its standard uncertainty.

        >>> rate, u = TurnReference(frames=20.0, frames_per_s=240.0).rate()
        >>> rate, round(u / rate, 3)
        (12.0, 0.029)
        """
        if self.against == _FILM:
            rate = self.frames_per_s * self.film_turns / self.frames
            return rate, rate * rectangular(1.0) / self.frames
        if self.against == _WATCH:
            rate = self.turns / self.seconds
            return rate, rate * rectangular(self.reaction_s) / self.seconds
        if self.against == _MOTOR:
            rate = self.kv_rpm_per_v * self.volts / 60.0
            return rate, rate * rectangular(self.motor_percent / 100.0)
        return self.meter_turns_per_s, self.meter_turns_per_s * rectangular(
            self.meter_percent / 100.0
        )


@dataclass(frozen=True, slots=True)
class Cause:
    """What puts a reading off by a ratio. likely: prior, the larger the more often it is that.

    test: what would tell it from others.
    """

    ratio: float
    likely: float
    title: str
    why: str
    test: str


def causes(parameters: Any) -> list[Cause]:
    """Causes of small-whole-number ratios, given how the chain is set. Common practice."""
    m, counted_both = parameters.per_turn, parameters.edges == "both"
    are = "is" if m == 1 else "are"
    found = []
    if counted_both:
        found.append(
            Cause(0.5, 9.0, "One edge of each pulse is counted, not both.",
                  "The cell “pulses a turn” says both.",
                  "Turn it by hand once: one count a magnet means one edge.")
        )  # fmt: skip
    else:
        found.append(
            Cause(2.0, 9.0, "Both edges of every pulse are counted.",
                  "An interrupt on change does that.",
                  "Turn it by hand once: two counts a magnet mean both edges.")
        )  # fmt: skip
    for n in (2, 3, 4, 5, 6, 8):
        more = n * m
        found.append(
            Cause(float(n), 7.0 / n, f"There are {more} magnets or strips, where {m} {are} set.",
                  "Every one of them counts.",
                  "Look at the wheel, or turn it by hand once and count.")
        )  # fmt: skip
    for n in range(1, m):
        if n != m:
            found.append(
                Cause(n / m, 5.0 if n == 1 else 2.0,
                      f"{n} of {m} magnets {'is' if n == 1 else 'are'} heard.",
                      "The others are too far away, or the wrong way round.",
                      "Turn it by hand and watch the lamp at each of them.")
            )  # fmt: skip
    if m == 1:
        found.append(
            Cause(0.5, 4.0, "Every second pulse is missed.",
                  "The program is busy, or takes a pulse for bounce.",
                  "Make the shortest gap smaller, or turn it slowly by hand.")
        )  # fmt: skip
    found += [
        Cause(2.0, 3.0, "The program’s clock runs at half the speed it believes.",
              "The same program on a board with another clock, or another prescaler.",
              "Let the board print ten seconds by its clock and hold a watch beside it."),
        Cause(0.5, 3.0, "The program’s clock runs at twice the speed it believes.",
              "The same program on a board with another clock, or another prescaler.",
              "Let the board print ten seconds by its clock and hold a watch beside it."),
        Cause(60.0, 2.0, "Turns a minute are taken for turns a second somewhere.",
              "A factor of 60 too many.", "Follow the units through the working line."),
        Cause(1.0 / 60.0, 2.0, "Turns a second are taken for turns a minute somewhere.",
              "A factor of 60 too few.", "Follow the units through the working line."),
    ]  # fmt: skip
    if parameters.gear != 1.0:
        found.append(
            Cause(1.0 / parameters.gear, 4.0, "The two are on different sides of the gear.",
                  f"Its ratio is {parameters.gear:g}.", "See which shaft each of them looks at.")
        )  # fmt: skip
        found.append(
            Cause(parameters.gear, 3.0, "The two are on different sides of the gear.",
                  f"Its ratio is {parameters.gear:g}.", "See which shaft each of them looks at.")
        )  # fmt: skip
    return found


class AgainstReference(CheckKind):
    """A reading of turns over a reference, and what small whole number is behind it."""

    name: ClassVar[str] = "turn-reference"
    label: ClassVar[str] = "Another way to count turns"
    what: ClassVar[str] = (
        "A film, a watch, a motor’s own figure or another meter. A wrong number of magnets or "
        "edges shows as a small whole number."
    )
    asks: ClassVar[type] = TurnReference
    takes: ClassVar[str] = "rpm"

    def judge(self, asked: TurnReference, value: float, u: float, parameters: Any) -> CheckResult:
        """The ratio with its ±, and causes that fit it, the likeliest first.

        >>> from tickstone.core.chains.pulses import PulseParameters
        >>> film = TurnReference(frames=20.0, frames_per_s=240.0)
        >>> found = AgainstReference().judge(film, 24.0, 0.01, PulseParameters())
        >>> found.says, found.findings[0].title
        ('2.00 ± 0.12 times too high', 'Both edges of every pulse are counted.')
        """
        if not value > 0.0:
            raise ValueError("the reading in hand is no rate; take one in hand that is")
        reference, reference_u = asked.rate()
        ratio = value / reference
        share = math.hypot(u / value if math.isfinite(u) else 0.0, reference_u / reference)
        ratio_u = ratio * share
        near = max(2.0 * share, 0.02)
        if abs(ratio - 1.0) <= near:
            return CheckResult(f"they agree: {_said(ratio, ratio_u)} times", True)
        fitting = [c for c in causes(parameters) if abs(ratio / c.ratio - 1.0) <= near]
        fitting.sort(key=lambda c: -c.likely)
        turned = ratio if ratio > 1.0 else 1.0 / ratio
        says = f"{_said(turned, turned * share)} times too {'high' if ratio > 1.0 else 'low'}"
        findings = [
            Finding("warning" if n == 0 else "note", c.title, c.why, c.test)
            for n, c in enumerate(_apart(fitting))
        ]
        wholes = {round(turned * (1.0 + sign * near)) for sign in (-1.0, 1.0)}
        if len(wholes) > 1 and turned > 1.5:
            findings.append(
                Finding(
                    "note",
                    "The reference is too rough to tell neighbouring numbers apart.",
                    f"{min(wholes)} and {max(wholes)} both lie within its ±.",
                    "Film more turns, or count them for longer.",
                )
            )
        if not fitting:
            findings.append(
                Finding(
                    "note",
                    "No small whole number is behind that.",
                    "So it is hardly edges or magnets: a slipping wheel, a clock that is off, or "
                    "the two were not taken at the same speed.",
                    "Hold them against each other again at a steady speed.",
                )
            )
        return CheckResult(says, False, tuple(findings))


def _apart(fitting: list[Cause]) -> list[Cause]:
    """One of each title, as many as a person reads."""
    seen: dict[str, Cause] = {}
    for cause in fitting:
        seen.setdefault(cause.title, cause)
    return list(seen.values())[:5]


def _said(value: float, u: float) -> str:
    decimals = max(1, decimals_for(u)) if u > 0.0 else 2
    return f"{grouped(value, decimals)} ± {grouped(2.0 * u, decimals)}"
