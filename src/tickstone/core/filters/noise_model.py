"""How noisy readings are, and how fast what they read may go: R and Q, from a recording."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize_scalar

from tickstone.core.filters.comparing import Known, good_of
from tickstone.core.loops.smoothing import innovation_sums
from tickstone.core.signal import FloatArray, Signal
from tickstone.core.stages.value_kalman import ValueKalman, steady_gain

_FEWEST = 30
_BY_CHANCE = 2.58
"""Standard deviations that one test in a hundred goes beyond by chance."""


@dataclass(frozen=True, slots=True)
class Suggested:
    """R and two ways to Q. r: variance held still. q_fast: so that the fastest change seen is
    followed; fastest: that change, per second. q_likely, r_likely: under which the recording is
    likeliest. share: of the exponential filter that is the same as q_likely.
    """

    r: float
    q_fast: float
    fastest: float
    q_likely: float
    r_likely: float
    share: float


@dataclass(frozen=True, slots=True)
class Innovations:
    """Whether what each reading adds is as large, and as unforeseen, as the filter thinks.

    ratio: mean of its square over what was expected; 1 is right. echo: correlation from one to the
    next; 0 is right. says: what follows.
    """

    ratio: float
    echo: float
    is_fine: bool
    says: str


def suggest(signal: Signal, known: Known) -> Suggested:
    """R from what was held still, Q from the fastest change and by likelihood. signal: one lane.

    Raises ValueError for fewer than 30 good readings.

    >>> rng = np.random.default_rng(3)
    >>> walk = np.cumsum(rng.normal(0.0, 0.1, 4000)) + rng.normal(0.0, 0.5, 4000)
    >>> from tickstone.core.filters.comparing import known_of
    >>> signal = Signal.of(np.arange(4000) / 20, walk)
    >>> found = suggest(signal, known_of(signal))
    >>> round(math.sqrt(found.q_likely), 1), round(math.sqrt(found.r_likely), 1)
    (0.1, 0.5)
    """
    signal = good_of(signal)
    time_s, values = signal.time_s, signal.value
    if len(values) < _FEWEST:
        raise ValueError(f"{len(values)} good readings are too few for Q and R; {_FEWEST} at least")
    r = max(known.noise**2, 1e-300)
    fastest = _fastest(time_s, values, known)
    q_fast = max((fastest * known.gap_s) ** 2, 1e-12 * r)
    q_likely, r_likely = likeliest(values)
    return Suggested(r, q_fast, fastest, q_likely, r_likely, steady_gain(q_likely / r_likely))


def likeliest(values: FloatArray) -> tuple[float, float]:
    """Q and R of a random walk under which evenly numbered values are likeliest.

    R drops out of the likelihood once Q/R is given, so that one number is searched for.
    """
    found = minimize_scalar(
        lambda log: _unlikely(values, 10.0**log), bounds=(-9.0, 4.0), method="bounded",
        options={"xatol": 1e-3},
    )  # fmt: skip
    ratio = 10.0 ** float(found.x)
    told = np.zeros(2)
    innovation_sums(values, ratio, 1.0, told, np.empty(0), np.empty(0))
    r = told[0] / max(1, len(values) - 1)
    return ratio * r, max(r, 1e-300)


def innovations(signal: Signal, kalman: ValueKalman) -> Innovations:
    """A check of a Kalman filter's own claims, on a recording of one lane."""
    values = good_of(signal).value
    n = len(values) - 1
    if n < _FEWEST:
        return Innovations(math.nan, math.nan, False, "Too few readings to check it.")
    new, expected = np.empty(n), np.empty(n)
    innovation_sums(values, kalman.q, kalman.r, np.zeros(2), new, expected)
    normal = new / np.sqrt(expected)
    ratio = float(np.mean(normal**2))
    size = float(normal @ normal)
    echo = float(normal[1:] @ normal[:-1]) / size if size > 0.0 else 0.0
    limit = _BY_CHANCE * math.sqrt(2.0 / n), _BY_CHANCE / math.sqrt(n)
    if echo > limit[1]:
        says = "It lags: what is new goes on the same way. A larger Q follows better."
    elif echo < -limit[1]:
        says = "It follows noise: what is new swings back and forth. A smaller Q smooths more."
    elif abs(ratio - 1.0) > max(0.2, limit[0]):
        more = "larger" if ratio > 1.0 else "smaller"
        says = f"Q to R is right, but both want to be {ratio:.2g} times as large: {more} noise."
    else:
        says = "What is new is as large and as unforeseen as it says."
    return Innovations(ratio, echo, says.startswith("What is new is as"), says)


def _unlikely(values: FloatArray, ratio: float) -> float:
    """−2·ln of the likelihood, R taken as the best for this Q/R, but for what does not change."""
    told = np.zeros(2)
    innovation_sums(values, ratio, 1.0, told, np.empty(0), np.empty(0))
    n = len(values) - 1
    return n * math.log(max(told[0], 1e-300) / n) + float(told[1])


def _fastest(time_s: FloatArray, values: FloatArray, known: Known) -> float:
    """The steepest change over a handful of readings, beyond what noise makes, per second."""
    over = max(3, min(len(values) - 1, 5))
    spans = time_s[over:] - time_s[:-over]
    rises = np.abs(values[over:] - values[:-over])
    beyond = np.maximum(0.0, rises - 3.0 * math.sqrt(2.0) * known.noise)
    slopes = beyond[spans > 0.0] / spans[spans > 0.0]
    return float(np.percentile(slopes, 99.0)) if slopes.size else 0.0
