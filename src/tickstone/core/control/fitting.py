"""Gain, lag and dead time from a step of one's own, with their ±, and whether they say it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import OptimizeResult, least_squares

from tickstone.core.control.plant import FloatArray, Plant
from tickstone.core.quantity import NUMBER, Quantity

LAG, ROLLING = "lag", "rolling"
MODELS = {
    LAG: "follows and comes to rest: gain, lag, dead time",
    ROLLING: "rolls on as long as it is driven: gain, lag, dead time, one integrator",
}
_MOST_SAMPLES = 2_000
_STARTS = (0.02, 0.08, 0.25)


@dataclass(frozen=True, slots=True)
class StepFit:
    """What a run says of a plant. us: standard uncertainties of gain, lag_s and delay_s, widened
    for residuals that hang together. scatter: what is left over, one standard deviation. told: what
    the fitted plant gives, at `time_s`. remarks: what speaks against it.
    """

    plant: Plant
    model: str
    us: tuple[float, float, float]
    scatter: float
    explained: float
    time_s: FloatArray
    read: FloatArray
    told: FloatArray
    remarks: tuple[str, ...]


def fit_step(
    time_s: FloatArray, output: FloatArray, read: FloatArray, model: str = LAG,
    measured: Quantity = NUMBER, steered: Quantity = NUMBER,
) -> StepFit:  # fmt: skip
    """Fit a plant to what it was told and what it did. output: as it was held from each time on.

    It has to begin at rest. Raises ValueError when there is no step in it, or nothing moved.

    >>> t = np.arange(0, 8, 0.02)
    >>> u = (t >= 1.0) * 10.0
    >>> y = np.where(t > 1.2, 20.0 * (1 - np.exp(-(t - 1.2) / 1.5)), 0.0)
    >>> fit = fit_step(t, u, y)
    >>> round(fit.plant.gain, 3), round(fit.plant.lag_s, 3), round(fit.plant.delay_s, 3)
    (2.0, 1.5, 0.2)
    """
    if model not in MODELS:
        raise ValueError(f"model: “{model[:40]}” is none of {', '.join(MODELS)}")
    good = np.isfinite(time_s) & np.isfinite(output) & np.isfinite(read)
    time_s, output, read = time_s[good], output[good], read[good]
    if len(time_s) < 12:
        raise ValueError(f"{len(time_s)} readings are too few; a dozen at least")
    changes = np.flatnonzero(np.diff(output) != 0.0) + 1
    if not changes.size:
        raise ValueError("the output never changes: there is no step in it")
    first = int(changes[0])
    if first < 3:
        raise ValueError("the output changes at once: record a little of the rest before the step")
    before = read[:first]
    scatter = scatter_about_course(read)
    over = max(3, len(read) // 20)
    smooth = np.convolve(read[first:] - before.mean(), np.ones(over) / over, mode="valid")
    beyond = math.sqrt(1.0 / over + 1.0 / len(before))
    if not smooth.size or np.abs(smooth).max() < 5.0 * max(scatter, 1e-300) * beyond:
        raise ValueError(
            "what is measured moves no more than it scatters: a larger step, or a longer run"
        )
    thin = max(1, len(time_s) // _MOST_SAMPLES)
    steps = _Steps(time_s[::thin], time_s[changes], np.diff(output)[changes - 1])
    read = read[::thin]
    fit = _best(steps, read, model)
    return _told(steps, read, model, fit, scatter, measured, steered)


@dataclass(frozen=True, slots=True)
class _Steps:
    """The times of the readings, and when the output changed by how much."""

    time_s: FloatArray
    at_s: FloatArray
    sizes: FloatArray


def _answer(model: str, since_s: FloatArray, lag_s: float) -> FloatArray:
    """What a step of 1 gives for a gain of 1."""
    t = np.maximum(since_s, 0.0)
    settled = 1.0 - np.exp(-t / lag_s)
    told: FloatArray = settled if model == LAG else t - lag_s * settled
    return told


def _model(steps: _Steps, model: str, p: FloatArray) -> FloatArray:
    gain, log_lag, delay_s, origin = p
    lag_s = math.exp(log_lag)
    value = np.full(len(steps.time_s), origin)
    for at, size in zip(steps.at_s, steps.sizes, strict=True):
        value += gain * size * _answer(model, steps.time_s - at - delay_s, lag_s)
    return value


def _best(steps: _Steps, read: FloatArray, model: str) -> OptimizeResult:
    """The best of several beginnings: the dead time makes valleys of its own."""
    at_s, sizes = steps.at_s, steps.sizes
    if len(at_s) > 400:
        raise ValueError(
            f"the output changes {len(at_s)} times: record single steps, by hand and not in a loop"
        )
    long_s = float(steps.time_s[-1] - at_s[0])
    if not long_s > 0.0:
        raise ValueError("nothing was recorded after the step")
    swing = float(read[-max(3, len(read) // 20) :].mean() - read[: max(3, len(read) // 50)].mean())
    total = float(sizes.sum()) or float(sizes[0])
    gain = (swing or float(np.ptp(read))) / (total * (1.0 if model == LAG else long_s))
    origin = float(read[steps.time_s < at_s[0]].mean())
    scale = max(float(np.ptp(read)), 1e-12)

    def left(p: FloatArray) -> FloatArray:
        return (_model(steps, model, p) - read) / scale

    tried = []
    for late in _STARTS:
        for lag in _STARTS:
            begin = np.array([gain, math.log(lag * long_s), late * long_s * 0.5, origin])
            fit = least_squares(
                left,
                begin,
                bounds=(
                    [-np.inf, math.log(long_s * 1e-5), 0.0, -np.inf],
                    [np.inf, math.log(long_s * 100.0), long_s, np.inf],
                ),
                x_scale=[max(abs(gain), 1e-12), 1.0, 0.1 * long_s, scale],
                max_nfev=200,
            )
            tried.append(fit)
    return min(tried, key=lambda one: float(one.cost))


def _told(
    steps: _Steps, read: FloatArray, model: str, fit: OptimizeResult, scatter: float,
    measured: Quantity, steered: Quantity,
) -> StepFit:  # fmt: skip
    gain, log_lag, delay_s, _ = fit.x
    told = _model(steps, model, fit.x)
    left = read - told
    sd = float(np.std(left, ddof=4))
    widen = _hang_together(left)
    scale = max(float(np.ptp(read)), 1e-12)
    try:
        covariance = np.linalg.inv(fit.jac.T @ fit.jac) * (sd / scale) ** 2 * widen
        us = np.sqrt(np.diag(covariance))
    except np.linalg.LinAlgError:
        us = np.full(4, math.nan)
    lag_s = math.exp(log_lag)
    plant = Plant(
        float(gain), lag_s, float(delay_s), 0 if model == LAG else 1, measured=measured,
        steered=steered,
    )  # fmt: skip
    explained = 1.0 - float(np.var(left) / np.var(read)) if np.var(read) > 0.0 else 0.0
    remarks = []
    after_s = float(steps.time_s[-1] - steps.at_s[-1])
    if model == LAG and after_s < 3.0 * lag_s:
        remarks.append(
            f"It was recorded for {after_s:.3g} s after the step, and its lag is {lag_s:.3g} s: it "
            "had not come to rest, so that gain and lag are known together better than each."
        )
    if sd > 3.0 * max(scatter, 1e-300):
        remarks.append(
            "What is left over is more than it scatters: a lag and a dead time do not describe it."
        )
    if explained < 0.8:
        remarks.append(f"It explains {100 * explained:.0f} % of what was seen.")
    step_s = float(np.median(np.diff(steps.time_s)))
    if delay_s < step_s:
        remarks.append("The dead time is shorter than the time between two readings.")
    return StepFit(
        plant, model, (float(us[0]), float(us[1] * lag_s), float(us[2])), sd, explained,
        steps.time_s, read, told, tuple(remarks),
    )  # fmt: skip


def scatter_about_course(read: FloatArray) -> float:
    """Of readings around a slow course: from second differences, by their middle.

    >>> noise = np.random.default_rng(1).normal(0.0, 0.2, 4000)
    >>> round(scatter_about_course(np.linspace(0.0, 50.0, 4000) + noise), 2)
    0.2
    """
    bend = read[2:] - 2.0 * read[1:-1] + read[:-2]
    return float(np.median(np.abs(bend)) / 0.6745 / math.sqrt(6.0)) if len(bend) else 0.0


def _hang_together(left: FloatArray) -> float:
    """By how much variances widen where one residual tells the next: (1 + r)/(1 − r)."""
    if len(left) < 8 or not np.var(left) > 0.0:
        return 1.0
    r = float(np.corrcoef(left[1:], left[:-1])[0, 1])
    r = min(0.98, max(0.0, r))
    return (1.0 + r) / (1.0 - r)
