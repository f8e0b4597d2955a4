"""One look at a recording through a chain: a trace for the screen, the working, the findings."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from sqlalchemy.orm import Session
from tsdownsample import M4Downsampler

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chain import Chain, Step
from tickstone.core.families.ultrasonic_ranger import RangerParameters, ranger_chain, sound_speed
from tickstone.core.finding import Finding, worst_first
from tickstone.core.findings import air_findings, budget_findings
from tickstone.core.pauses import pauses_after
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.air_speed import MICROSECOND
from tickstone.core.stages.calibration import Calibration
from tickstone.core.stages.stop_threshold import Decision, StopThreshold
from tickstone.core.status import Status
from tickstone.store.models import Recording
from tickstone.work.cache import RecordingCache

_FLAGS_DRAWN_SINGLY = 500
_MOST_SPANS = 1_000


@dataclass(frozen=True, slots=True)
class Look:
    """What to look at and with which chain."""

    parameters: RangerParameters
    air: AirConditions
    calibration: Calibration | None = None
    threshold: StopThreshold | None = None
    from_s: float | None = None
    to_s: float | None = None
    points: int = 1_600
    at_s: float | None = None


@dataclass(frozen=True, slots=True)
class Flag:
    """A flagged sample."""

    time_s: float
    status: Status


@dataclass(frozen=True, slots=True)
class DecisionSpan:
    """A stretch of time with one decision."""

    from_s: float
    to_s: float
    decision: Decision


@dataclass(frozen=True, slots=True)
class View:
    """What the screen needs. distance_m is None where the line is broken by flagged samples.

    spread_m: expanded uncertainty along spread_at_m, m. pauses: where nothing came at all, s.
    """

    samples: int
    shown_samples: int
    duration_s: float
    from_s: float
    to_s: float
    time_s: list[float]
    distance_m: list[float | None]
    flags: list[Flag]
    pauses: list[tuple[float, float]]
    decisions: list[DecisionSpan]
    counts: dict[Status, int]
    at_index: int | None
    at_s: float | None
    working: tuple[Step, ...]
    spread_at_m: list[float]
    spread_m: list[float]
    findings: tuple[Finding, ...]


def look_at(session: Session, cache: RecordingCache, recording: Recording, look: Look) -> View:
    """Run the chain over a recording and prepare a window of it for the screen."""
    measure = ranger_chain(look.parameters, look.air, look.calibration)
    echo = cache.echo(session, recording)
    measured = cache.measured(session, recording, measure)
    distance = measured.distance
    first, last = _window(echo.time_s, look.from_s, look.to_s)
    shown = distance.between(first, last)
    decisions: list[DecisionSpan] = []
    if look.threshold is not None and len(echo):
        codes = cache.decided(session, recording, measure, look.threshold)
        decisions = _spans(shown.time_s, codes[first:last])
    chain = Chain((*measure.stages, look.threshold)) if look.threshold else measure
    index = _sample_at(distance, look.at_s)
    working = chain.explain(echo, index) if index is not None else ()
    time_s, distance_m = _trace(shown, look.points)
    silences = pauses_after(shown.time_s)
    spread_at, spread = _spread(look, shown)
    sound = sound_speed(look.parameters, look.air)
    distances = [step for step in working if step.unit == "m"]
    findings = [
        *measured.findings,
        *air_findings(sound, look.air, look.parameters.reads_the_air),
        *(budget_findings(distances[-1]) if distances else []),
    ]
    return View(
        samples=len(echo),
        shown_samples=len(shown),
        duration_s=float(echo.time_s[-1]) if len(echo) else 0.0,
        from_s=float(shown.time_s[0]) if len(shown) else 0.0,
        to_s=float(shown.time_s[-1]) if len(shown) else 0.0,
        time_s=time_s,
        distance_m=distance_m,
        flags=_flags(shown, look.points // 4),
        pauses=[(float(shown.time_s[n]), float(shown.time_s[n + 1])) for n in silences],
        decisions=decisions,
        counts=measured.counts,
        at_index=index,
        at_s=float(echo.time_s[index]) if index is not None else None,
        working=working,
        spread_at_m=spread_at,
        spread_m=spread,
        findings=worst_first(findings),
    )


def echo_for_distance_us(
    distance_m: float, parameters: RangerParameters, air: AirConditions
) -> float:
    """The echo time, µs, that the uncalibrated chain would read as `distance_m`.

    >>> round(echo_for_distance_us(0.99537, RangerParameters(mount_m=0.008), AirConditions(20.0)))
    5834
    """
    slant = float(np.hypot(distance_m + parameters.mount_m, parameters.baseline_m / 2.0))
    return 2.0 * slant / (sound_speed(parameters, air).value * MICROSECOND)


def reading_u_m(
    distance_m: float,
    parameters: RangerParameters,
    air: AirConditions,
    calibration: Calibration | None,
) -> float:
    """Standard uncertainty of one reading near `distance_m`, m, or of the farthest it can take."""
    heard_m = sound_speed(parameters, air).value * MICROSECOND * parameters.timeout_us / 2.0
    farthest_m = min(parameters.max_m, heard_m - parameters.mount_m - parameters.baseline_m)
    distance_m = max(parameters.min_m, min(distance_m, 0.99 * farthest_m))
    echo = Signal.of([0.0], [echo_for_distance_us(distance_m, parameters, air)], "µs")
    return ranger_chain(parameters, air, calibration).explain(echo, 0)[-1].u


def _window(time_s: FloatArray, from_s: float | None, to_s: float | None) -> tuple[int, int]:
    first = 0 if from_s is None else int(np.searchsorted(time_s, from_s, side="left"))
    last = len(time_s) if to_s is None else int(np.searchsorted(time_s, to_s, side="right"))
    return first, max(first, last)


def _sample_at(signal: Signal, at_s: float | None) -> int | None:
    """The sample nearest to a time; without one, the last good sample."""
    if len(signal) == 0:
        return None
    if at_s is None:
        good = np.flatnonzero(signal.ok)
        return int(good[-1]) if good.size else len(signal) - 1
    right = int(np.clip(np.searchsorted(signal.time_s, at_s), 0, len(signal) - 1))
    left = max(0, right - 1)
    nearer_left = abs(signal.time_s[left] - at_s) < abs(signal.time_s[right] - at_s)
    return left if nearer_left else right


def _trace(signal: Signal, points: int) -> tuple[list[float], list[float | None]]:
    good = np.flatnonzero(signal.ok)
    if good.size == 0:
        return [], []
    drawn = good
    if good.size > points:
        keep = M4Downsampler().downsample(  # type: ignore[no-untyped-call]
            np.ascontiguousarray(signal.values[good]), n_out=points - points % 4
        )
        drawn = good[keep.astype(np.int64)]
    flagged_before = np.cumsum(~signal.ok)
    silent_before = np.zeros(len(signal), dtype=np.int64)
    silent_before[pauses_after(signal.time_s) + 1] = 1
    silent_before = np.cumsum(silent_before)
    silent = np.diff(silent_before[drawn]) > 0
    broken = np.flatnonzero((np.diff(flagged_before[drawn]) > 0) | silent)
    if good.size > points:
        pixel_s = (signal.time_s[-1] - signal.time_s[0]) / (points / 4)
        wide = signal.time_s[drawn[broken + 1]] - signal.time_s[drawn[broken]] > 1.5 * pixel_s
        broken = broken[wide | silent[broken]]
    times = signal.time_s[drawn]
    gap_at = (times[broken] + times[broken + 1]) / 2.0
    time_s = np.insert(times, broken + 1, gap_at)
    values: npt.NDArray[np.float64] = np.insert(signal.values[drawn], broken + 1, np.nan)
    return (
        np.round(time_s, 6).tolist(),
        [None if value != value else value for value in np.round(values, 6).tolist()],
    )


def _flags(signal: Signal, columns: int) -> list[Flag]:
    places = np.flatnonzero(~signal.ok)
    if places.size > _FLAGS_DRAWN_SINGLY:
        span = max(1e-9, float(signal.time_s[-1] - signal.time_s[0]))
        pixels = ((signal.time_s[places] - signal.time_s[0]) / span * columns).astype(np.int64)
        _, firsts = np.unique(pixels * 16 + signal.status[places], return_index=True)
        places = places[np.sort(firsts)]
    return [Flag(float(signal.time_s[i]), Status(int(signal.status[i]))) for i in places]


def _spans(time_s: FloatArray, codes: npt.NDArray[np.uint8]) -> list[DecisionSpan]:
    if len(codes) == 0:
        return []
    starts = np.concatenate(([0], np.flatnonzero(codes[1:] != codes[:-1]) + 1))
    if len(starts) > _MOST_SPANS:
        edges = np.linspace(0, len(codes), _MOST_SPANS + 1).astype(np.int64)[:-1]
        worst = np.maximum.reduceat(codes, edges)
        codes = np.repeat(worst, np.diff(np.append(edges, len(codes))))
        starts = np.concatenate(([0], np.flatnonzero(codes[1:] != codes[:-1]) + 1))
    ends = np.append(starts[1:], len(codes) - 1)
    return [
        DecisionSpan(float(time_s[a]), float(time_s[b]), Decision(int(codes[a])))
        for a, b in zip(starts, ends, strict=True)
    ]


def _spread(look: Look, signal: Signal) -> tuple[list[float], list[float]]:
    good = signal.values[signal.ok]
    if good.size == 0:
        return [], []
    low, high = max(0.01, float(good.min())), max(0.02, float(good.max()))
    at = np.linspace(low, max(high, low + 0.01), 9).tolist()
    us = [reading_u_m(d, look.parameters, look.air, look.calibration) for d in at]
    kept = [(d, 2.0 * u) for d, u in zip(at, us, strict=True) if np.isfinite(u)]
    return [d for d, _ in kept], [spread for _, spread in kept]
