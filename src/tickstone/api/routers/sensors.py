"""Sensors: parameters, sign-offs, and everything about the one in hand."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from sqlalchemy import select

from tickstone.api.desk import (
    Desk,
    DeskDep,
    RigDep,
    RowId,
    SensorDep,
    SessionDep,
    chain_kind_of,
    find,
)
from tickstone.api.problems import ProblemError, does_not_fit
from tickstone.api.routers.calibrations import calibration_out
from tickstone.api.routers.recordings import recording_out
from tickstone.api.routers.rigs import sensor_row
from tickstone.api.routers.rules import rule_out
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.bench import BenchOut, QuantityOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.rig import (
    Fitting,
    SensorChange,
    SensorIn,
    SignOffIn,
    SignOffOut,
)
from tickstone.api.schemas.sensor import DueOut, RunFigureOut, RunJudgedOut, SensorOut
from tickstone.core.display import finite
from tickstone.core.families.device_family import DeviceFamily
from tickstone.core.finding import worst_first
from tickstone.core.inputs import differing, values_of, with_inputs
from tickstone.core.stones.calibrated import schedule
from tickstone.core.stones.findings import stone_findings
from tickstone.core.stones.row import stones_for
from tickstone.core.stones.stone import WorkStage
from tickstone.core.wiring.netlist import MOST_DEVICES, Device, check_device
from tickstone.store.models import Calibration, Recording, Rig, Sensor, SignOff, Take, utc_now
from tickstone.work.catalogue import catalogue_of
from tickstone.work.driving import judge_run
from tickstone.work.sensing import kind_of, parameters_of, rules_in_use
from tickstone.work.standing import facts_of
from tickstone.work.starting import starts_with
from tickstone.work.wiring import look_at_wiring

router = APIRouter(prefix="/api", tags=["sensors"])


def _sensor_out(session: SessionDep, desk: Desk, sensor: Sensor) -> SensorOut:
    catalogue = catalogue_of(session)
    look = look_at_wiring(session, sensor.rig, catalogue)
    facts = facts_of(session, desk.cache, sensor, catalogue, look)
    stones = stones_for(facts)
    recordings = session.scalars(
        select(Recording)
        .where(Recording.sensor_id == sensor.id, Recording.deleted_at.is_(None))
        .join(Take, Take.id == Recording.take_id)
        .order_by(Take.recorded_at.desc(), Recording.id.desc())
    )
    calibrations = session.scalars(
        select(Calibration)
        .where(Calibration.sensor_id == sensor.id)
        .order_by(Calibration.made_at.desc(), Calibration.id.desc())
    )
    sign_offs = session.scalars(
        select(SignOff)
        .where(SignOff.sensor_id == sensor.id, SignOff.deleted_at.is_(None))
        .order_by(SignOff.at.desc(), SignOff.id.desc())
    )
    kind = kind_of(sensor, catalogue)
    rules = rules_in_use(session, sensor.id) if kind is not None else []
    return SensorOut(
        **sensor_row(sensor, stones, catalogue).model_dump(),
        rig_id=sensor.rig_id,
        rig_name=sensor.rig.name,
        rig_air=Air.of(sensor.rig.air),
        asks_of_a_drive=catalogue.devices[sensor.family].asks_of_a_drive,
        tells_air=catalogue.devices[sensor.family].tells_air,
        bench=BenchOut.of(kind) if kind is not None else None,
        parameters=values_of(parameters_of(sensor, kind)) if kind is not None else {},
        recordings=[recording_out(recording) for recording in recordings],
        calibrations=[calibration_out(row, kind, sensor) for row in calibrations] if kind else [],
        schedule=[DueOut.of(one) for one in schedule(facts)],
        rules=[rule_out(one, kind) for one in rules] if kind is not None else [],
        sign_offs=[sign_off_out(row) for row in sign_offs],
        findings=[FindingOut.of(f) for f in worst_first(stone_findings(stones))],
    )


@router.post("/rigs/{rig_id}/sensors", status_code=201)
def add_sensor(rig: RigDep, body: SensorIn, session: SessionDep, desk: DeskDep) -> SensorOut:
    """Add a sensor to a rig."""
    catalogue = catalogue_of(session)
    families = catalogue.devices
    if body.family not in families:
        raise does_not_fit(
            f"there is no family “{body.family}”; known are {', '.join(families)}", "family"
        )
    _check_room(rig)
    sensor = Sensor(
        rig_id=rig.id,
        name=body.name,
        family=body.family,
        place=body.place,
        position=len(rig.sensors),
        parameters=starts_with(families[body.family], catalogue.boards.get(rig.board)),
        fitting=_said(body.fitting),
    )
    _check_fitting(sensor, families[body.family])
    session.add(sensor)
    session.commit()
    session.refresh(rig)
    return _sensor_out(session, desk, sensor)


def _check_room(rig: Rig) -> None:
    """Raises a problem when a rig has as many devices as a wiring can hold."""
    if len(rig.sensors) >= MOST_DEVICES:
        raise ProblemError(
            409,
            "The rig is full",
            f"A rig holds {MOST_DEVICES} devices at most, and {rig.name} has as many. Remove one "
            "first, or start another rig.",
        )


def _said(fitting: Fitting | None) -> dict[str, Any]:
    """What was said, without what was left open."""
    return fitting.model_dump(exclude_none=True) if fitting is not None else {}


def _check_fitting(sensor: Sensor, family: DeviceFamily) -> None:
    """Raises a problem naming what cannot be of this family."""
    device = Device("1", sensor.name, family, **sensor.fitting)
    try:
        check_device(device)
    except ValueError as error:
        raise does_not_fit(str(error), "fitting") from error


@router.get("/sensors/{sensor_id}")
def read_sensor(sensor: SensorDep, session: SessionDep, desk: DeskDep) -> SensorOut:
    """Everything about one sensor."""
    return _sensor_out(session, desk, sensor)


@router.patch("/sensors/{sensor_id}")
def change_sensor(
    sensor: SensorDep, body: SensorChange, session: SessionDep, desk: DeskDep
) -> SensorOut:
    """Change a sensor's words or parameters."""
    for field in ("name", "place"):
        value = getattr(body, field)
        if value is not None:
            setattr(sensor, field, value)
    if body.fitting is not None:
        sensor.fitting = _said(body.fitting)
        _check_fitting(sensor, catalogue_of(session).devices[sensor.family])
        sensor.rig.wiring_revision += 1
    if body.parameters is not None:
        kind = chain_kind_of(sensor, catalogue_of(session))
        try:
            sensor.parameters = differing(with_inputs(kind.parameters, body.parameters))
        except ValueError as error:
            raise does_not_fit(str(error), "parameters") from error
    session.flush()
    found = _sensor_out(session, desk, sensor)
    session.commit()
    return found


@router.delete("/sensors/{sensor_id}", status_code=204)
def delete_sensor(sensor: SensorDep, session: SessionDep) -> None:
    """Hide a sensor; `restore` brings it back."""
    sensor.deleted_at = utc_now()
    session.commit()


@router.post("/sensors/{sensor_id}/restore")
def restore_sensor(sensor_id: RowId, session: SessionDep, desk: DeskDep) -> SensorOut:
    """Bring a hidden sensor back."""
    sensor = find(session, Sensor, sensor_id, deleted=True)
    if sensor.deleted_at is not None:
        _check_room(sensor.rig)
    sensor.deleted_at = None
    session.flush()
    found = _sensor_out(session, desk, sensor)
    session.commit()
    return found


def sign_off_out(row: SignOff) -> SignOffOut:
    """A sign-off as kept."""
    return SignOffOut(
        id=row.id,
        stage=WorkStage(row.stage),
        is_right=row.is_right,
        note=row.note,
        run=row.grounds.get("run", "") if row.stage == WorkStage.DRIVEN else "",
        at=row.at,
    )


@router.post("/sensors/{sensor_id}/sign-offs", status_code=201)
def add_sign_off(
    sensor: SensorDep, body: SignOffIn, session: SessionDep, desk: DeskDep
) -> SignOffOut:
    """Note that the wiring, or a drive, was looked at, and whether it is right.

    Wiring is not right while a check says no.
    """
    if body.stage not in (WorkStage.WIRED, WorkStage.DRIVEN):
        raise does_not_fit(
            "only wiring and drives are signed off; the other stones tick by themselves", "stage"
        )
    grounds: dict[str, str] = {}
    if body.recording_id is not None:
        grounds = _evidence(session, desk, sensor, body)
    if body.stage is WorkStage.WIRED:
        look = look_at_wiring(session, sensor.rig, catalogue_of(session))
        facts = look.facts(str(sensor.id))
        if facts is not None:
            grounds = dict(facts.grounds)
            against = (*facts.errors, *facts.gaps)
            if body.is_right and against:
                raise does_not_fit(f"a check says no: {against[0]}", "is_right")
    row = SignOff(
        sensor_id=sensor.id,
        stage=body.stage.value,
        is_right=body.is_right,
        note=body.note,
        grounds=grounds,
    )
    session.add(row)
    session.commit()
    return sign_off_out(row)


def _evidence(
    session: SessionDep, desk: DeskDep, sensor: Sensor, body: SignOffIn
) -> dict[str, str]:
    """A run's recording, and what it says against what was told."""
    if body.stage is not WorkStage.DRIVEN:
        raise does_not_fit("only a drive has a recording as its evidence", "recording_id")
    recording = session.get(Recording, body.recording_id)
    if recording is None or recording.deleted_at is not None or recording.sensor_id != sensor.id:
        raise does_not_fit("it is no recording of this sensor", "recording_id")
    judged = judge_run(session, desk.cache, sensor, recording)
    return {"run": f"“{recording.name}”", "off": judged.off}


@router.get("/sensors/{sensor_id}/runs/{recording_id}")
def judge_a_run(
    sensor: SensorDep, recording_id: RowId, session: SessionDep, desk: DeskDep
) -> RunJudgedOut:
    """A recording as a run: what it did, against what was told of it beforehand."""
    recording = find(session, Recording, recording_id)
    if recording.sensor_id != sensor.id:
        raise does_not_fit("it is no recording of this sensor", "recording_id")
    judged = judge_run(session, desk.cache, sensor, recording)
    session.commit()
    return RunJudgedOut(
        figures=[
            RunFigureOut(
                label=one.label,
                quantity=QuantityOut.of(one.quantity),
                predicted=finite(one.predicted),
                measured=finite(one.measured),
                allowed=finite(one.allowed),
                at_s=one.at_s,
                is_off=one.is_off,
            )
            for one in judged.figures
        ],
        says=judged.says,
        off=judged.off,
    )


@router.delete("/sign-offs/{sign_off_id}", status_code=204)
def delete_sign_off(sign_off_id: RowId, session: SessionDep) -> None:
    """Take a sign-off back."""
    find(session, SignOff, sign_off_id).deleted_at = utc_now()
    session.commit()


@router.post("/sign-offs/{sign_off_id}/restore")
def restore_sign_off(sign_off_id: RowId, session: SessionDep) -> SignOffOut:
    """Bring a sign-off back."""
    row = find(session, SignOff, sign_off_id, deleted=True)
    row.deleted_at = None
    session.commit()
    return sign_off_out(row)
