"""What a page tries out, put together with what is saved: one place for look, fit and suggestion.

So marks, fit and everything else on a screen go through the very chain that its working line shows.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, replace
from typing import Any

from sqlalchemy.orm import Session

from tickstone.api.desk import Desk, chain_kind_of
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.look import Draft
from tickstone.core.chain import Stage
from tickstone.core.inputs import with_inputs
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import Recording, Sensor
from tickstone.work.catalogue import Catalogue
from tickstone.work.fitting import fit_recording, marks_of
from tickstone.work.sensing import (
    Sensing,
    calibration_stages,
    parameters_of,
    rule_stage,
    rules_in_use,
)


def sensing_tried(
    session: Session,
    desk: Desk,
    catalogue: Catalogue,
    sensor: Sensor,
    draft: Draft,
    recording: Recording | None,
) -> Sensing:
    """The sensor with a draft, in what its recording was taken in, or what the rig stands in now.

    A problem naming the part of the draft that does not fit.
    """
    kind = chain_kind_of(sensor, catalogue)
    try:
        saved = asdict(parameters_of(sensor, kind))
        parameters: Any = with_inputs(kind.parameters, saved | (draft.parameters or {}))
    except ValueError as error:
        raise does_not_fit(str(error), "parameters") from error
    known_air = recording.air if recording is not None else sensor.rig.air
    surroundings = Surroundings(draft.air.conditions() if draft.air else known_air)
    calibrations = calibration_stages(sensor, kind, parameters, surroundings)
    sensing = Sensing(kind, parameters, surroundings, calibrations)
    known = {one.name: one for one in kind.calibrations}
    for name, how in draft.calibrations.items():
        if name not in known:
            raise does_not_fit(f"there is no calibration “{name}” here", "calibrations")
        if how != "saved":
            calibrations.pop(name, None)
        if how == "fit":
            calibrations[name] = _fitted(session, desk, sensing, recording, name)
    try:
        return replace(sensing, rules=_rules(session, sensor, sensing, draft))
    except ValueError as error:
        raise does_not_fit(str(error), "rule") from error


def _fitted(
    session: Session, desk: Desk, sensing: Sensing, recording: Recording | None, name: str
) -> Stage:
    """The marks of the recording as they stand, as a stage."""
    if recording is None:
        raise does_not_fit("there is no recording to fit", "calibrations")
    calibration = next(one for one in sensing.kind.calibrations if one.name == name)
    marks = marks_of(session, recording, name)
    try:
        fit = fit_recording(session, desk.cache, recording, calibration, sensing, marks)
    except ValueError as error:
        raise does_not_fit(str(error), "calibrations") from error
    used = sum(span.is_used for span in fit.spans)
    return calibration.stage(
        fit, absorbs_shared=True, label=f"{used} mark{'' if used == 1 else 's'}, as they stand"
    )


def rules_tried(session: Session, sensor_id: int, draft: Draft) -> dict[str, Mapping[str, Any]]:
    """The parameters of every rule in use, by kind, and of the one that is tried out."""
    found: dict[str, Mapping[str, Any]] = {
        one.kind: one.parameters for one in rules_in_use(session, sensor_id)
    }
    return found | ({draft.rule.kind: draft.rule.parameters} if draft.rule else {})


def _rules(session: Session, sensor: Sensor, sensing: Sensing, draft: Draft) -> dict[str, Stage]:
    return {
        name: rule_stage(sensing.kind, name, parameters, sensing.parameters)
        for name, parameters in rules_tried(session, sensor.id, draft).items()
    }
