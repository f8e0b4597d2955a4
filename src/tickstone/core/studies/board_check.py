"""The line board check: in two minutes, which sensor is dead, unlit, reversed or swapped, and
whether the row is too high or askew.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.calibration.black_white_heaps import samples_of
from tickstone.core.calibration.kind import Span
from tickstone.core.finding import Finding, worst_first
from tickstone.core.heaps.heap import Heap, d_prime
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.heaps.parting import part
from tickstone.core.quantity import Quantity
from tickstone.core.signal import Signal
from tickstone.core.studies.holding import FEWEST, FULL_SCALE, LEAST_MOVE, held
from tickstone.core.studies.kind import Cell, Outcome, StudyKind, Taken

FLOOR, LIFTED, PASS = "floor", "lifted", "pass"
_NO_LIGHT = 0.2
"""A sensor that answers the floor by less than this share of the others gets no light back."""
_ASKEW = 0.4
_WIDE = 8.0


@dataclass(frozen=True, slots=True)
class BoardPlan:
    """Nothing to choose."""


class BoardCheck(StudyKind):
    """Three things to do with the row, and what is wrong with it by then."""

    name: ClassVar[str] = "board-check"
    label: ClassVar[str] = "Line board check"
    what: ClassVar[str] = (
        "After wiring: which sensor is dead, unlit, reversed or swapped, and how the row sits."
    )
    plan: ClassVar[type] = BoardPlan
    varies: ClassVar[Quantity] = Quantity("cell", "")

    def cells(self, plan: Any) -> Sequence[Cell]:
        """Floor, lifted, and the line from left to right."""
        return (
            Cell(
                FLOOR, 0.0, True,
                "Hold the row over the light floor at its height. See through a camera that shows "
                "near infrared whether every lamp glows, never by eye.",
                "over the floor",
            ),
            Cell(
                LIFTED, 1.0, True, "Lift it a hand’s breadth off the floor, and hold it.", "lifted",
            ),
            Cell(
                PASS, 2.0, True,
                "Back on the floor, slide it so that the line passes once from the leftmost sensor "
                "to the rightmost.",
                "the line from left to right",
            ),
        )  # fmt: skip

    def take(self, cell: Cell, signal: Signal, parameters: Any) -> Taken:
        """What was held still, or when the line passed each sensor."""
        if len(signal) < FEWEST:
            raise ValueError(f"{len(signal)} samples are too few; {FEWEST} at least")
        if cell.key != PASS:
            return held(cell.key, signal, parameters)
        lanes, passed = [], []
        for place, name in enumerate(signal.quantity.lanes):
            samples = samples_of(Span("", signal), place)
            found = part(samples.values)
            at_s = -1.0
            if not found.why_one:
                middle = (found.low.mean + found.high.mean) / 2.0
                # The line is what each saw less of.
                above = samples.values > middle
                on = above if found.high.n < found.low.n else ~above
                at_s = float(np.median(samples.time_s[on]))
            floor, line = (
                (found.low, found.high) if found.high.n < found.low.n else (found.high, found.low)
            )
            kept = (line, floor) if not found.why_one else (Heap.of("", []), found.low)
            lanes.append(LaneHeaps(name or "1", *kept, why_not=found.why_one))
            passed.append(at_s)
        if all(one < 0.0 for one in passed):
            raise ValueError("no sensor saw the line; slide it right across")
        return Taken(cell.key, tuple(lanes), len(signal), {"passed_s": passed})

    def outcome(self, plan: Any, taken: Mapping[str, Taken]) -> Outcome:
        """What is wrong, worst first; or that nothing was found by what was taken."""
        missing = [cell for cell in self.cells(plan) if cell.key not in taken]
        findings = [
            *(_answers(taken[FLOOR], taken[LIFTED]) if {FLOOR, LIFTED} <= set(taken) else ()),
            *(_passes(taken[PASS]) if PASS in taken else ()),
        ]
        if missing:
            be = "is" if len(missing) == 1 else "are"
            says = f"{len(missing)} of 3 {be} not taken yet: {missing[0].says}."
        elif findings:
            says = f"{findings[0].title}"
        else:
            says = (
                "Every sensor answers floor and line, in the order they are wired, and the row "
                "sits even. Whether every lamp glows only the camera says."
            )
        return Outcome((), None, None, says, "", worst_first(findings))


def _answers(floor: Taken, lifted: Taken) -> list[Finding]:
    """What each sensor does between floor and air."""
    moved = np.array(
        [a.light.mean - b.light.mean for a, b in zip(floor.heaps, lifted.heaps, strict=True)]
    )
    usual = float(np.median(np.abs(moved)))
    found = []
    full = floor.facts[FULL_SCALE][0]
    if usual < LEAST_MOVE * full:
        return [
            Finding(
                "error", "No sensor tells the floor from the air.",
                f"They differ by {100.0 * usual / full:.1f} % of all that can be read.",
                "Was it lifted? Then see whether it has supply and ground, and its lamps glow in a "
                "camera.",
            )
        ]  # fmt: skip
    way = math.copysign(1.0, float(np.median(moved)))
    for one, change in zip(floor.heaps, moved.tolist(), strict=True):
        if abs(change) < _NO_LIGHT * usual:
            lane = next(lane for lane in lifted.heaps if lane.lane == one.lane)
            at_end = one.clipped == one.light.n
            ends = at_end or one.light.sd == 0.0 == lane.light.sd
            found.append(
                Finding(
                    "error",
                    f"Sensor {one.lane} is dead." if ends else f"Sensor {one.lane} gets no light.",
                    "It reads the same over the floor and in the air"
                    + (", without a count of noise." if ends else "."),
                    "Check its wires and its resistor."
                    if ends
                    else "See in a camera whether its lamp glows; swap the lamp, or its resistor.",
                )
            )
        elif change * way < 0.0:
            found.append(
                Finding(
                    "error",
                    f"Sensor {one.lane} is reversed.",
                    "It answers the floor the other way round than the rest.",
                    "Its resistor goes to the other rail, or its two leads are swapped.",
                )
            )
    good = [place for place, change in enumerate(moved) if abs(change) >= _NO_LIGHT * usual]
    if len(good) >= 3:
        places = np.array(good, dtype=np.float64)
        spans = np.abs(moved[good])
        slope = float(np.polyfit(places, spans, 1)[0]) * (places[-1] - places[0]) / spans.mean()
        if abs(slope) > _ASKEW:
            side = "right" if slope < 0.0 else "left"
            found.append(
                Finding(
                    "warning",
                    f"The row sits askew: its {side} is farther from the floor.",
                    f"From one end to the other the answer changes by {100.0 * abs(slope):.0f} %.",
                    "Bring all sensors to one height and angle.",
                )
            )
    return found


def _passes(passed: Taken) -> list[Finding]:
    """In which order the line passed, and how well it was told from the floor."""
    found = []
    at_s = passed.facts.get("passed_s", [])
    for one, at in zip(passed.heaps, at_s, strict=True):
        if at < 0.0:
            found.append(
                Finding(
                    "error",
                    f"Sensor {one.lane} did not see the line pass.",
                    f"{one.why_not[:1].upper()}{one.why_not[1:]}.",
                    "Slide it right across; if it stays so, the sensor is dead or its lamp is out.",
                )
            )
    seen = [(at, one.lane) for one, at in zip(passed.heaps, at_s, strict=True) if at >= 0.0]
    order = [lane for _, lane in sorted(seen)]
    wired = [lane for _, lane in seen]
    if len(wired) > 1 and order == wired[::-1]:
        found.append(
            Finding(
                "error",
                "The row is left for right.",
                "The line passed the last sensor first.",
                "Turn the plug round, or say in the working line that the first is on the right.",
            )
        )
    elif order != wired:
        wrong = [a for a, b in zip(order, wired, strict=True) if a != b]
        found.append(
            Finding(
                "error",
                f"Sensors {' and '.join(sorted(wrong))} are swapped.",
                f"The line passed them in the order {', '.join(order)}.",
                "Swap their leads.",
            )
        )
    apart = [d_prime(one.dark, one.light) for one in passed.heaps if not one.why_not]
    if apart and float(np.median(apart)) < _WIDE:
        found.append(
            Finding(
                "warning",
                "The row is too high, or the room too bright.",
                f"Line and floor stand only {float(np.median(apart)):.1f} of their scatter apart.",
                "Lower it, or take the height study.",
            )
        )
    return found
