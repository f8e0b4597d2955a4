"""The controller a program has: P, I and D, and all that keeps them from doing harm."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.inputs import Choice, check_inputs, choice, number, switch
from tickstone.core.reading_units import MILLISECONDS

STOP, BACK, NONE = "stop", "back", "none"
MEASURED, ERROR = "measured", "error"
HOLD, COUNT = "hold", "count"


@dataclass(frozen=True, slots=True)
class Controller:
    """Settings, parallel form: u = kp·e + ki·∫e dt + kd·de/dt.

    kp: unit of the output for one unit of what is measured; ki: that a second; kd: that times a
    second. Raises ValueError naming the setting that cannot be.

    >>> Controller(kp=1.5, whole_numbers=True).counted.kp
    1.0
    """

    kp: float = number("P", "", 1.0, -1e6, 1e6, "for one unit off", decimals=4)
    ki: float = number("I", "1/s", 0.0, -1e6, 1e6, "for one unit off for a second", decimals=4)
    kd: float = number("D", "s", 0.0, -1e6, 1e6, "for one unit a second", decimals=4)
    low: float = number("Output at least", "", -100.0, -1e6, 1e6, "the actuator’s end")
    high: float = number("Output at most", "", 100.0, -1e6, 1e6, "the actuator’s other end")
    act_low: float | None = number(
        "which the actuator has as", "", None, -1e6, 1e6, "at least mapped so",
        from_rig="as it is", is_rare=True,
    )  # fmt: skip
    act_high: float | None = number(
        "and at most as", "", None, -1e6, 1e6, "mapped in a straight line",
        from_rig="as it is", is_rare=True,
    )  # fmt: skip
    windup: str = choice(
        "While at an end",
        (
            Choice(STOP, "I stops adding up"),
            Choice(BACK, "I is drawn back"),
            Choice(NONE, "I winds up"),
        ),
    )
    slew_per_s: float = number(
        "Moves at most", "1/s", 0.0, 0.0, 1e9, "a second; 0: as fast as it likes", is_rare=True
    )
    derivative_of: str = choice(
        "D looks at", (Choice(MEASURED, "what is measured"), Choice(ERROR, "the error: it kicks")),
        is_rare=True,
    )  # fmt: skip
    derivative_lag_s: float = number(
        "D is smoothed over", "s", 0.05, 0.0, 60.0, "a lag; 0: not at all",
        shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip
    dead_band: float = number(
        "Near enough within", "", 0.0, 0.0, 1e6, "an error smaller than this counts as none",
        is_rare=True,
    )  # fmt: skip
    invalid: str = choice(
        "A reading that is none",
        (Choice(HOLD, "is passed by, the output held"), Choice(COUNT, "counts as 0")),
    )
    hold_s: float = number(
        "Held at most", "s", 0.5, 0.0, 60.0, "then the output goes to rest",
        shown_as=MILLISECONDS, decimals=0, is_rare=True,
    )  # fmt: skip
    rest: float = number("Output at rest", "", 0.0, -1e6, 1e6, "", is_rare=True)
    whole_numbers: bool = switch(
        "Whole numbers only", False, "as in a program with int gains: 1.5 is 1"
    )

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.low < self.high:
            raise ValueError(f"high: {self.high:g} has to lie above the other end, {self.low:g}")
        if not self.low <= self.rest <= self.high:
            raise ValueError(f"rest: {self.rest:g} lies outside {self.low:g} to {self.high:g}")

    @property
    def span(self) -> tuple[float, float]:
        """Offset and slope of the map from the output to what the actuator is told.

        >>> Controller(low=-100.0, high=100.0, act_low=70.0, act_high=110.0).span
        (90.0, 0.2)
        """
        low = self.low if self.act_low is None else self.act_low
        high = self.high if self.act_high is None else self.act_high
        slope = (high - low) / (self.high - self.low)
        return low - slope * self.low, slope

    @property
    def acting(self) -> Gains:
        """The gains as they reach the plant: counted, and mapped to the actuator's span."""
        gains, slope = self.counted, self.span[1]
        return Gains(gains.kp * slope, gains.ki * slope, gains.kd * slope)

    @property
    def counted(self) -> Gains:
        """The gains as the program has them: cut to whole numbers where it has only those."""
        if not self.whole_numbers:
            return Gains(self.kp, self.ki, self.kd)
        return Gains(float(int(self.kp)), float(int(self.ki)), float(int(self.kd)))


@dataclass(frozen=True, slots=True)
class Gains:
    """P, I and D of the parallel form."""

    kp: float
    ki: float
    kd: float

    @classmethod
    def of_times(cls, kp: float, ti_s: float, td_s: float = 0.0) -> Gains:
        """From the ideal form kp·(1 + 1/(ti·s) + td·s). ti_s: inf for no I.

        >>> Gains.of_times(2.0, 0.5, 0.1)
        Gains(kp=2.0, ki=4.0, kd=0.2)
        """
        return cls(kp, kp / ti_s, kp * td_s)

    @classmethod
    def of_series(cls, kc: float, ti_s: float, td_s: float) -> Gains:
        """From the series form kc·(1 + 1/(ti·s))·(td·s + 1), as some rules are published.

        >>> Gains.of_series(1.0, 8.0, 8.0)
        Gains(kp=2.0, ki=0.125, kd=8.0)
        """
        return cls(kc * (1.0 + td_s / ti_s), kc / ti_s, kc * td_s)
