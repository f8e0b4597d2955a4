"""Taking a recording away as a file."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.blocks import Block
from tickstone.core.signal import Signal
from tickstone.formats.takes import format_named
from tickstone.formats.takes.header import ChannelInfo, TakeFormat, TakeHeader, UnwritableError
from tickstone.store.models import Mark, Sensor, Take
from tickstone.store.takes import read_blocks, read_buckets
from tickstone.work.takes.channel import Channel

_ROWS_AT_ONCE = 100_000


def header_of(session: Session, take: Take) -> TakeHeader:
    """All there is to say of a take besides its samples."""
    origin = take.first_time_us
    return TakeHeader(
        name=take.name,
        channels=tuple(
            _channel(session, take, number, channel) for number, channel in enumerate(take.channels)
        ),
        recorded_at=take.recorded_at.isoformat(),
        time_source=take.time_source,
        rate_hz=take.rate_hz,
        samples=take.samples,
        source_name=take.source_name,
        air={
            "temperature_c": take.temperature_c,
            "relative_humidity": take.relative_humidity,
            "pressure_pa": take.pressure_pa,
            "temperature_tolerance_c": take.temperature_tolerance_c,
            "humidity_tolerance": take.humidity_tolerance,
            "pressure_tolerance_pa": take.pressure_tolerance_pa,
        },
        conditions=take.conditions,
        tags=tuple(take.tags),
        marks=tuple(_marks(session, take)),
        gaps=tuple(
            {**gap, "from_us": gap["from_us"] - origin, "to_us": gap["to_us"] - origin}
            for gap in take.gaps
        ),
        jitter_us=take.jitter_us,
    )


def _channel(session: Session, take: Take, number: int, channel: dict[str, Any]) -> ChannelInfo:
    sensor_id = channel.get("sensor_id")
    sensor = session.get(Sensor, sensor_id) if sensor_id is not None else None
    flagged = read_buckets(session, take.id, number).overview.flagged
    return ChannelInfo(
        channel["name"],
        channel["unit"],
        channel["quantity"],
        sensor.name if sensor is not None else "",
        is_flagged=bool(flagged.any()),
    )


def _marks(session: Session, take: Take) -> list[dict[str, Any]]:
    rows = session.scalars(
        select(Mark)
        .where(Mark.take_id == take.id, Mark.deleted_at.is_(None))
        .order_by(Mark.start_s, Mark.id)
    )
    return [
        {
            "channel": mark.channel,
            "name": mark.name,
            "start_s": mark.start_s,
            "end_s": mark.end_s,
            "true_value": mark.value,
            "true_u": mark.u,
            "unit": mark.unit,
        }
        for mark in rows
    ]


def export_take(
    session: Session, take: Take, form: TakeFormat, out: BinaryIO, channel: int | None = None
) -> None:
    """Write a take. channel: that one only.

    Raises UnwritableError when the format cannot hold it or there is no such channel.
    """
    header = header_of(session, take)
    blocks = read_blocks(session, take)
    if channel is not None:
        if not 0 <= channel < len(header.channels):
            raise UnwritableError(f"There are {len(header.channels)} channels.")
        header = header.only((channel,))
        blocks = (
            Block(b.time_us, [b.values[channel]], [b.status[channel]], b.host_us) for b in blocks
        )
    form.write(header, blocks, out)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A channel as it is drawn: raw, or after a stage of its chain."""

    channel: Channel
    stage: str

    @property
    def name(self) -> str:
        """As its column is headed."""
        name = str(self.channel.take.channels[self.channel.number]["name"])
        return f"{name} after {self.stage}" if self.stage else name


def export_as_drawn(
    take: Take, drawn: Sequence[Drawn], window_s: tuple[float, float], out: BinaryIO
) -> None:
    """Write what a plot shows, every sample of it, as CSV. window_s: both edges inclusive, s.

    Raises ValueError for an unknown stage, or for results that have times of their own beside
    others.
    """
    origin = take.first_time_us
    first, last = (origin + round(edge * 1e6) for edge in window_s)
    first, last = max(first, origin), min(last, take.last_time_us)

    def window(from_us: int, to_us: int) -> list[Signal]:
        read = [one.channel.between(one.stage, from_us, to_us) for one in drawn]
        if any(len(one) != len(read[0]) for one in read):
            raise ValueError(
                "these results do not come at the same times, so they fit into no common table; "
                "take them one by one"
            )
        return read

    def blocks() -> Iterator[Block]:
        step_us = max(1, (take.last_time_us - origin) // max(1, take.samples))
        for from_us in range(first, last + 1, _ROWS_AT_ONCE * step_us):
            to_us = min(last, from_us + _ROWS_AT_ONCE * step_us - 1)
            read = window(from_us, to_us)
            if len(read[0]):
                time_us = np.rint(read[0].time_s * 1e6).astype(np.int64) + origin - first
                yield Block(time_us, [s.value for s in read], [s.flag for s in read])

    header = TakeHeader(
        take.name,
        tuple(
            ChannelInfo(one.name, signal.unit, "number")
            for one, signal in zip(drawn, window(first, first), strict=True)
        ),
    )
    format_named("csv").write(header, blocks(), out)
