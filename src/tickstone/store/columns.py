"""One channel of a chunk as bytes, and an overview of it that a plot can be drawn from.

A column of numbers that are whole after a shift of the decimal point is kept as those whole
numbers; any other as it is in floating point. Nothing is rounded either way.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from tickstone.core.blocks import Scaled
from tickstone.core.signal import FloatArray, StatusArray
from tickstone.core.status import Status
from tickstone.store.chunks import pack, unpack

BUCKET_SAMPLES = 256
_MOST_DECIMALS = 9
_AS_FLOATS = 255
_LEVEL = 1


@dataclass(frozen=True, slots=True)
class Overview:
    """The lowest and highest good value of each bucket of BUCKET_SAMPLES, and how many are flagged.

    NaN where a bucket holds no good value.
    """

    lowest: FloatArray
    highest: FloatArray
    flagged: FloatArray


def pack_column(values: FloatArray | Scaled, status: StatusArray | None) -> bytes:
    """A channel of a chunk. status: None when every sample is fine.

    >>> values, status = unpack_column(pack_column(np.array([0.25, -3.0]), None))
    >>> values.tolist(), status.tolist()
    ([0.25, -3.0], [0, 0])
    """
    flags = b""
    if status is not None and status.any():
        flags = bytes(pa.Codec("zstd", _LEVEL).compress(status.astype(np.uint8).tobytes()))
    scaled = values if isinstance(values, Scaled) else _scaled(values)
    if scaled is None:
        assert not isinstance(values, Scaled)
        kind, body = _AS_FLOATS, _pack_floats(values)
    else:
        kind, body = scaled.decimals, pack(scaled.ints)
    return bytes([kind]) + len(flags).to_bytes(4, "little") + flags + body


def unpack_column(packed: bytes) -> tuple[FloatArray, StatusArray]:
    """What `pack_column` packed: values, NaN where flagged, and statuses."""
    kind, size = packed[0], int.from_bytes(packed[1:5], "little")
    body = packed[5 + size :]
    if kind == _AS_FLOATS:
        values = _unpack_floats(body)
    else:
        ints = unpack(body)
        values = ints.astype(np.float64) if kind == 0 else ints / 10.0**kind
    if not size:
        return values, np.zeros(len(values), dtype=np.uint8)
    raw = pa.Codec("zstd").decompress(packed[5 : 5 + size], decompressed_size=len(values))
    status: StatusArray = np.frombuffer(bytes(raw), dtype=np.uint8)
    values[status != Status.OK] = np.nan
    return values, status


def pack_overview(overview: Overview) -> bytes:
    """An overview as bytes."""
    rows = np.stack([overview.lowest, overview.highest, overview.flagged])
    return len(overview.lowest).to_bytes(4, "little") + bytes(
        pa.Codec("zstd", _LEVEL).compress(rows.tobytes())
    )


def unpack_overview(packed: bytes) -> Overview:
    """What `pack_overview` packed."""
    buckets = int.from_bytes(packed[:4], "little")
    raw = pa.Codec("zstd").decompress(packed[4:], decompressed_size=3 * 8 * buckets)
    rows = np.frombuffer(bytes(raw), dtype=np.float64).reshape(3, buckets)
    return Overview(rows[0], rows[1], rows[2])


def overview_of(values: FloatArray | Scaled, status: StatusArray | None) -> Overview:
    """Lowest, highest and flagged of each bucket.

    >>> overview_of(np.array([3.0, 1.0, 2.0]), None).highest.tolist()
    [3.0]
    """
    if isinstance(values, Scaled):
        values = values.values
    starts = np.arange(0, len(values), BUCKET_SAMPLES)
    if len(starts) == 0:
        empty = np.empty(0)
        return Overview(empty, empty, empty)
    bad = np.isnan(values) if status is None else status != Status.OK
    if not bad.any():
        zeros = np.zeros(len(starts))
        return Overview(
            np.minimum.reduceat(values, starts), np.maximum.reduceat(values, starts), zeros
        )
    lowest = np.minimum.reduceat(np.where(bad, np.inf, values), starts)
    highest = np.maximum.reduceat(np.where(bad, -np.inf, values), starts)
    lowest[np.isinf(lowest)] = np.nan
    highest[np.isinf(highest)] = np.nan
    return Overview(lowest, highest, np.add.reduceat(bad.astype(np.float64), starts))


def _scaled(values: FloatArray) -> Scaled | None:
    filled = values if not np.isnan(values).any() else np.nan_to_num(values, nan=0.0)
    if len(filled) and (np.isinf(filled).any() or np.abs(filled).max() > 2.0**53):
        return None
    if np.signbit(filled[filled == 0.0]).any():
        return None
    for decimals in range(_MOST_DECIMALS + 1):
        shifted = filled * 10.0**decimals
        if len(shifted) and np.abs(shifted).max() > 2.0**53:
            return None
        whole = np.rint(shifted)
        if np.array_equal(whole / 10.0**decimals, filled):
            return Scaled(whole.astype(np.int64), decimals)
    return None


def _pack_floats(values: FloatArray) -> bytes:
    count = len(values).to_bytes(8, "little")
    return count + bytes(pa.Codec("zstd", _LEVEL).compress(values.astype("<f8").tobytes()))


def _unpack_floats(packed: bytes) -> FloatArray:
    count = int.from_bytes(packed[:8], "little")
    raw = pa.Codec("zstd").decompress(packed[8:], decompressed_size=8 * count)
    values: npt.NDArray[np.float64] = np.frombuffer(bytes(raw), dtype="<f8").copy()
    return values
