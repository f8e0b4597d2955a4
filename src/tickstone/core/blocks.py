"""Samples of several channels side by side, a stretch at a time: what stores and files hand on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray, StatusArray

IntArray = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Scaled:
    """Whole numbers with the decimal point shifted: value = ints / 10**decimals."""

    ints: IntArray
    decimals: int

    @property
    def values(self) -> FloatArray:
        """As numbers."""
        result: FloatArray = self.ints / 10.0**self.decimals
        return result


Column = FloatArray | Scaled


@dataclass(frozen=True, slots=True)
class Block:
    """Samples of all channels, in order.

    time_us, host_us: shape (n,). values: one array of shape (n,) per channel. status: the same as
    codes; None for a channel in which all is fine.
    """

    time_us: IntArray
    values: Sequence[Column]
    status: Sequence[StatusArray | None]
    host_us: IntArray | None = None

    def __len__(self) -> int:
        return len(self.time_us)

    def between(self, first: int, last: int) -> Block:
        """The samples first, first + 1, …, last − 1."""
        part = slice(first, last)
        return Block(
            self.time_us[part],
            [
                Scaled(v.ints[part], v.decimals) if isinstance(v, Scaled) else v[part]
                for v in self.values
            ],
            [None if s is None else s[part] for s in self.status],
            None if self.host_us is None else self.host_us[part],
        )

    def shifted(self, by_us: int) -> Block:
        """The same samples at other times."""
        return Block(self.time_us + by_us, self.values, self.status, self.host_us)


def joined(blocks: Sequence[Block]) -> Block:
    """Blocks one after the other. All have the same channels."""
    if len(blocks) == 1:
        return blocks[0]
    channels = range(len(blocks[0].values))
    hosts = [block.host_us for block in blocks]
    return Block(
        np.concatenate([block.time_us for block in blocks]),
        [_joined_column([block.values[c] for block in blocks]) for c in channels],
        [
            None
            if all(block.status[c] is None for block in blocks)
            else np.concatenate([_codes(block, c) for block in blocks])
            for c in channels
        ],
        None if any(host is None for host in hosts) else np.concatenate(hosts),  # type: ignore[arg-type]
    )


def _joined_column(columns: Sequence[Column]) -> Column:
    first = columns[0]
    if isinstance(first, Scaled) and all(
        isinstance(column, Scaled) and column.decimals == first.decimals for column in columns
    ):
        ints = [column.ints for column in columns if isinstance(column, Scaled)]
        return Scaled(np.concatenate(ints), first.decimals)
    return np.concatenate(
        [column.values if isinstance(column, Scaled) else column for column in columns]
    )


def _codes(block: Block, channel: int) -> StatusArray:
    status = block.status[channel]
    return np.zeros(len(block), dtype=np.uint8) if status is None else status
