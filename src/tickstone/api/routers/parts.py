"""The parts benches: sums about passive parts, with their working."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.problems import does_not_fit, not_found
from tickstone.api.schemas.bench import inputs_out
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.parts import (
    PartBenchOut,
    PartInputs,
    ResultOut,
    WorkedOut,
)
from tickstone.api.working import step_out
from tickstone.core.inputs import inputs_of, with_inputs
from tickstone.core.part_benches import PART_BENCHES

router = APIRouter(prefix="/api/parts", tags=["parts"])


@router.get("")
def list_part_benches() -> list[PartBenchOut]:
    """Every bench with its inputs."""
    return [
        PartBenchOut(name=kind.name, label=kind.label, what=kind.what, inputs=inputs_out(kind))
        for kind in PART_BENCHES.values()
    ]


@router.post("/{name}")
def work_out_parts(name: str, body: PartInputs) -> WorkedOut:
    """Do a bench's sum. Saves nothing."""
    kind = PART_BENCHES.get(name)
    if kind is None:
        raise not_found("parts bench")
    try:
        worked = with_inputs(kind, body.inputs).work()
    except ValueError as error:
        field, _, _ = str(error).partition(":")
        known = {one.name for one in inputs_of(kind)}
        raise does_not_fit(str(error), field if field in known else None) from error
    return WorkedOut(
        steps=[step_out(step) for step in worked.steps],
        results=[ResultOut.model_validate(one) for one in worked.results],
        findings=[FindingOut.of(finding) for finding in worked.findings],
        bands=list(worked.bands),
    )
