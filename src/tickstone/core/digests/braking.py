"""Braking from a run: how hard it slows down, with what gravity adds on a slope taken off."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar

import numpy as np

from tickstone.core.attitude import Trust, at_the_times_of
from tickstone.core.digests.kind import DigestKind, Figure
from tickstone.core.quantity import ACCELERATION, SPEED, Quantity
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.complementary import Complementary

_G = STANDARD_GRAVITY_M_PER_S2
_OVER_S = 0.12
_SLOW_S, _CALM = 10.0, 0.05 * _G
_TIME = Quantity("time", "s", decimals=2)
_HARD = 0.5
"""Of its hardest, by which a braking begins and ends."""


class Braking(DigestKind):
    """The hardest braking along forward: its mean, how long it lasted, and what speed it took.

    Where turning is told, gravity's part along the slope is taken off by it; else what is
    felt in the calm before is.

    >>> from tickstone.core.quantity import FORCE
    >>> t = np.arange(300) / 100
    >>> x = np.where((t > 1.0) & (t <= 1.5), -3.0, 0.0)
    >>> felt = Signal.of(t, [x, 0 * t, 9.8 + 0 * t], FORCE)
    >>> told = Braking().figures({"force": felt}, 0.0, 3.0, lambda *_: 0.1, None)
    >>> {one.name: round(one.value, 1) for one in told}["braking"]
    3.0
    """

    name: ClassVar[str] = "braking"
    label: ClassVar[str] = "Braking"
    takes: ClassVar[tuple[str, ...]] = ("force",)

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Braking, its time, and the speed it took off."""
        force = results["force"]
        along = force.values[0].copy()
        rotation = results.get("rotation")
        if rotation is not None:
            # At rest on a slope x feels −g·sin(pitch).
            along = along + _G * np.sin(_slope(force, rotation))
            how = "forward, gravity taken off by the slow attitude"
        else:
            how = "forward, against the middle of the stretch"
        inside = (force.time_s >= from_s) & (force.time_s <= to_s) & ~np.isnan(along)
        time_s, along = force.time_s[inside], along[inside]
        if rotation is None and len(along):
            along = along - float(np.median(along))
        found = _hardest(time_s, along)
        if found is None:
            nan = math.nan
            return [Figure("braking", "braking", ACCELERATION, nan, nan, "too few readings")]
        first, last = found
        part = along[first:last]
        mean = -float(part.mean())
        lasted = float(time_s[last - 1] - time_s[first])
        # Of a mean: its scatter, and what is doubted of the reading itself.
        u = math.hypot(float(part.std(ddof=1)) / math.sqrt(len(part)), u_of("force", -mean))
        took = mean * lasted
        return (
            Figure("braking", "braking", ACCELERATION, mean, u, how, feeds="deceleration_m_per_s2"),
            Figure("lasted", "for", _TIME, lasted, math.nan, f"while above {100 * _HARD:.0f} %"),
            Figure("took", "took off", SPEED, took, u * lasted, "braking × time"),
        )


class BrakingOnSlopes(Braking):
    """The same where the attitude is told."""

    takes: ClassVar[tuple[str, ...]] = ("force", "rotation")


def _slope(force: Signal, rotation: Signal) -> FloatArray:
    """Pitch at every sample, rad, by a fusion so slow that no braking passes for a slope."""
    rate = at_the_times_of(force, rotation)
    stage = Complementary(_SLOW_S, Trust(_CALM))
    told: FloatArray = stage.run(stage.begin(), force, rate)[0].values[1]
    return told


def _hardest(time_s: FloatArray, along: FloatArray) -> tuple[int, int] | None:
    """The stretch of the hardest braking, as places; None when there is too little."""
    if len(along) < 10:
        return None
    gap_s = float(np.median(np.diff(time_s)))
    over = max(3, round(_OVER_S / max(gap_s, 1e-6)) | 1)
    if len(along) < 2 * over:
        return None
    smooth = np.convolve(along, np.ones(over) / over, mode="same")
    smooth[: over // 2] = smooth[-(over // 2) :] = 0.0
    hardest = int(np.argmin(smooth))
    limit = _HARD * float(smooth[hardest])
    if not limit < 0.0:
        return None
    first = last = hardest
    while first > 0 and smooth[first - 1] <= limit:
        first -= 1
    while last < len(smooth) - 1 and smooth[last + 1] <= limit:
        last += 1
    return (first, last + 1) if last + 1 - first >= 3 else None
