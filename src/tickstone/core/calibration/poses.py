"""Which face of a board is up, and whether it was held still: for whoever calibrates by faces."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from tickstone.core.axes import AXES
from tickstone.core.calibration.kind import Span, SpanResult
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.axes_matrix import first_flag
from tickstone.core.status import Status

BIN_S = 0.25
LEAST_S = 1.0
"""A face counts as held once it was still for so long."""
_TIMES_NOISE = 4.0
_ON_A_FACE = math.cos(math.radians(25.0))
_QUIETEST = 0.2
_LOUDEST = 8.0


@dataclass(frozen=True, slots=True)
class Held:
    """A stretch in which nothing moved. mean, scatter: of each axis, shape (3,)."""

    start_s: float
    end_s: float
    mean: FloatArray
    scatter: FloatArray
    drift: FloatArray
    count: int

    @property
    def u(self) -> FloatArray:
        """Standard uncertainty of the means, by noise alone, shape (3,)."""
        result: FloatArray = self.scatter / math.sqrt(max(1, self.count))
        return result


def good_samples(signal: Signal) -> tuple[FloatArray, FloatArray]:
    """Times, shape (n,), and values, shape (3, n), of samples good in all axes."""
    good = (first_flag(signal.status) == Status.OK) & ~np.isnan(signal.values).any(axis=0)
    return signal.time_s[good], signal.values[:, good]


def held_between(time_s: FloatArray, values: FloatArray) -> Held:
    """What was read over a stretch, taken as one."""
    half = values.shape[1] // 2
    drift = values[:, half:].mean(axis=1) - values[:, :half].mean(axis=1) if half else np.zeros(3)
    scatter = values.std(axis=1, ddof=1) if values.shape[1] > 1 else np.zeros(3)
    return Held(
        float(time_s[0]), float(time_s[-1]), values.mean(axis=1), scatter, drift, values.shape[1]
    )


def noise_floor(time_s: FloatArray, values: FloatArray) -> float:
    """The sensor's own noise, all axes together: what its quietest quarter seconds scatter by."""
    scatters = [
        float(np.linalg.norm(part.std(axis=1)))
        for _, part in _bins(time_s, values)
        if part.shape[1] >= 3
    ]
    if not scatters:
        return 0.0
    scatters.sort()
    quiet = scatters[: max(1, int(_QUIETEST * len(scatters)))]
    return float(np.median(quiet))


def stillness(
    signal: Signal, steady: float, least_s: float = LEAST_S, noise: float | None = None
) -> list[Held]:
    """Stretches of `least_s` or more in which no axis moved by more than noise does.

    steady: what is granted beside noise, in the unit of the signal. noise: of the sensor, where it
    is known; else that of its quietest moments. A quarter second at either end is left off.

    >>> from tickstone.core.quantity import FORCE
    >>> t = np.arange(0, 9, 0.01)
    >>> z = np.where(t < 3, 9.8, np.where(t < 6, -9.8, 30 * np.sin(9 * t)))
    >>> held = stillness(Signal.of(t, [0 * t, 0 * t, z], FORCE), 0.05)
    >>> [(round(one.start_s, 1), round(one.end_s, 1), face_of(one.mean)) for one in held]
    [(0.2, 2.7, '+z'), (3.2, 5.7, '-z')]
    """
    time_s, values = good_samples(signal)
    if len(time_s) < 4:
        return []
    own = noise_floor(time_s, values) if noise is None else noise
    # What never came to rest has no quiet moment to tell its noise by.
    own = min(own, _LOUDEST * steady)
    found: list[Held] = []
    run: list[tuple[FloatArray, FloatArray]] = []
    first = np.zeros(3)
    before_s = -math.inf
    for times, part in [*_bins(time_s, values), (np.array([math.inf]), np.full((3, 1), np.nan))]:
        mean = part.mean(axis=1)
        granted = _TIMES_NOISE * own / math.sqrt(part.shape[1]) + steady
        quiet = float(np.linalg.norm(part.std(axis=1))) <= 2.0 * own + steady
        follows = bool(run) and times[0] - before_s <= 2.0 * BIN_S
        if quiet and follows and float(np.abs(mean - first).max()) <= granted:
            run.append((times, part))
        else:
            _keep(run, least_s, found)
            run, first = ([(times, part)], mean) if quiet else ([], mean)
        before_s = float(times[-1])
    return found


def longest_still(signal: Signal, steady: float) -> Held | None:
    """The longest of those stretches; None where nothing was still."""
    return max(stillness(signal, steady), key=lambda one: one.count, default=None)


def held_result(
    span: Span,
    held: Held | None,
    axis: int,
    is_used: bool,
    *,
    is_still: bool | None = None,
    count: int | None = None,
    residual: float | None = None,
) -> SpanResult:
    """What came of a span of three axes. axis: the one it is told by. is_still, count: those of
    `held` and `is_used` unless given.
    """
    if count is None:
        count = held.count if held is not None else 0
    return SpanResult(
        name=span.name,
        true=None,
        u=None,
        read=float(held.mean[axis]) if held is not None else None,
        scatter=float(held.scatter[axis]) if held is not None else None,
        drift=float(held.drift[axis]) if held is not None else None,
        count=count,
        flagged=len(span.signal) - len(good_samples(span.signal)[0]),
        wild=0,
        is_still=is_used if is_still is None else is_still,
        is_used=is_used,
        residual=residual,
    )


def _keep(run: list[tuple[FloatArray, FloatArray]], least_s: float, found: list[Held]) -> None:
    inner = run[1:-1] if len(run) > 4 else run
    if not inner:
        return
    time_s = np.concatenate([times for times, _ in inner])
    if time_s[-1] - time_s[0] < least_s - 2.0 * BIN_S:
        return
    found.append(held_between(time_s, np.concatenate([part for _, part in inner], axis=1)))


def _bins(time_s: FloatArray, values: FloatArray) -> list[tuple[FloatArray, FloatArray]]:
    numbers = np.floor((time_s - time_s[0]) / BIN_S).astype(np.int64) if len(time_s) else time_s
    cuts = np.flatnonzero(np.diff(numbers)) + 1
    return list(zip(np.split(time_s, cuts), np.split(values, cuts, axis=1), strict=True))


def face_of(mean: FloatArray) -> str:
    """The axis that points up, by what reads +1 g there; empty when none does nearly enough.

    >>> face_of(np.array([0.1, -9.7, 0.3])), face_of(np.array([7.0, 7.0, 0.0]))
    ('-y', '')
    """
    size = float(np.linalg.norm(mean))
    axis = int(np.argmax(np.abs(mean)))
    if size == 0.0 or abs(mean[axis]) < _ON_A_FACE * size:
        return ""
    return AXES[2 * axis + int(mean[axis] < 0.0)]


def face_said(face: str) -> str:
    """A face as a person calls it; empty for none.

    >>> face_said("-y"), face_said("")
    ('y down', '')
    """
    return face and f"{face[1]} {'up' if face[0] == '+' else 'down'}"


def split_span(span: Span, steady: float) -> list[Span]:
    """A span in which several faces were held as one for each; any other as it is."""
    held = stillness(span.signal, steady)
    if len({face_of(one.mean) for one in held} - {""}) < 2:
        return [span]
    found = []
    for one in held:
        first, last = np.searchsorted(span.signal.time_s, [one.start_s, one.end_s])
        part = span.signal.between(int(first), int(last) + 1)
        face = face_of(one.mean)
        name = face_said(face) or "aslant"
        found.append(Span(name, part, start_s=one.start_s, end_s=one.end_s))
    return found
