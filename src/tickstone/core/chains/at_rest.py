"""What an accelerometer that was held still should have felt, and did not."""

from __future__ import annotations

from typing import Any

import numpy as np

from tickstone.core.calibration.faces import STEADY, likely_scale
from tickstone.core.calibration.poses import stillness
from tickstone.core.finding import Finding
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2 as G
from tickstone.core.signal import Signal

_JUDGED = 10_000
"""Readings at either end of a recording that are judged; all the rest is like them, or shows."""
_NOTHING = 0.05
_OFF_BY_RANGE = 0.15
"""g: more is no zero that a unit could have, but another range."""


def rest_findings(force: Signal, parameters: Any) -> list[Finding]:
    """That held still it feels another size than 1 g: then it says “moving”, and it is not.

    force: in the rig. parameters: with `rest_within`, m/s².
    """
    ends = [force.between(0, min(len(force), _JUDGED)), force.between(_JUDGED, len(force))]
    ends[1] = ends[1].between(max(0, len(ends[1]) - _JUDGED), len(ends[1]))
    held = [one for part in ends for one in stillness(part, STEADY)]
    sizes = [float(np.linalg.norm(one.mean)) / G for one in held]
    limit = max(parameters.rest_within / G, 0.02)
    off = [(one, size) for one, size in zip(held, sizes, strict=True) if abs(size - 1.0) > limit]
    if not off:
        return []
    first, size = off[0]
    when = f"At {first.start_s:.1f} s"
    if size < _NOTHING:
        return [
            Finding(
                "error", f"{when} it feels nothing, not even gravity.",
                "A unit that is asleep, or columns that are not its axes, read about 0; a fall "
                "does, too, and never for so long.",
                "Check its columns, and that the program wakes it.",
            )
        ]  # fmt: skip
    if max(sizes) > 1.6 * min(sizes):
        return [
            Finding(
                "error",
                f"Held still it feels {min(sizes):.2f} g at one time, {max(sizes):.2f} g at "
                "another.",
                f"{when} it is {size:.2f} g. The range was changed half-way, or its columns are in "
                "mixed units.",
                "Take the parts of this recording by themselves.",
            )
        ]  # fmt: skip
    return [
        Finding(
            "warning", f"Held still it feels {size:.2f} g, not 1 g.",
            f"{when} and {len(off)} times in all. So it is taken for moving there, and tells no "
            "tilt that can be trusted.",
            f"Look into it: {likely_scale(size, parameters)}."
            if abs(size - 1.0) > _OFF_BY_RANGE
            else "Hold it still on its six faces: its zero and scale are not known yet.",
        )
    ]  # fmt: skip
