"""Readings held against something else."""

from __future__ import annotations

import math
from typing import Any

from fastapi import APIRouter

from tickstone.api.desk import CatalogueDep, DeskDep, SensorDep, SessionDep
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.check import CheckIn, CheckOut
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.trying import sensing_tried
from tickstone.core.inputs import with_inputs

router = APIRouter(prefix="/api", tags=["checks"])


@router.post("/sensors/{sensor_id}/checks")
def check_reading(
    sensor: SensorDep,
    body: CheckIn,
    session: SessionDep,
    desk: DeskDep,
    catalogue: CatalogueDep,
) -> CheckOut:
    """Hold the reading in hand against what a person says. Keeps nothing."""
    sensing = sensing_tried(session, desk, catalogue, sensor, body.draft, None)
    known = {one.name: one for one in sensing.kind.checks}
    check = known.get(body.name)
    if check is None:
        names = ", ".join(known) or "none"
        raise does_not_fit(f"there is no check “{body.name}” for {sensor.name}: {names}", "name")
    try:
        asked: Any = with_inputs(check.asks, body.asked)
        u = math.nan if body.u is None else body.u
        found = check.judge(asked, body.value, u, sensing.parameters)
    except ValueError as error:
        raise does_not_fit(str(error), "asked") from error
    return CheckOut(
        says=found.says,
        is_good=found.is_good,
        findings=[FindingOut.of(one) for one in found.findings],
    )
