"""WAV: one fast channel as sound, to be heard and looked at with sound tools. Only out."""

from __future__ import annotations

import wave
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

import numpy as np

from tickstone.core.blocks import Block
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import (
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
    UnwritableError,
)

SLOWEST_HZ = 20.0
_MOST_DECIMALS = 6


class WavFormat:
    """PCM, 16 bits when the raw numbers fit, else 32. One frame a sample period."""

    name = "wav"
    label = "WAV"
    extension = "wav"
    media_type = "audio/wav"
    reads = False
    writes = True
    note = "one channel as sound, its raw numbers as PCM"

    def recognises(self, head: bytes) -> bool:
        return False

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        raise UnreadableFileError("Sound files are written, not read.")

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        if len(header.channels) != 1:
            raise UnwritableError("A WAV file takes one channel; choose one.")
        if header.rate_hz < SLOWEST_HZ:
            raise UnwritableError(
                f"This channel has {header.rate_hz:.3g} samples a second; sound needs at least "
                f"{SLOWEST_HZ:g}. Take CSV instead."
            )
        rate = round(header.rate_hz)
        times, values = _whole(blocks)
        if len(values) == 0:
            raise UnwritableError("There is no good sample to write.")
        even = np.arange(times[0], times[-1] + 1, 1e6 / header.rate_hz)
        held = values[np.searchsorted(times, even + 0.5e6 / header.rate_hz, side="right") - 1]
        scaled = _as_whole(held)
        narrow = bool(np.abs(scaled).max() <= 32_767)
        # The wave module wants a file it may not seek in to know its length beforehand.
        with wave.open(out, "wb") as sound:
            sound.setnchannels(1)
            sound.setsampwidth(2 if narrow else 4)
            sound.setframerate(rate)
            sound.setnframes(len(scaled))
            sound.writeframes(scaled.astype("<i2" if narrow else "<i4").tobytes())


def _whole(blocks: Iterator[Block]) -> tuple[np.ndarray, np.ndarray]:
    times, values = [], []
    for block in blocks:
        found = values_of(block, 0)
        good = ~np.isnan(found) if block.status[0] is None else block.status[0] == 0
        times.append(block.time_us[good])
        values.append(found[good])
    if not times:
        return np.empty(0), np.empty(0)
    return np.concatenate(times), np.concatenate(values)


def _as_whole(values: np.ndarray) -> np.ndarray:
    """Whole numbers that fit 32 bits: as they are, or times the smallest power of ten that does."""
    for decimals in range(_MOST_DECIMALS + 1):
        shifted = values * 10.0**decimals
        if np.abs(shifted).max() > 2_147_483_647:
            break
        if np.allclose(shifted, np.rint(shifted), rtol=0, atol=1e-6):
            return np.rint(shifted)
    largest = float(np.abs(values).max()) or 1.0
    return np.rint(values / largest * 2_147_483_647)
