"""Writing a recording as CSV: raw echoes, distances and decisions side by side."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import Signal
from tickstone.core.stages.stop_threshold import Decision
from tickstone.core.status import Status

HEADER = "time_s,echo_us,distance_m,status,decision\n"
_ROWS_AT_ONCE = 20_000


def write_distance_csv(
    echo: Signal, distance: Signal, decision: npt.NDArray[np.uint8] | None
) -> Iterator[str]:
    """The CSV text in pieces: one row a sample, numbers with a point, words that are no formulas.

    echo: µs. distance: m; an empty cell where there is none. decision: `Decision` codes or None.

    >>> echo = Signal.of([0.0], [5831.0], "µs")
    >>> list(write_distance_csv(echo, Signal.of([0.0], [0.9951234], "m"), None))[1]
    '0.000000,5831,0.995123,ok,\\n'
    """
    yield HEADER
    statuses = {int(status): status.code for status in Status}
    decisions = {int(code): code.name.lower() for code in Decision}
    for first in range(0, len(echo), _ROWS_AT_ONCE):
        part = slice(first, first + _ROWS_AT_ONCE)
        codes = [""] * len(echo.values[part])
        if decision is not None:
            codes = [decisions[int(code)] for code in decision[part]]
        yield "".join(
            f"{t:.6f},{raw:.10g},{'' if d != d else f'{d:.6f}'},{statuses[s]},{code}\n"
            for t, raw, d, s, code in zip(
                echo.time_s[part].tolist(),
                echo.values[part].tolist(),
                distance.values[part].tolist(),
                distance.status[part].tolist(),
                codes,
                strict=True,
            )
        )
