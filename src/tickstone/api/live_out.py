"""An open line, dressed for the wire."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from tickstone.api.schemas.bench import OutputOut, QuantityOut
from tickstone.api.schemas.live import (
    BoardProgramOut,
    ColumnOut,
    JudgedOut,
    LineOut,
    LineShapeOut,
    RecordingNowOut,
)
from tickstone.core.lines.reader import JudgedLine
from tickstone.core.lines.shape import LineShape
from tickstone.core.status import Status
from tickstone.link.board import BOARDS
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.frames import Frame, Trace
from tickstone.work.live.line import LiveLine


def line_out(line: LiveLine, sensors: Mapping[int, LiveSensor] | None = None) -> LineOut:
    """A line as it stands. sensors: those with a chain, by their first channel."""
    counters, recorder = line.counters, line.recorder
    return LineOut(
        rig_id=line.rig_id,
        kind=line.place.kind,
        path=line.place.path,
        label=line.place.label,
        speed=line.place.speed,
        resets=line.place.resets,
        state=line.state,
        trouble=line.trouble,
        revision=line.revision,
        shape=shape_out(line.shape, line.sensors, sensors or {}) if line.shape else None,
        bytes=counters.bytes,
        lines=counters.lines,
        rows=counters.rows,
        bad=counters.bad,
        text=counters.text,
        missing=counters.missing,
        never_came=counters.never_came,
        lost=counters.lost,
        rate_hz=line.rate_hz,
        jitter_us=line.jitter_us(),
        clock_note=line.clock_note,
        axis_s=line.axis_us / 1e6,
        board=next(
            (n for n in BOARDS if line.place.kind == "stand-in" and n in line.place.label), ""
        ),
        program=BoardProgramOut.model_validate(line.program) if line.program else None,
        recording=RecordingNowOut(
            take_id=recorder.take_id,
            name=recorder.name,
            samples=recorder.samples,
            written_samples=recorder.written_samples,
            bad_lines=recorder.bad_lines,
            started_at_s=recorder.started_at_us / 1e6,
            trouble=recorder.trouble,
        )
        if recorder
        else None,
    )


def shape_out(
    shape: LineShape, sensors: dict[str, int], chained: Mapping[int, LiveSensor]
) -> LineShapeOut:
    """How lines are read, and whose each column is."""
    channels = {index: number for number, index in enumerate(shape.channels)}
    return LineShapeOut(
        kind=shape.manner.kind,
        separator=shape.manner.separator,
        decimal=shape.manner.decimal,
        bare_hex=shape.manner.bare_hex,
        time_unit=shape.time_unit,
        says=shape.describe(),
        columns=[
            ColumnOut(
                position=index,
                label=column.label,
                name=column.name,
                unit=column.unit,
                quantity=column.quantity,
                is_used=column.is_used,
                is_time=index == shape.time,
                channel=channels.get(index),
                sensor_id=sensors.get(column.name),
                gives=_gives(chained.get(channels.get(index, -1))),
                asks_for=_asks_for(chained.get(channels.get(index, -1))),
            )
            for index, column in enumerate(shape.columns)
        ],
    )


def _gives(sensor: LiveSensor | None) -> OutputOut | None:
    """What the chain of the sensor that is shown at a column tells."""
    if sensor is None:
        return None
    told = sensor.sensing.kind.headline(sensor.sensing.chain())
    return OutputOut.of(told)


def _asks_for(sensor: LiveSensor | None) -> QuantityOut | None:
    """What a true value of it is told in, if a calibration asks for one."""
    asked = sensor.sensing.kind.asks_for if sensor is not None else None
    return QuantityOut.of(asked) if asked is not None else None


def judged_out(line: JudgedLine, opened_at_us: int) -> JudgedOut:
    """A line of text with its verdict."""
    return JudgedOut(
        number=line.number,
        text=line.text[:400],
        verdict=line.verdict,
        reason=line.reason,
        at_s=(line.at_us - opened_at_us) / 1e6,
    )


def frame_out(frame: Frame) -> dict[str, Any]:
    """A picture as plain values: short names, because there are many."""
    words = {int(status): status.code for status in Status}
    return {
        "from_s": frame.from_s,
        "t": frame.time_s,
        "raw": [_trace_out(trace) for trace in frame.raw],
        "chained": {
            str(c): {
                "t": one.time_s,
                **_trace_out(one.trace),
                "last": words[one.trace.flag[-1] if one.trace.flag else 0],
            }
            for c, one in frame.chained.items()
        },
        "newest": [[value, words[status]] for value, status in frame.newest],
        "arrived_us": frame.arrived_us,
        "samples": frame.samples,
        "skipped": frame.skipped,
    }


def _trace_out(trace: Trace) -> dict[str, Any]:
    return {"v": trace.value, "f": trace.flag if any(trace.flag) else []}
