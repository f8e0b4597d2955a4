"""A row of sensors over a line: what it leaves unseen, how fast it may go, how tightly turn."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.display import prefixed
from tickstone.core.finding import Finding
from tickstone.core.inputs import number, whole
from tickstone.core.line_row import MOST_SENSORS
from tickstone.core.part_benches.bench import Known, Worked, result_of, toleranced, worked_step
from tickstone.core.step import Step

_CURVE = "circle left along its tangent"


@dataclass(frozen=True, slots=True)
class LineRowBench:
    """Widths that do, greatest speed v = L/T with L·sin φ + L²/(2R) = y, smallest curve R.

    y: how far the line may wander under the row before the last sensor loses it. L: the way between
    one look and the next that counts. T: loop and delays.

    >>> bench = LineRowBench()
    >>> [round(one.value, 3) for one in bench.work().results[:2]]
    [0.013, 0.07]
    """

    name: ClassVar[str] = "line-row"
    label: ClassVar[str] = "Row over a line"
    what: ClassVar[str] = "What a row of line sensors leaves unseen, and how fast it may follow."

    sensors: int = whole("Sensors", 5, 1, MOST_SENSORS)
    pitch_mm: float = number("Sensor to sensor", "mm", 19.0, 0.1, 1000.0)
    line_mm: float = number("Line is wide", "mm", 38.0, 0.1, 2000.0)
    spot_mm: float = number("A sensor sees", "mm", 6.0, 0.1, 500.0, "across; about its height")
    off_mm: float = number("Line off the middle by", "mm", 10.0, 0.0, 2000.0, "before the curve")
    heading_deg: float = number("Rig askew by", "°", 3.0, 0.0, 60.0)
    loop_ms: float = number("Loop", "ms", 20.0, 0.01, 60_000.0)
    delay_ms: float = number("Until it steers", "ms", 60.0, 0.0, 60_000.0, "filter and motors")
    curve_mm: float = number("Tightest curve", "mm", 400.0, 1.0, 1e6, "radius")
    speed_m_per_s: float = number("Speed", "m/s", 0.5, 0.001, 100.0)
    known_percent: float = number("Times and places known to", "%", 5.0, 0.0, 50.0)

    def work(self) -> Worked:
        """The working."""
        share = self.known_percent / 100.0
        pitch = toleranced("pitch", self.pitch_mm / 1000.0, "m", share)
        spot = toleranced("spot", self.spot_mm / 1000.0, "m", share)
        line = toleranced("line", self.line_mm / 1000.0, "m", share)
        off = toleranced("off", self.off_mm / 1000.0, "m", share)
        time = toleranced("time", (self.loop_ms + self.delay_ms) / 1000.0, "s", share)
        curve = toleranced("curve", self.curve_mm / 1000.0, "m", share)
        speed = toleranced("speed", self.speed_m_per_s, "m/s", share)
        narrow = worked_step(
            "narrowest", "no blind gap from", "w ≥ p − s",
            f"{self.pitch_mm:g} mm − {self.spot_mm:g} mm", "m", (pitch, spot),
            lambda p, s: max(0.0, p - s), "geometry",
            note="A narrower line can lie between two sensors, and neither sees it.",
        )  # fmt: skip
        spaces = self.sensors - 1
        wide = worked_step(
            "widest", "no false crossing to", "w < (n − 1)·p − s",
            f"{spaces} × {self.pitch_mm:g} mm − {self.spot_mm:g} mm", "m", (pitch, spot),
            lambda p, s: max(0.0, spaces * p - s), "geometry",
            note="A wider line covers all sensors at once, as a crossing does.",
        )  # fmt: skip
        room = worked_step(
            "room", "room to wander", "y = (n − 1)·p/2 + (w + s)/2 − off",
            f"{spaces} × {self.pitch_mm:g}/2 + ({self.line_mm:g} + {self.spot_mm:g})/2 − "
            f"{self.off_mm:g} mm", "m", (pitch, line, spot, off),
            lambda p, w, s, o: spaces * p / 2.0 + (w + s) / 2.0 - o, "geometry",
        )  # fmt: skip
        if room.value <= 0.0:
            raise ValueError("off_mm: the line has left the row already; no speed is slow enough")
        between = self._known("room", room)
        slant = math.sin(math.radians(self.heading_deg))
        way = worked_step(
            "way", "way until it is lost", "L = R·(√(sin²φ + 2y/R) − sin φ)",
            f"R {self.curve_mm:g} mm, φ {self.heading_deg:g}°, y {prefixed(room.value, 'm')}", "m",
            (curve, between), lambda r, y: _way(r, y, slant), _CURVE,
        )  # fmt: skip
        fastest = worked_step(
            "fastest", "fastest", "v = L/T",
            f"{prefixed(way.value, 'm')} ÷ {prefixed(time.value, 's')}", "m/s",
            (curve, between, time), lambda r, y, t: _way(r, y, slant) / t, _CURVE,
        )  # fmt: skip
        ahead = self.speed_m_per_s * time.value
        left = room.value - ahead * slant
        if left <= 0.0:
            raise ValueError(
                "speed_m_per_s: so fast and so askew it leaves the line on the straight; slow down"
            )
        tightest = worked_step(
            "tightest", "tightest curve", "R = L²/(2·(y − L·sin φ)), L = v·T",
            f"L {prefixed(ahead, 'm')} at {self.speed_m_per_s:g} m/s", "m",
            (speed, time, between),
            lambda v, t, y: (v * t) ** 2 / (2.0 * (y - v * t * slant)), _CURVE,
        )  # fmt: skip
        return Worked(
            (narrow, wide, room, way, fastest, tightest),
            (
                result_of("no blind gap from", narrow),
                result_of("no false crossing to", wide),
                result_of("room to wander", room),
                result_of("fastest", fastest),
                result_of("tightest curve", tightest),
            ),
            tuple(self._findings(narrow, wide, fastest)),
        )

    def _known(self, name: str, step: Step) -> Known:
        return Known(name, step.value, step.unit, step.u, "as above")

    def _findings(self, narrow: Step, wide: Step, fastest: Step) -> list[Finding]:
        found = []
        line_m = self.line_mm / 1000.0
        if self.sensors > 1 and line_m < narrow.value:
            gap = prefixed(narrow.value - line_m, "m")
            found.append(
                Finding(
                    "warning",
                    f"A blind gap of {gap} between two sensors.",
                    "There the line is under none of them, and the row calls it lost.",
                    "A wider line, a smaller pitch, or more height for a wider spot.",
                )
            )
        if self.sensors > 2 and line_m >= wide.value:
            found.append(
                Finding(
                    "warning",
                    "The line covers all sensors at once.",
                    "A crossing or a stop bar then looks like the line itself.",
                    "A narrower line, or a longer row.",
                )
            )
        if self.speed_m_per_s > fastest.value:
            found.append(
                Finding(
                    "error",
                    f"At {self.speed_m_per_s:g} m/s it leaves the line in that curve.",
                    f"It may go {fastest.value:.2f} m/s at most.",
                    "Drive slower, shorten loop and delay, widen the row, or open the curve.",
                )
            )
        return found


def _way(radius_m: float, room_m: float, slant: float) -> float:
    """How far it drives until a circle has left the row."""
    return radius_m * (math.sqrt(slant * slant + 2.0 * room_m / radius_m) - slant)
