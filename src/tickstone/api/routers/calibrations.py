"""Calibrations: what marks say, kept with all it rests on, and which one is in use."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import JSONResponse
from sqlalchemy.orm import Session

from tickstone.api.desk import (
    CatalogueDep,
    Desk,
    DeskDep,
    RecordingDep,
    SensorDep,
    SessionDep,
    chain_kind_of,
)
from tickstone.api.problems import does_not_fit, not_found
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.bench import QuantityOut
from tickstone.api.schemas.calibration import (
    CalibrationChoice,
    CalibrationOut,
    FitIn,
    FittedOut,
    SpanOut,
    StretchOut,
    certificate_out,
)
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.heaps import LaneHeapsOut
from tickstone.api.trying import sensing_tried
from tickstone.core.calibration.kind import CalibrationKind, Fit
from tickstone.core.chains.kind import ChainKind
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.formats.calibration_json import calibration_document
from tickstone.store.models import Calibration, CalibrationInUse, Mark, Recording, Sensor
from tickstone.work.catalogue import Catalogue
from tickstone.work.fitting import (
    calibration_row,
    fit_recording,
    heaps_of,
    marks_of,
    next_still,
    reads_of,
)
from tickstone.work.sensing import Sensing, fit_of, label_of, spans_used, surroundings_from

router = APIRouter(prefix="/api", tags=["calibrations"])


def calibration_out(row: Calibration, kind: ChainKind, sensor: Sensor) -> CalibrationOut:
    """A calibration as kept."""
    calibration = _kind_named(kind, row.kind)
    return CalibrationOut(
        id=row.id,
        kind=row.kind,
        label=label_of(row),
        made_at=row.made_at,
        recording_id=row.recording_id,
        parameters=row.parameters,
        spans_used=spans_used(row),
        certificate=certificate_out(calibration, fit_of(row)),
        air=Air.of(surroundings_from(row.surroundings).air),
        errors=[str(error) for error in row.errors],
        heaps=LaneHeapsOut.all_of(fit_of(row).heaps),
        is_in_use=any(used.calibration_id == row.id for used in sensor.in_use),
        undone_by=next(
            (used.undone_by for used in sensor.in_use if used.calibration_id == row.id), ""
        ),
    )


def _kind_named(kind: ChainKind, name: str) -> CalibrationKind:
    found = next((one for one in kind.calibrations if one.name == name), None)
    if found is None:
        known = ", ".join(one.name for one in kind.calibrations) or "none"
        raise does_not_fit(f"there is no calibration “{name}” here; there are: {known}", "kind")
    return found


def _tried(
    session: Session, desk: Desk, catalogue: Catalogue, recording: Recording, body: FitIn
) -> tuple[CalibrationKind, Sensing, list[Mark]]:
    calibration = _kind_named(chain_kind_of(recording.sensor, catalogue), body.kind)
    left = {k: v for k, v in body.draft.calibrations.items() if k != body.kind}
    draft = body.draft.model_copy(update={"calibrations": left})
    sensing = sensing_tried(session, desk, catalogue, recording.sensor, draft, recording)
    return calibration, sensing, marks_of(session, recording, body.kind)


@router.post("/recordings/{recording_id}/fit")
def fit_marks(
    recording: RecordingDep,
    body: FitIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> FittedOut:
    """What the marks of a recording say, with what is tried out. Saves nothing."""
    calibration, sensing, marks = _tried(session, desk, catalogue, recording, body)
    fit, problem, reads, still = None, "", None, None
    heaps: tuple[LaneHeaps, ...] = ()
    try:
        reads = reads_of(recording, calibration, sensing)
        still = next_still(session, desk.cache, recording, calibration, sensing, marks)
        heaps = heaps_of(session, desk.cache, recording, calibration, sensing, marks)
        fit = fit_recording(session, desk.cache, recording, calibration, sensing, marks)
        heaps = fit.heaps
    except ValueError as error:
        problem = str(error)
    return FittedOut(
        problem=problem,
        reads=QuantityOut.of(reads) if reads is not None else None,
        parameters=dict(fit.parameters) if fit else {},
        covariance=fit.covariance.tolist() if fit else [],
        statistics=dict(fit.statistics) if fit else {},
        certificate=certificate_out(calibration, fit) if fit else [],
        spans=_spans_out(fit, marks) if fit else [],
        findings=[FindingOut.of(remark) for remark in fit.remarks] if fit else [],
        heaps=LaneHeapsOut.all_of(heaps),
        curves=dict(fit.curves) if fit else {},
        next_still=StretchOut(from_s=still[0], to_s=still[1]) if still else None,
    )


def _spans_out(fit: Fit, marks: list[Mark]) -> list[SpanOut]:
    return [
        SpanOut(
            mark_id=mark.id,
            name=span.name,
            true=span.true,
            read=span.read,
            scatter=span.scatter,
            count=span.count,
            flagged=span.flagged,
            wild=span.wild,
            is_still=span.is_still,
            is_used=span.is_used,
            residual=span.residual,
        )
        for mark, span in zip(marks, fit.spans, strict=True)
    ]


@router.post("/recordings/{recording_id}/calibrations", status_code=201)
def save_calibration(
    recording: RecordingDep,
    body: FitIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> CalibrationOut:
    """Fit the marks of a recording, keep the result and use it from now on.

    It rests on what was tried out, and says so: its surroundings and grounds are the trial's.
    """
    calibration, sensing, marks = _tried(session, desk, catalogue, recording, body)
    try:
        fit = fit_recording(session, desk.cache, recording, calibration, sensing, marks)
    except ValueError as error:
        raise does_not_fit(str(error)) from error
    row = calibration_row(recording, calibration, sensing, marks, fit)
    session.add(row)
    session.flush()
    _use(recording.sensor, row.kind, row)
    session.commit()
    return calibration_out(row, sensing.kind, recording.sensor)


@router.get("/calibrations/{calibration_id}/constants")
def take_constants(
    calibration_id: int, session: SessionDep, catalogue: CatalogueDep
) -> JSONResponse:
    """A calibration to take away: what `tickstone calibrate --json` prints, and a program needs."""
    row = session.get(Calibration, calibration_id) if 0 < calibration_id < 2**63 else None
    if row is None:
        raise not_found("calibration")
    sensor = session.get_one(Sensor, row.sensor_id)
    kind = _kind_named(chain_kind_of(sensor, catalogue), row.kind)
    document = {
        **calibration_document(kind, fit_of(row)),
        "sensor": sensor.name,
        "made_at": row.made_at.isoformat(),
        "rests_on": row.grounds,
        "certificate": {line.label: line.text for line in kind.certificate(fit_of(row))},
    }
    name = f"{sensor.name} {kind.name}.json".replace(" ", "-").replace('"', "")
    return JSONResponse(
        document, headers={"content-disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )


@router.put("/sensors/{sensor_id}/calibrations/{kind}")
def choose_calibration(
    sensor: SensorDep,
    kind: str,
    body: CalibrationChoice,
    session: SessionDep,
    catalogue: CatalogueDep,
) -> list[CalibrationOut]:
    """Choose which calibration of a kind is in use, or say what undid it; those of that kind are
    answered.
    """
    chain_kind = chain_kind_of(sensor, catalogue)
    undone_by = _kind_named(chain_kind, kind).undone_by
    if body.undone_by and body.undone_by not in undone_by:
        known = ", ".join(undone_by) or "nothing"
        raise does_not_fit(f"what may undo it is {known}", "undone_by")
    chosen = session.get(Calibration, body.calibration_id) if body.calibration_id else None
    if body.calibration_id is not None and (
        chosen is None or chosen.sensor_id != sensor.id or chosen.kind != kind
    ):
        raise does_not_fit("that calibration is not this sensor’s", "calibration_id")
    _use(sensor, kind, chosen, body.undone_by)
    session.commit()
    rows = session.query(Calibration).filter_by(sensor_id=sensor.id, kind=kind)
    return [
        calibration_out(row, chain_kind, sensor)
        for row in rows.order_by(Calibration.made_at.desc(), Calibration.id.desc())
    ]


def _use(sensor: Sensor, kind: str, chosen: Calibration | None, undone_by: str = "") -> None:
    """Put one calibration of a kind in use instead of another. undone_by: what changed since."""
    used = next((one for one in sensor.in_use if one.kind == kind), None)
    if chosen is None:
        if used is not None:
            sensor.in_use.remove(used)
    elif used is None:
        sensor.in_use.append(CalibrationInUse(kind=kind, calibration=chosen, undone_by=undone_by))
    else:
        used.calibration, used.undone_by = chosen, undone_by
