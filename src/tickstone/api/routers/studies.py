"""Studies: planned experiments on a sensor, led cell by cell."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fastapi import APIRouter

from tickstone.api.desk import (
    CatalogueDep,
    Desk,
    DeskDep,
    RowId,
    SensorDep,
    SessionDep,
    chain_kind_of,
    find,
)
from tickstone.api.problems import ProblemError, does_not_fit, not_found
from tickstone.api.schemas.bench import QuantityOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.heaps import LaneHeapsOut
from tickstone.api.schemas.look import Draft
from tickstone.api.schemas.study import CellIn, CellOut, StudyIn, StudyOut, StudyRowOut
from tickstone.api.trying import sensing_tried
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.inputs import values_of, with_inputs
from tickstone.core.signal import Signal
from tickstone.core.studies.kind import StudyKind
from tickstone.store.models import Recording, Sensor, Study, utc_now
from tickstone.work.catalogue import Catalogue
from tickstone.work.studies import (
    cell_of,
    keep_cell,
    last_of_line,
    outcome_of,
    plan_of,
    stretch_of,
    studies_of,
    study_kind,
)

router = APIRouter(prefix="/api", tags=["studies"])


def _kind(sensor: Sensor, catalogue: Catalogue, name: str) -> StudyKind:
    try:
        return study_kind(chain_kind_of(sensor, catalogue), name)
    except ValueError as error:
        raise does_not_fit(str(error), "kind") from error


def _study_out(row: Study, kind: StudyKind) -> StudyOut:
    plan = plan_of(row, kind)
    outcome = outcome_of(row, kind)
    taken = {cell["key"]: cell for cell in row.cells}
    return StudyOut(
        id=row.id,
        kind=row.kind,
        label=kind.label,
        name=row.name,
        made_at=row.made_at,
        plan=values_of(plan),
        varies=QuantityOut.of(kind.varies),
        cells=[
            CellOut(
                key=cell.key,
                says=cell.says,
                what=cell.what,
                level=cell.level,
                is_lit=cell.is_lit,
                **_taken_out(taken.get(cell.key)),
            )
            for cell in kind.cells(plan)
        ],
        rows=[StudyRowOut.model_validate(line) for line in outcome.rows],
        best=outcome.best,
        flat_from=outcome.flat[0] if outcome.flat else None,
        flat_to=outcome.flat[1] if outcome.flat else None,
        says=outcome.says,
        cost=outcome.cost,
        findings=[FindingOut.of(one) for one in outcome.findings],
    )


def _taken_out(cell: dict[str, Any] | None) -> dict[str, Any]:
    if cell is None:
        return {
            "is_taken": False, "samples": 0, "taken_at": None, "recording_id": None,
            "start_s": None, "end_s": None, "heaps": [],
        }  # fmt: skip
    heaps = [LaneHeaps.from_json(one) for one in cell["heaps"]]
    return {
        "is_taken": True,
        "samples": cell["samples"],
        "taken_at": datetime.fromisoformat(cell["taken_at"]),
        "recording_id": cell.get("recording_id"),
        "start_s": cell.get("start_s"),
        "end_s": cell.get("end_s"),
        "heaps": LaneHeapsOut.all_of(heaps),
    }


@router.get("/sensors/{sensor_id}/studies")
def list_studies(sensor: SensorDep, session: SessionDep, catalogue: CatalogueDep) -> list[StudyOut]:
    """The studies of a sensor, the newest first."""
    return [
        _study_out(row, _kind(sensor, catalogue, row.kind))
        for row in studies_of(session, sensor.id)
    ]


@router.post("/sensors/{sensor_id}/studies", status_code=201)
def plan_study(
    sensor: SensorDep, body: StudyIn, session: SessionDep, catalogue: CatalogueDep
) -> StudyOut:
    """Plan a study; its cells are taken one by one."""
    kind = _kind(sensor, catalogue, body.kind)
    try:
        plan: Any = with_inputs(kind.plan, body.plan)
    except ValueError as error:
        raise does_not_fit(str(error), "plan") from error
    row = Study(
        sensor_id=sensor.id,
        kind=kind.name,
        name=body.name or kind.label,
        plan=values_of(plan),
        cells=[],
        made_at=utc_now(),
    )
    session.add(row)
    session.commit()
    return _study_out(row, kind)


@router.put("/studies/{study_id}/cells/{key}")
def take_cell(
    study_id: RowId,
    key: str,
    body: CellIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> StudyOut:
    """Take a cell: from a stretch of a recording, or from the last seconds of the live line.

    What cannot be used is refused with the reason, and what was taken before stays.
    """
    row = find(session, Study, study_id)
    sensor = session.get_one(Sensor, row.sensor_id)
    kind = _kind(sensor, catalogue, row.kind)
    try:
        cell = cell_of(row, kind, key)
    except KeyError as error:
        raise not_found("cell of that study") from error
    signal, where = _stretch(session, desk, catalogue, sensor, body)
    parameters = sensing_tried(session, desk, catalogue, sensor, Draft(), None).parameters
    try:
        taken = kind.take(cell, signal, parameters)
    except ValueError as error:
        raise does_not_fit(str(error), "") from error
    keep_cell(row, taken, where)
    session.commit()
    return _study_out(row, kind)


def _stretch(
    session: SessionDep, desk: Desk, catalogue: Catalogue, sensor: Sensor, body: CellIn
) -> tuple[Signal, dict[str, Any]]:
    """The stretch that is told, and where it is from."""
    if body.last_s is not None:
        line = desk.lines.line(sensor.rig_id)
        live = None
        if line is not None and line.ring is not None:
            on_line = desk.lines.sensors(session, line).values()
            live = next((one for one in on_line if one.sensor_id == sensor.id), None)
        if line is None or line.ring is None or live is None:
            raise ProblemError(
                409,
                "Nothing is heard of it now",
                f"No line is open on which {sensor.name} is heard. Open the line first, or take a "
                "stretch of a recording.",
            )
        return last_of_line(live, line.ring, body.last_s), {"recording_id": None}
    if body.recording_id is None:
        raise does_not_fit("a recording, or the last seconds of the line", "recording_id")
    recording = find(session, Recording, body.recording_id)
    if recording.sensor_id != sensor.id:
        raise does_not_fit("that recording is of another sensor", "recording_id")
    if not body.start_s < body.end_s:
        raise does_not_fit("a stretch has to end after it starts", "end_s")
    sensing = sensing_tried(session, desk, catalogue, sensor, Draft(), recording)
    signal = stretch_of(session, desk.cache, recording, sensing, body.start_s, body.end_s)
    where = {"recording_id": recording.id, "start_s": body.start_s, "end_s": body.end_s}
    return signal, where


@router.delete("/studies/{study_id}/cells/{key}")
def drop_cell(study_id: RowId, key: str, session: SessionDep, catalogue: CatalogueDep) -> StudyOut:
    """Put a cell back to be taken anew."""
    row = find(session, Study, study_id)
    kind = _kind(session.get_one(Sensor, row.sensor_id), catalogue, row.kind)
    row.cells = [cell for cell in row.cells if cell["key"] != key]
    session.commit()
    return _study_out(row, kind)


@router.delete("/studies/{study_id}", status_code=204)
def delete_study(study_id: RowId, session: SessionDep) -> None:
    """Hide a study; `restore` brings it back."""
    find(session, Study, study_id).deleted_at = utc_now()
    session.commit()


@router.post("/studies/{study_id}/restore")
def restore_study(study_id: RowId, session: SessionDep, catalogue: CatalogueDep) -> StudyOut:
    """Bring a hidden study back."""
    row = find(session, Study, study_id, deleted=True)
    row.deleted_at = None
    session.commit()
    return _study_out(row, _kind(session.get_one(Sensor, row.sensor_id), catalogue, row.kind))
