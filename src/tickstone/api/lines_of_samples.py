"""A thinned line of samples, dressed for the wire."""

from __future__ import annotations

import numpy as np

from tickstone.api.schemas.look import LineOfSamplesOut, PauseOut
from tickstone.core.status import Status
from tickstone.core.thin import SOME_FLAGGED, Thinned


def line_of_samples(thin: Thinned) -> LineOfSamplesOut:
    """The line as plain values; None where it is broken."""
    words = {int(status): status.code for status in Status} | {SOME_FLAGGED: "flagged"}
    return LineOfSamplesOut(
        time_s=np.round(thin.time_s, 6).tolist(),
        low=_numbers(thin.low),
        high=_numbers(thin.high),
        flag_s=np.round(thin.flag_s, 6).tolist(),
        flag=[words[int(code)] for code in thin.flag],
        samples=thin.samples,
        is_thinned=thin.is_thinned,
        pauses=[PauseOut(from_s=start, to_s=end) for start, end in thin.pauses],
    )


def _numbers(values: np.ndarray) -> list[float | None]:
    return [None if value != value else value for value in values.tolist()]
