"""What is seen of a sensor on an open line: what is held, and marked when it is over; a reading
from a zero on.
"""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.seen import PoseHeld, Seen
from tickstone.core.step import Step
from tickstone.store.models import Mark, Recording
from tickstone.work.live.desk import LineDesk
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.line import LiveLine
from tickstone.work.live.recorder import Recorder
from tickstone.work.live.ring import CAPACITY, Stretch

_NOT_FED = "none of its columns is heard on this line; choose them on the line’s page"


def live_sensor(session: Session, lines: LineDesk, line: LiveLine, sensor_id: int) -> LiveSensor:
    """A sensor as it is heard on a line. Raises ValueError when it is not."""
    found = next(
        (one for one in lines.sensors(session, line).values() if one.sensor_id == sensor_id), None
    )
    if found is None:
        raise ValueError(_NOT_FED)
    return found


def heard_since(line: LiveLine, from_axis_s: float) -> Stretch:
    """What a line said since a time on its axis, as far as it is still there.

    Raises ValueError before anything was heard.
    """
    ring = line.ring
    if ring is None:
        raise ValueError("nothing has been heard yet")
    first = max(ring.first_at_or_after(round(from_axis_s * 1e6)), ring.total - CAPACITY)
    return ring.since(first)


def read_since(
    line: LiveLine, sensor: LiveSensor, output: str, from_axis_s: float
) -> tuple[Step, float] | None:
    """The newest reading of an output, worked out from a time on, and when it is from; None before
    there is one. Raises ValueError for an output that there is none of.
    """
    stretch = heard_since(line, from_axis_s)
    chain = sensor.sensing.chain()
    given = dict(chain.outputs)
    if output not in given:
        raise ValueError(f"there is no output “{output[:40]}”; there are {', '.join(given)}")
    signals = sensor.signals(stretch)
    count = len(chain.fold(signals, given[output]).results[given[output]])
    if count == 0:
        return None
    step = chain.explain(signals, count - 1, given[output])[-1]
    return step, float(stretch.time_us[-1]) / 1e6


def seen_on(
    line: LiveLine, sensor: LiveSensor, calibration: CalibrationKind, from_axis_s: float
) -> Seen:
    """What is held of a calibration since a time on the line's axis."""
    stretch = heard_since(line, from_axis_s)
    chain, node = sensor.sensing.compared_with(calibration)
    signals = sensor.signals(stretch)
    signal = chain.fold(signals, node).results[node]
    return calibration.see(signal, sensor.sensing.parameters)


def mark_held(
    session: Session,
    recorder: Recorder,
    recording: Recording,
    calibration: CalibrationKind,
    held: Sequence[PoseHeld],
) -> int:
    """Marks on a recording for what was held; how many."""
    begun_s = recorder.started_at_us / 1e6
    for one in held:
        session.add(
            Mark(
                take_id=recording.take_id,
                sensor_id=recording.sensor_id,
                channel=None,
                calibration=calibration.name,
                pose=one.name,
                name="",
                start_s=max(0.0, one.from_s - begun_s),
                end_s=max(0.0, one.to_s - begun_s),
            )
        )
    session.commit()
    return len(held)
