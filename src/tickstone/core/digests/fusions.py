"""Ways to put accelerometer and gyroscope together, side by side on one recording."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, ClassVar

import numpy as np

from tickstone.core.attitude import Fusion, Trust, at_the_times_of
from tickstone.core.calibration.faces import STEADY
from tickstone.core.calibration.poses import Held, stillness
from tickstone.core.digests.kind import MARKED, DigestKind, Figure, Markable
from tickstone.core.digests.suggested_gains import suggested_gains
from tickstone.core.display import grouped
from tickstone.core.inputs import inputs_of
from tickstone.core.quantity import ANGLE
from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.level_turn import tilt_of
from tickstone.core.stages.tilt import Tilt

_FINE = replace(ANGLE, decimals=2)
_TELLS_S = 1.0


class Fusions(DigestKind):
    """What each is off by where it was held still, how it trembles there, and what alone would do.

    True is the mean tilt of a still stretch: gravity, and nothing else, was felt there; and what
    was marked as true, also on the move.
    """

    name: ClassVar[str] = "fusions"
    label: ClassVar[str] = "Ways to fuse, side by side"
    takes: ClassVar[tuple[str, ...]] = ("force", "rotation")
    marks: ClassVar[tuple[Markable, ...]] = (
        Markable("true roll", "roll", ANGLE),
        Markable("true pitch", "pitch", ANGLE),
    )

    def figures(
        self,
        results: Mapping[str, Signal],
        from_s: float,
        to_s: float,
        u_of: Callable[[str, float], float],
        parameters: Any,
    ) -> Sequence[Figure]:
        """Each of the four as it is set, then each sensor alone, then what the noise suggests."""
        force = results["force"]
        rate = at_the_times_of(force, results["rotation"])
        first, last = np.searchsorted(force.time_s, (from_s, np.nextafter(to_s, np.inf))).tolist()
        inside = slice(first, last)
        # Of the stretch alone: the middle of a long rest is a rest, too.
        held = [
            one for one in stillness(force.between(first, last), STEADY, _TELLS_S)
            if _feels_gravity(one)
        ]  # fmt: skip
        marked = _inside(results.get(MARKED), inside)
        if not held:
            return [_none("nothing was held still for a second in this stretch")]
        figures: list[Figure] = []
        for name in _ways(parameters):
            stage = replace(parameters, fusion=name).fusion_stage(Trust(parameters.gate))
            told = _angles(stage, force, rate)
            label = stage.label
            off, trembles = _against(told, force.time_s, held)
            figures += [
                Figure(f"{name}_off", f"{label}, off", _FINE, off, math.nan, "held still"),
                Figure(
                    f"{name}_trembles", f"{label}, trembles", _FINE, trembles, math.nan, "still"
                ),
                *_marked(name, label, told, marked),
            ]
        alone = Tilt("level").apply(force)
        figures += _marked("accelerometer", "accelerometer alone", alone.values, marked)
        _, trembles = _against(
            np.where(np.isnan(alone.values), 0.0, alone.values), force.time_s, held
        )
        swing = float(np.nanstd(alone.values[:, inside].sum(axis=0)))
        drift = _drift(force, rate, held)
        return [
            *figures,
            Figure("accelerometer", "accelerometer alone, trembles", _FINE, trembles, math.nan,
                   "and believes whatever shakes it"),
            Figure("swings", "and swings on the way by", _FINE, swing, math.nan, "all of it"),
            Figure("gyroscope", "gyroscope alone, off at the end", _FINE, drift, math.nan,
                   "since the first still stretch; it never comes back"),
            *suggested_gains(parameters, force, rate, held),
        ]  # fmt: skip


def _ways(parameters: Any) -> list[str]:
    """Every way that a sensor can be set to."""
    offered = next(one for one in inputs_of(type(parameters)) if one.name == "fusion").choices
    return [str(one.value) for one in offered]


def _inside(marked: Signal | None, inside: slice) -> FloatArray | None:
    """What was marked in a stretch, NaN elsewhere; None when nothing was."""
    if marked is None:
        return None
    true = np.full(marked.values.shape, np.nan)
    true[:, inside] = marked.values[:, inside]
    return None if np.isnan(true).all() else true


def _marked(name: str, label: str, told: FloatArray, true: FloatArray | None) -> tuple[Figure, ...]:
    """How far off what was marked, root mean square over roll and pitch."""
    if true is None:
        return ()
    off = _turned_by(told - true)
    count = int((~np.isnan(off)).any(axis=0).sum())
    off_rad = math.nan if np.isnan(off).all() else math.sqrt(float(np.nanmean(off**2)))
    return (
        Figure(
            f"{name}_off_marked", f"{label}, off the marked angle", _FINE, off_rad, math.nan,
            f"over {grouped(count, 0)} reading{'' if count == 1 else 's'} under marks",
        ),
    )  # fmt: skip


def _turned_by(angle: FloatArray) -> FloatArray:
    """Between −180 and 180°."""
    return (angle + np.pi) % (2.0 * np.pi) - np.pi


def _feels_gravity(one: Held) -> bool:
    return float(np.linalg.norm(one.mean)) > 0.5 * STANDARD_GRAVITY_M_PER_S2


def _none(why: str) -> Figure:
    return Figure("off", "off", _FINE, math.nan, math.nan, why)


def _angles(stage: Fusion, force: Signal, rate: Signal) -> FloatArray:
    told: FloatArray = stage.run(stage.begin(), force, rate)[0].values[:2]
    return told


def _against(angles: FloatArray, time_s: FloatArray, held: Sequence[Held]) -> tuple[float, float]:
    """Root mean square off the true tilt, and scatter about its own mean, while held; rad."""
    offs, scatters = [], []
    for one in held:
        inside = (time_s >= one.start_s) & (time_s <= one.end_s)
        true = np.array(tilt_of(one.mean))[:, None]
        part = angles[:, inside]
        off = _turned_by(part - true)
        offs.append(np.sum(off**2, axis=0))
        scatters.append(np.sum((off - off.mean(axis=1, keepdims=True)) ** 2, axis=0))
    square = float(np.nanmean(np.concatenate(offs)))
    return math.sqrt(square), math.sqrt(float(np.nanmean(np.concatenate(scatters))))


def _drift(force: Signal, rate: Signal, held: Sequence[Held]) -> float:
    """Of the gyroscope summed alone from the first still stretch to the last, off the true tilt."""
    first, last = held[0], held[-1]
    inside = (rate.time_s >= first.start_s) & (rate.time_s <= last.end_s)
    values = np.nan_to_num(rate.values[:2, inside])
    turned = np.trapezoid(values, rate.time_s[inside], axis=1)
    moved = np.array(tilt_of(last.mean)) - np.array(tilt_of(first.mean))
    return float(np.hypot(*(turned - moved)))
