"""Integer columns, packed: differences, then Zstandard."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyarrow as pa

IntArray = npt.NDArray[np.int64]

CHUNK_SAMPLES = 65_536
_LEVEL = 1


def pack(column: IntArray) -> bytes:
    """A column as a header (width, length, first value) and compressed differences.

    >>> unpack(pack(np.array([5831, 0, 5840], dtype=np.int64))).tolist()
    [5831, 0, 5840]
    """
    steps = np.diff(column, prepend=column[:1])
    for dtype in (np.int16, np.int32):
        limits = np.iinfo(dtype)
        if len(steps) and limits.min <= steps.min() and steps.max() <= limits.max:
            narrow: npt.NDArray[np.signedinteger] = steps.astype(dtype)
            break
    else:
        narrow = steps
    head = np.array([narrow.itemsize, len(column), column[0] if len(column) else 0], dtype="<i8")
    return head.tobytes() + bytes(pa.Codec("zstd", _LEVEL).compress(narrow.tobytes()))


def unpack(packed: bytes) -> IntArray:
    """The column that `pack` packed."""
    width, count, first = np.frombuffer(packed[:24], dtype="<i8").tolist()
    raw = pa.Codec("zstd").decompress(packed[24:], decompressed_size=width * count)
    steps: npt.NDArray[np.signedinteger] = np.frombuffer(bytes(raw), dtype=np.dtype(f"<i{width}"))
    total: IntArray = np.cumsum(steps, dtype=np.int64) + first
    return total


def pack_text(text: str) -> bytes:
    """Text as its length and compressed UTF-8.

    >>> unpack_text(pack_text("half → whole"))
    'half → whole'
    """
    body = text.encode("utf-8", errors="replace")
    return len(body).to_bytes(8, "little") + bytes(pa.Codec("zstd", _LEVEL).compress(body))


def unpack_text(packed: bytes) -> str:
    """The text that `pack_text` packed."""
    size = int.from_bytes(packed[:8], "little")
    return bytes(pa.Codec("zstd").decompress(packed[8:], decompressed_size=size)).decode("utf-8")
