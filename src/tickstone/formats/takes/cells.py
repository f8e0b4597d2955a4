"""Numbers and flags of samples as text: the shortest that reads back exactly."""

from __future__ import annotations

import numpy as np

from tickstone.core.blocks import Block, Scaled
from tickstone.core.signal import FloatArray
from tickstone.core.status import Status

FLAG_WORDS = {Status.MISSING: "", Status.BAD_TEXT: "nan", Status.OVER_RANGE: "inf"}


def values_of(block: Block, channel: int) -> FloatArray:
    """A channel's numbers, whichever way they are kept."""
    values = block.values[channel]
    return values.values if isinstance(values, Scaled) else values


def number_text(value: float) -> str:
    """The shortest text of a number; whole ones without a point.

    >>> number_text(5831.0), number_text(0.1), number_text(1e22)
    ('5831', '0.1', '1e+22')
    """
    if value == int(value) and abs(value) < 1e15:
        return str(int(value))
    return repr(float(value))


def cell_texts(block: Block, channel: int) -> list[str]:
    """A channel as text, flagged samples as the words that say so."""
    values, status = values_of(block, channel), block.status[channel]
    if status is None and not np.isnan(values).any():
        if len(values) and np.array_equal(values, np.rint(values)) and np.abs(values).max() < 1e15:
            return [str(value) for value in values.astype(np.int64).tolist()]
        return [number_text(value) for value in values.tolist()]
    codes = np.zeros(len(values), np.uint8) if status is None else status
    return [
        FLAG_WORDS.get(Status(code), "nan") if code or value != value else number_text(value)
        for value, code in zip(values.tolist(), codes.tolist(), strict=True)
    ]
