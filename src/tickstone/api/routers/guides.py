"""On an open line: what is held for a calibration and what is next, and readings from a zero on."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from sqlalchemy.orm import Session

from tickstone.api.desk import (
    CatalogueDep,
    Desk,
    DeskDep,
    SensorDep,
    SessionDep,
    chain_kind_of,
)
from tickstone.api.problems import ProblemError, does_not_fit
from tickstone.api.schemas.guide import GuidedIn, GuidedOut, PoseHeldOut, ReadOut, SeenOut
from tickstone.api.working import step_out
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.seen import Seen
from tickstone.store.models import Sensor, Take
from tickstone.work.catalogue import Catalogue
from tickstone.work.live.guiding import live_sensor, mark_held, read_since, seen_on
from tickstone.work.live.line import LiveLine

router = APIRouter(prefix="/api/sensors/{sensor_id}", tags=["calibrations"])


@router.get("/guides/{kind}")
def see(
    sensor: SensorDep,
    kind: str,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
    from_axis_s: Annotated[float, Query(ge=0.0, le=1e9)] = 0.0,
) -> SeenOut:
    """What is held now, what was held since, and what is missing."""
    line, calibration = _line_of(desk, sensor), _guided(sensor, kind, catalogue)
    return _seen_out(_seen(session, desk, line, sensor, calibration, from_axis_s))


@router.post("/guides/{kind}", status_code=201)
def finish(
    sensor: SensorDep,
    kind: str,
    body: GuidedIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> GuidedOut:
    """Stop the recording, and mark on it what was held."""
    line, calibration = _line_of(desk, sensor), _guided(sensor, kind, catalogue)
    seen = _seen(session, desk, line, sensor, calibration, body.from_axis_s)
    recorder = line.stop_recording()
    if recorder is None:
        raise ProblemError(409, "Not recording", "This line is not being recorded.")
    session.expire_all()
    take = session.get_one(Take, recorder.take_id)
    recording = next((one for one in take.recordings if one.sensor_id == sensor.id), None)
    if recording is None:
        raise ProblemError(409, "Nothing of it", f"The recording holds nothing of {sensor.name}.")
    marks = mark_held(session, recorder, recording, calibration, seen.done)
    return GuidedOut(recording_id=recording.id, marks=marks)


@router.get("/readings/{output}")
def read(
    sensor: SensorDep,
    output: str,
    session: SessionDep,
    desk: DeskDep,
    from_axis_s: Annotated[float, Query(ge=0.0, le=1e9)] = 0.0,
) -> ReadOut:
    """The newest reading of an output on the open line, worked out from a zero on."""
    line = _line_of(desk, sensor)
    try:
        heard = live_sensor(session, desk.lines, line, sensor.id)
        found = read_since(line, heard, output, from_axis_s)
    except ValueError as error:
        raise ProblemError(409, "Not heard", f"{sensor.name}: {error}.") from error
    if found is None:
        return ReadOut(step=None, axis_s=line.axis_us / 1e6)
    return ReadOut(step=step_out(found[0]), axis_s=found[1])


def _line_of(desk: Desk, sensor: Sensor) -> LiveLine:
    line = desk.lines.line(sensor.rig_id)
    # What an ended line said is still there: what was held on it can be taken.
    if line is None:
        raise ProblemError(409, "No line", "No line is open for this rig; open it first.")
    return line


def _guided(sensor: Sensor, name: str, catalogue: Catalogue) -> CalibrationKind:
    kinds = [one for one in chain_kind_of(sensor, catalogue).calibrations if one.is_guided]
    found = next((one for one in kinds if one.name == name), None)
    if found is None:
        known = ", ".join(one.name for one in kinds) or "none"
        raise does_not_fit(f"there is no guide “{name[:60]}” here; there are: {known}", "kind")
    return found


def _seen(
    session: Session,
    desk: Desk,
    line: LiveLine,
    sensor: Sensor,
    calibration: CalibrationKind,
    from_axis_s: float,
) -> Seen:
    try:
        heard = live_sensor(session, desk.lines, line, sensor.id)
        return seen_on(line, heard, calibration, from_axis_s)
    except ValueError as error:
        raise ProblemError(409, "Not heard", f"{sensor.name}: {error}.") from error


def _seen_out(seen: Seen) -> SeenOut:
    return SeenOut(
        now=seen.now,
        still_s=seen.still_s,
        needs_s=seen.needs_s,
        done=[PoseHeldOut.model_validate(one) for one in seen.done],
        missing=list(seen.missing),
        refused=seen.refused,
        says=seen.says,
        is_done=seen.is_done,
    )
