"""What is to be said of black and white, of all sensors together and of each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tickstone.core.calibration.black_white_heaps import BLACK, WHITE
from tickstone.core.calibration.kind import Span
from tickstone.core.finding import Finding
from tickstone.core.heaps.heap import d_prime
from tickstone.core.heaps.lanes import LaneHeaps

_WIDE = 5.0
"""Heaps nearer than this in their own scatter leave little room for a threshold."""
_DRIFTED = 1.5
_CLIPPED_SHARE = 0.2
_EVEN = 0.1
"""Heaps as near as this to half each do not say which of them is the strip."""


def missing_said(missing: Sequence[LaneHeaps], count: int) -> str:
    """Of which of `count` sensors black and white are not both known, and what to do."""
    if len(missing) == count:
        return f"no sensor is known yet: {missing[0].why_not}"
    names = ", ".join(one.lane for one in missing)
    plural = "s" if len(missing) > 1 else ""
    return (
        f"sensor{plural} {names}: {missing[0].why_not}. Wave far enough that every sensor sees "
        "both, or see whether it is wired and lit"
    )


def is_dark_high(lanes: Sequence[LaneHeaps]) -> bool:
    """Whether most of the sensors read black higher than white."""
    return 2 * sum(one.dark.mean > one.light.mean for one in lanes) > len(lanes)


def remarks_on(lanes: Sequence[LaneHeaps], spans: Sequence[Span], parameters: Any) -> list[Finding]:
    """Which way they read and how that was learnt, and what is wrong with a lane.

    lanes: one or more, of which black and white are known.
    """
    dark_is_high = is_dark_high(lanes)
    higher, lower = ("black", "white") if dark_is_high else ("white", "black")
    is_told = any(span.name in (BLACK, WHITE) for span in spans)
    how = "by what was held" if is_told else "as the sensor’s settings say"
    remarks = []
    if not is_told and parameters.more_light == "unknown":
        on_line = sum(one.dark.n if parameters.line_is == "dark" else one.light.n for one in lanes)
        share = on_line / sum(one.dark.n + one.light.n for one in lanes)
        how = f"the strip is what they saw less of, {100.0 * share:.0f} % of the wave"
        if abs(share - 0.5) < _EVEN:
            remarks.append(
                Finding(
                    "warning",
                    "Which heap is black is a guess.",
                    "They saw about as much of one as of the other.",
                    "Hold the row over white for two seconds, and mark that as white.",
                )
            )
    light = "lower" if dark_is_high else "higher"
    remarks.append(
        Finding(
            "note",
            f"More light reads {light}: {higher} is above {lower}.",
            f"Learnt: {how}.",
            "Mark a stretch over black or white alone if it is the other way round.",
        )
    )
    odd = [one.lane for one in lanes if (one.dark.mean > one.light.mean) != dark_is_high]
    if odd:
        remarks.append(
            Finding(
                "error",
                f"Sensor {', '.join(odd)} reads the other way round than the rest.",
                "Black and white are swapped under it, or its resistor goes to the other rail.",
                "Check its wires, and the marks.",
            )
        )
    for one in lanes:
        remarks += _remarks_on_lane(one)
    return remarks


def _remarks_on_lane(one: LaneHeaps) -> list[Finding]:
    remarks = []
    apart = d_prime(one.dark, one.light)
    if apart < _WIDE:
        remarks.append(
            Finding(
                "warning",
                f"Sensor {one.lane}: black and white overlap, d′ {apart:.1f}.",
                "A threshold between them will misread often.",
                "Bring it nearer to its best height, or shade it from the room’s light.",
            )
        )
    total = sum(heap.n for heap in one.heaps) + one.between
    if one.clipped > _CLIPPED_SHARE * max(1, total):
        remarks.append(
            Finding(
                "warning",
                f"Sensor {one.lane} stands at an end of the converter {one.clipped} times.",
                "What lies beyond reads the same, so its heap looks narrower than it is.",
                "A smaller load resistor, less current for the lamp, or more height.",
            )
        )
    for heap, drift in ((one.dark, one.drift[0]), (one.light, one.drift[1])):
        if abs(drift) > _DRIFTED:
            remarks.append(
                Finding(
                    "warning",
                    f"Sensor {one.lane}: {heap.name} moved by {abs(drift):.1f} of its scatter.",
                    "Supply, lamp, height or the light of the room changed meanwhile.",
                    "Let it warm up, keep the height, and wave again.",
                )
            )
    return remarks
