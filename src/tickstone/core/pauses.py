"""Where nothing came: stretches of time no line may be drawn across."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray

_TIMES_THE_USUAL = 8.0
_TIMES_THE_LONG = 3.0
_FEWEST = 4


def pauses_after(time_s: FloatArray) -> npt.NDArray[np.intp]:
    """Indices of samples after which nothing came for far longer than is usual here.

    time_s: rising. Far longer: eight times the usual step, and three times the one that nine of ten
    stay below, so that what comes unevenly by its nature (edges, events) is not torn apart.

    >>> pauses_after(np.array([0.0, 1.0, 2.0, 3.0, 30.0, 31.0])).tolist()
    [3]
    """
    steps = np.diff(time_s)
    if len(steps) < _FEWEST:
        return np.empty(0, dtype=np.intp)
    usual, long = np.quantile(steps, [0.5, 0.9], method="lower")
    limit = max(_TIMES_THE_USUAL * usual, _TIMES_THE_LONG * long)
    return np.flatnonzero(steps > limit) if limit > 0.0 else np.empty(0, dtype=np.intp)
