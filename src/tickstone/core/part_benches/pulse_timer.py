"""A timer that times pulses: what it can tell at all, how finely, and on another board."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import grouped, prefixed
from tickstone.core.finding import Finding
from tickstone.core.inputs import number, whole
from tickstone.core.part_benches.bench import Result, Worked, result_of, worked_step
from tickstone.core.timer import TimerModel

SOURCE = "common practice: rpm = 60·f/(m·N), N from 1 to 2ᵇ − 1 ticks"


@dataclass(frozen=True, slots=True)
class PulseTimerBench:
    """Clock, prescaler, bits of the timer and of what the program keeps it in.

    >>> bench = PulseTimerBench(clock_mhz=8.0, prescaler=256)
    >>> [round(one.value, 1) for one in bench.work().results[:3]]
    [31250.0, 28.6, 1875000.0]
    """

    name: ClassVar[str] = "pulse-timer"
    label: ClassVar[str] = "Timer for pulses"
    what: ClassVar[str] = (
        "How slow and how fast a timer can tell, and what another board makes of it."
    )

    clock_mhz: float = number("Board’s clock", "MHz", 16.0, 0.001, 10_000.0)
    prescaler: int = whole("Prescaler", 256, 1, 65_536, "", (1, 8, 64, 256, 1024))
    timer_bits: int = whole("Timer’s bits", 16, 4, 64, "", (8, 16, 32))
    word_bits: int = whole(
        "Kept in, bits", 16, 4, 64, "of the number the program puts it in, without a sign",
        (15, 16, 31, 32),
    )  # fmt: skip
    per_turn: int = whole("Pulses a turn", 1, 1, 10_000)
    rpm: float = number("At this speed", "RPM", 1_000.0, 0.001, 1e7)
    other_mhz: float = number(
        "Another board’s clock", "MHz", 8.0, 0.001, 10_000.0, "the same program on it"
    )

    def work(self) -> Worked:
        """The working."""
        tick_hz = 1e6 * self.clock_mhz / self.prescaler
        timer = TimerModel(min(self.timer_bits, self.word_bits), tick_hz)
        longest = 2**timer.bits - 1
        ticks = worked_step(
            "ticks", "ticks a second", "f = clock/prescaler",
            f"{self.clock_mhz:g} MHz ÷ {self.prescaler}", "Hz", (), lambda: tick_hz, SOURCE,
        )  # fmt: skip
        slowest = worked_step(
            "slowest", "slowest", "60·f/(m·(2ᵇ − 1))",
            f"60 × {grouped(tick_hz, 0)} ÷ ({self.per_turn} × {grouped(float(longest), 0)})",
            "RPM", (), lambda: 60.0 * timer.slowest_hz / self.per_turn, SOURCE,
        )  # fmt: skip
        fastest = worked_step(
            "fastest", "fastest, in theory", "60·f/m",
            f"60 × {grouped(tick_hz, 0)} ÷ {self.per_turn}",
            "RPM", (), lambda: 60.0 * timer.fastest_hz / self.per_turn, SOURCE,
        )  # fmt: skip
        rate_hz = self.rpm * self.per_turn / 60.0
        finest = worked_step(
            "resolution", "one tick at this speed", "n²·m/(60·f)",
            f"{self.rpm:g}² × {self.per_turn} ÷ (60 × {grouped(tick_hz, 0)})",
            "RPM", (),
            lambda: 60.0 * timer.resolution_hz(rate_hz) / self.per_turn, SOURCE,
        )  # fmt: skip
        wraps = worked_step(
            "wraps", "timer wraps after", "2ᵇ/f", f"2^{self.timer_bits} ÷ {grouped(tick_hz, 0)} Hz",
            "s", (), lambda: 2.0**self.timer_bits / tick_hz, SOURCE,
        )  # fmt: skip
        ratio = worked_step(
            "other", "another board reads", "clock/other clock",
            f"{self.clock_mhz:g} ÷ {self.other_mhz:g}", "times the truth", (),
            lambda: self.clock_mhz / self.other_mhz, "the program still divides by the old clock",
        )  # fmt: skip
        steps = (ticks, slowest, fastest, finest, wraps, ratio)
        names = (
            "ticks a second", "slowest", "fastest, in theory", "one tick at this speed",
            "timer wraps after", "another board reads",
        )  # fmt: skip
        results: list[Result] = [
            result_of(name, step) for name, step in zip(names, steps, strict=True)
        ]
        findings = self._findings(slowest.value, fastest.value, ratio.value, finest.value)
        return Worked(steps, tuple(results), tuple(findings))

    def _findings(
        self, slowest: float, fastest: float, ratio: float, finest: float
    ) -> list[Finding]:
        found = []
        if self.rpm < slowest:
            found.append(
                Finding(
                    "error",
                    f"At {self.rpm:g} RPM the timer has wrapped before the next pulse.",
                    f"Below {slowest:.3g} RPM it counts from 0 again, and a slow wheel reads fast.",
                    "Say “slow” when a wrap passes without a pulse; or a larger prescaler, or more "
                    "bits.",
                )
            )
        elif self.rpm > fastest / 100.0:
            found.append(
                Finding(
                    "warning",
                    "There is hardly a tick between two pulses.",
                    f"One tick more or less is {100.0 * finest / self.rpm:.2g} % here.",
                    "A smaller prescaler, or counting in a gate.",
                )
            )
        if self.word_bits < self.timer_bits:
            found.append(
                Finding(
                    "warning",
                    f"The program keeps {self.word_bits} bits of {self.timer_bits}.",
                    "What does not fit is cut off: gaps that are longer come out short. A signed "
                    "number has one bit less.",
                    f"An unsigned number of {self.timer_bits} bits.",
                )
            )
        if abs(ratio - 1.0) > 1e-9:
            found.append(
                Finding(
                    "note",
                    f"At {self.other_mhz:g} MHz the program reads {ratio:.3g} times the truth.",
                    "Its timer ticks at another pace than the number it divides by.",
                    "Work the ticks a second out from the clock the board says it has.",
                )
            )
        wrap_s = 2.0**self.timer_bits * self.prescaler / (1e6 * self.clock_mhz)
        found.append(
            Finding(
                "note",
                f"Subtracting survives one wrap, {prefixed(wrap_s, 's')} apart.",
                "The difference of two readings, kept in as many bits as the timer has and without "
                "a sign, is right across one wrap, and across no second one.",
                "",
            )
        )
        return found
