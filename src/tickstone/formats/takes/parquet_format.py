"""Apache Parquet: a column a channel, units and the description in the metadata."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import pyarrow as pa
from pyarrow import parquet

from tickstone.core.blocks import Block, IntArray
from tickstone.core.lines.axis_units import Axis, guess_axis_units
from tickstone.core.lines.guess import guess_quantity, looks_like_time, time_unit_of
from tickstone.core.lines.names import TIME_UNITS_US, split_unit
from tickstone.core.signal import StatusArray
from tickstone.core.status import Status
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import (
    ChannelInfo,
    ReadAs,
    TakeHeader,
    TakeReading,
    UnreadableFileError,
    header_from_json,
    unique_names,
)

MOST_ROWS = 200_000_000
MOST_BYTES = 16 * 1024**3
_KEY = b"tickstone"
_ROWS_AT_ONCE = 65_536


class ParquetFormat:
    """Columns for data analysis, exact and small."""

    name = "parquet"
    label = "Parquet"
    extension = "parquet"
    media_type = "application/vnd.apache.parquet"
    reads = True
    writes = True
    note = "a column a channel, exact, with host times and flags"

    def recognises(self, head: bytes) -> bool:
        return head.startswith(b"PAR1")

    def write(self, header: TakeHeader, blocks: Iterator[Block], out: BinaryIO) -> None:
        writer: parquet.ParquetWriter | None = None
        schema = None
        origin = 0
        for block in blocks:
            if writer is None or schema is None:
                origin = int(block.time_us[0])
                schema = _schema(header, block.host_us is not None)
                writer = parquet.ParquetWriter(out, schema, compression="zstd")
            writer.write_table(_table(header, block, schema, origin))
        if writer is None:
            writer = parquet.ParquetWriter(out, _schema(header, False), compression="zstd")
        writer.close()

    def read(self, path: Path, read_as: ReadAs) -> TakeReading:
        try:
            file = parquet.ParquetFile(path)
            metadata = file.schema_arrow.metadata or {}
        except (pa.ArrowException, OSError, ValueError) as error:
            raise UnreadableFileError(f"The Parquet file is damaged: {error}") from error
        size = sum(file.metadata.row_group(n).total_byte_size for n in range(file.num_row_groups))
        if file.metadata.num_rows > MOST_ROWS or size > MOST_BYTES:
            raise UnreadableFileError(
                f"The Parquet file unpacks to {file.metadata.num_rows} rows, {size} bytes. That is "
                "more than Tick Stone takes in at once; split it."
            )
        if _KEY in metadata:
            header = header_from_json(_json(metadata[_KEY]))
            reading = TakeReading(self.name, header, iter(()), "t_us", "µs")
            reading.blocks = _own_blocks(file, header)
            return reading
        return _foreign(file, path, read_as.rate_hz)


def _json(data: bytes) -> Any:
    try:
        return json.loads(data)
    except (ValueError, RecursionError) as error:
        raise UnreadableFileError("The description in the Parquet file is not JSON.") from error


def _schema(header: TakeHeader, has_host: bool) -> pa.Schema:
    fields: list[pa.Field[Any]] = [
        pa.field("t_us", pa.int64(), nullable=False, metadata={"unit": "µs"})
    ]
    if has_host:
        fields.append(pa.field("host_us", pa.int64(), nullable=False, metadata={"unit": "µs"}))
    for name, channel in zip(_names(header), header.channels, strict=True):
        fields.append(pa.field(name, pa.float64(), metadata={"unit": channel.unit}))
        if channel.is_flagged:
            fields.append(pa.field(f"{name}.status", pa.uint8()))
    description = json.dumps(header.as_json(), ensure_ascii=False).encode()
    return pa.schema(fields, metadata={_KEY: description})


def _names(header: TakeHeader) -> list[str]:
    """A column for each channel, its flags in another of the same name with .status."""
    flags = tuple(f"{channel.name}.status" for channel in header.channels)
    return unique_names(header, ("t_us", "host_us", *flags))


def _table(header: TakeHeader, block: Block, schema: pa.Schema, origin: int) -> pa.Table:
    columns: list[pa.Array[Any]] = [pa.array(block.time_us - origin)]
    if "host_us" in schema.names:
        host = block.host_us if block.host_us is not None else block.time_us
        columns.append(pa.array(host))
    for number, channel in enumerate(header.channels):
        values, status = values_of(block, number), block.status[number]
        columns.append(pa.array(values, from_pandas=True))
        if channel.is_flagged:
            codes = np.zeros(len(values), np.uint8) if status is None else status
            columns.append(pa.array(codes))
    return pa.Table.from_arrays(columns, schema=schema)


def _own_blocks(file: parquet.ParquetFile, header: TakeHeader) -> Iterator[Block]:
    names = _names(header)
    try:
        for batch in file.iter_batches(batch_size=_ROWS_AT_ONCE):
            values, statuses = [], []
            for name, channel in zip(names, header.channels, strict=True):
                column = batch.column(name)
                values.append(_floats(column))
                status: StatusArray | None = None
                if channel.is_flagged:
                    status = batch.column(f"{name}.status").to_numpy(zero_copy_only=False)
                    status = status.astype(np.uint8)
                elif column.null_count:
                    status = _null_status(column)
                statuses.append(status if status is not None and status.any() else None)
            host: IntArray | None = None
            if "host_us" in batch.schema.names:
                host = batch.column("host_us").to_numpy()
            yield Block(batch.column("t_us").to_numpy(), values, statuses, host)
    except (pa.ArrowException, KeyError, OSError) as error:
        raise UnreadableFileError(
            f"The Parquet file does not hold what it says: {error}"
        ) from error


def _floats(column: pa.Array[Any]) -> Any:
    return np.asarray(column.cast(pa.float64()).to_numpy(zero_copy_only=False), dtype=np.float64)


def _null_status(column: pa.Array[Any]) -> StatusArray:
    missing = column.is_null().to_numpy(zero_copy_only=False)
    return np.where(missing, Status.MISSING, Status.OK).astype(np.uint8)


def _foreign(file: parquet.ParquetFile, path: Path, rate_hz: float | None) -> TakeReading:
    """A Parquet file from elsewhere: every column of numbers is a channel, one of them the time."""
    schema = file.schema_arrow
    numeric = [
        field
        for field in schema
        if pa.types.is_integer(field.type)
        or pa.types.is_floating(field.type)
        or pa.types.is_boolean(field.type)
        or pa.types.is_timestamp(field.type)
    ]
    if not numeric:
        raise UnreadableFileError("The Parquet file has no column of numbers.")
    head = next(file.iter_batches(batch_size=400, columns=[f.name for f in numeric]), None)
    time = None
    axes: dict[str, Axis] = {}
    for place, field in enumerate(numeric):
        name, unit = split_unit(field.name)
        unit = (field.metadata or {}).get(b"unit", unit.encode()).decode("utf-8", "replace")
        values = [] if head is None else [v for v in _sample(head.column(place)) if v == v]
        axes[field.name] = Axis(guess_quantity(name, unit, values), unit, values)
        is_time = pa.types.is_timestamp(field.type) or looks_like_time(name, unit, values, place)
        if time is None and is_time:
            time = field.name
            time_unit = (
                "µs" if pa.types.is_timestamp(field.type) else time_unit_of(name, unit, values)
            )
    infos = {
        name: ChannelInfo(split_unit(name)[0], unit, one.quantity)
        for (name, one), unit in zip(
            axes.items(), guess_axis_units(list(axes.values())), strict=True
        )
    }
    names = [field.name for field in numeric if field.name != time]
    header = TakeHeader(path.stem, tuple(infos[name] for name in names))
    reading = TakeReading("parquet", header, iter(()))
    if time is not None:
        reading.time_column, reading.time_unit = infos[time].name, time_unit
    else:
        reading.rate_hz, reading.asks_rate = rate_hz, rate_hz is None
    scale = TIME_UNITS_US[time_unit] if time is not None else None
    reading.blocks = _foreign_blocks(file, names, time, scale, rate_hz, reading)
    return reading


def _sample(column: pa.Array[Any]) -> list[float]:
    if pa.types.is_timestamp(column.type):
        column = column.cast(pa.timestamp("us")).cast(pa.int64())
    return [float("nan") if v is None else float(v) for v in column.to_pylist()]


def _foreign_blocks(
    file: parquet.ParquetFile,
    names: list[str],
    time: str | None,
    scale: float | None,
    rate_hz: float | None,
    reading: TakeReading,
) -> Iterator[Block]:
    rows, last, origin = 0, 0, None
    columns = [*names, *([time] if time is not None else [])]
    for batch in file.iter_batches(batch_size=_ROWS_AT_ONCE, columns=columns):
        count = batch.num_rows
        good = np.ones(count, dtype=bool)
        if time is not None and scale is not None:
            column = batch.column(time)
            if pa.types.is_timestamp(column.type):
                column = column.cast(pa.timestamp("us"), safe=False).cast(pa.int64())
            raw = column.to_numpy(zero_copy_only=False).astype(np.float64)
            good = np.isfinite(raw)
            origin = raw[good][0] if origin is None and good.any() else origin
            times = np.zeros(count, dtype=np.int64)
            times[good] = np.rint((raw[good] - (origin or 0.0)) * scale).astype(np.int64)
            backwards = good & (times < np.maximum.accumulate(np.concatenate(([last], times)))[:-1])
            good &= ~backwards
        else:
            times = np.rint((rows + np.arange(count)) * 1e6 / (rate_hz or 1.0)).astype(np.int64)
        for place in np.flatnonzero(~good).tolist():
            reading.put_aside(rows + place + 1, "", "its time is missing or runs back")
        rows += count
        if not good.any():
            continue
        values = [_floats(batch.column(name))[good] for name in names]
        statuses = [_foreign_status(value) for value in values]
        last = int(times[good][-1])
        yield Block(times[good], values, statuses)


def _foreign_status(values: Any) -> StatusArray | None:
    if np.isfinite(values).all():
        return None
    status = np.where(np.isnan(values), Status.MISSING, Status.OK).astype(np.uint8)
    status[np.isinf(values)] = Status.OVER_RANGE
    values[np.isinf(values)] = np.nan
    return status
