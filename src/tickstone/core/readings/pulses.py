"""One gap between two pulses, or so many pulses in a gate, with what turns."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import ClassVar

from tickstone.core.calibration.roll_out import RollOutKind
from tickstone.core.chain import Stage
from tickstone.core.chains.pulses import PULSE_GAP, PULSES_IN_GATE, PulseParameters, Pulses
from tickstone.core.inputs import number, whole
from tickstone.core.readings.reading import ASSUMED_AIR, Beside, OneReading
from tickstone.core.signal import Signal
from tickstone.core.stages.roll_out import RollOut
from tickstone.core.surroundings import Surroundings
from tickstone.core.timer import TimerModel


@dataclass(frozen=True)
class AskedPulses(PulseParameters):
    """A gap in µs or in ticks of a timer, or pulses counted while a gate was open.

    >>> reading = AskedPulses(count=39.0, gate_s=10.0).reading()
    >>> steps = reading.chain.explain(reading.signals, 0, "turns")
    >>> round(60.0 * steps[-1].value), reading.outputs
    (234, ('frequency', 'rpm', 'speed'))
    """

    what: ClassVar[str] = (
        "Turn one gap, or so many pulses in a gate, into turns a minute and speed."
    )

    slow_after_s: float = number(
        "Slow after", "s", 600.0, 0.05, 600.0, "no pulse for this long", decimals=1
    )
    gap_us: float | None = number("Gap between two pulses", "µs", None, 0.0, 1e12)
    ticks: float | None = number("Gap in ticks of a timer", "", None, 0.0, 1e12)
    tick_hz: float | None = number("Ticks of that timer a second", "Hz", None, 1e-6, 1e12)
    count: float | None = number("Pulses while the gate was open", "", None, 0.0, 1e12)
    timer_bits: int = whole(
        "Bits of that timer", 0, 0, 64, "adds the slowest and the fastest it can tell"
    )
    roll_out_m: float | None = number("Rolls in a turn", "m", None, 1e-4, 100.0)
    roll_out_u_m: float = number("Standard uncertainty of that", "m", 0.0, 0.0, 10.0)

    def reading(self) -> OneReading:
        """The pulses' chain, and the limits of the timer beside it."""
        given = [
            name
            for name, value in (
                ("--gap-us", self.gap_us),
                ("--ticks", self.ticks),
                ("--count", self.count),
            )
            if value is not None
        ]
        if len(given) > 1:
            raise ValueError(f"{' and '.join(given)} exclude each other; give one of them")
        if self.timer_bits and self.tick_hz is None:
            raise ValueError("--timer-bits says nothing without --tick-hz, its ticks a second")
        if not given and not self.timer_bits:
            raise ValueError(
                "there is nothing to turn; give --gap-us, --ticks with --tick-hz, or --count with "
                "--gate-s"
            )
        beside = self._timer_limits()
        if not given:
            return OneReading(None, {}, (), beside)
        form = "gate" if self.count is not None else "gap"
        chain = Pulses().build(
            self._parameters(), Surroundings(ASSUMED_AIR), self._wheel(), forms={"pulses": form}
        )
        return OneReading(chain, {"pulses": self._signal()}, ("frequency", "rpm", "speed"), beside)

    def _signal(self) -> Signal:
        if self.count is not None:
            if self.count != int(self.count):
                raise ValueError(f"count: {self.count:g} is no whole number of pulses")
            return Signal.of([0.0], [self.count], PULSES_IN_GATE)
        gap_s = self._gap_s()
        if gap_s == 0.0:
            raise ValueError("a gap of 0: no two pulses come at once. Give the time between them")
        return Signal.of([0.0], [gap_s], PULSE_GAP)

    def _gap_s(self) -> float:
        if self.gap_us is not None:
            return self.gap_us * 1e-6
        assert self.ticks is not None
        if self.tick_hz is None:
            raise ValueError("--ticks says nothing without --tick-hz, the timer’s ticks a second")
        if self.timer_bits and self.ticks > 2**self.timer_bits - 1:
            raise ValueError(
                f"ticks: {self.ticks:g} do not fit into {self.timer_bits} bits; "
                f"{2**self.timer_bits - 1} at most"
            )
        return self.ticks / self.tick_hz

    def _parameters(self) -> PulseParameters:
        own = {one.name: getattr(self, one.name) for one in fields(PulseParameters)}
        if self.ticks is not None and self.tick_hz is not None:
            own["tick_us"] = min(1e6, 1e6 / self.tick_hz)
        # One gap is a whole gap, however short or long.
        own["shortest_s"] = 0.0
        return PulseParameters(**own)

    def _wheel(self) -> dict[str, Stage]:
        if self.roll_out_m is None:
            return {}
        return {
            RollOutKind.name: RollOut(self.roll_out_m, self.roll_out_u_m, "roll-out", "as given")
        }

    def _timer_limits(self) -> dict[str, Beside]:
        if not self.timer_bits or self.tick_hz is None:
            return {}
        timer = TimerModel(self.timer_bits, self.tick_hz)
        minutes = 60.0 / self.pulses_a_turn
        return {
            "slowest_rpm": Beside(minutes * timer.slowest_hz, "RPM", 0.0),
            "fastest_rpm": Beside(minutes * timer.fastest_hz, "RPM", 0.0),
        }
