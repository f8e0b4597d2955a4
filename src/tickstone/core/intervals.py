"""Intervals for what was counted."""

from __future__ import annotations

from scipy.special import betaincinv


def clopper_pearson(hits: int, trials: int, confidence: float = 0.95) -> tuple[float, float]:
    """Between which rates lies the true one, when so many of so many hit.

    Exact: it covers at least `confidence` whatever the rate. Clopper and Pearson, Biometrika 26(4),
    1934. Raises ValueError when there are no trials, or more hits than trials.

    >>> [round(one, 4) for one in clopper_pearson(0, 100)]
    [0.0, 0.0362]
    """
    if not 0 <= hits <= trials or trials == 0:
        raise ValueError(f"{hits} of {trials} is no rate")
    tail = (1.0 - confidence) / 2.0
    low = 0.0 if hits == 0 else float(betaincinv(hits, trials - hits + 1, tail))
    high = 1.0 if hits == trials else float(betaincinv(hits + 1, trials - hits, 1.0 - tail))
    return low, high
