"""A timer that times gaps: what it can tell at all, and how finely."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class TimerModel:
    """A counter of `bits` bits that counts `tick_hz` ticks a second.

    Source: common practice, `rpm_min = 60·f/(m·(2ᵇ − 1))`, `rpm_max = 60·f/m`.

    Raises ValueError when there is no such timer.

    >>> timer = TimerModel(16, 31_250.0)
    >>> round(60.0 * timer.slowest_hz, 1), 60.0 * timer.fastest_hz
    (28.6, 1875000.0)
    """

    bits: int
    tick_hz: float

    def __post_init__(self) -> None:
        if not 1 <= self.bits <= 64:
            raise ValueError(f"a timer of {self.bits} bits; 1 to 64")
        if not self.tick_hz > 0.0:
            raise ValueError("a timer that does not tick; ticks a second have to lie above 0")

    @property
    def slowest_hz(self) -> float:
        """The rate whose gap just fills the counter."""
        return self.tick_hz / (2.0**self.bits - 1.0)

    @property
    def fastest_hz(self) -> float:
        """One tick a gap: a limit of theory only."""
        return self.tick_hz

    def resolution_hz(self, rate_hz: float) -> float:
        """How far apart two rates next to each other are told, near a rate.

        >>> TimerModel(16, 31_250.0).resolution_hz(3.9)
        0.00048...
        """
        return rate_hz**2 / self.tick_hz
