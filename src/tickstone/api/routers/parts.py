"""The parts benches: sums about passive parts, with their working."""

from __future__ import annotations

import dataclasses
from typing import Any, cast

from fastapi import APIRouter

from tickstone.api.problems import does_not_fit, not_found
from tickstone.api.schemas.finding import FindingOut
from tickstone.api.schemas.parts import (
    InputOut,
    PartBenchOut,
    PartInputs,
    ResultOut,
    WorkedOut,
)
from tickstone.api.working import step_out
from tickstone.core.part_benches import PART_BENCHES
from tickstone.core.part_benches.bench import PartBench, with_inputs

router = APIRouter(prefix="/api/parts", tags=["parts"])


@router.get("")
def list_part_benches() -> list[PartBenchOut]:
    """Every bench with its inputs."""
    return [
        PartBenchOut(name=kind.name, label=kind.label, what=kind.what, inputs=_inputs(kind))
        for kind in PART_BENCHES.values()
    ]


def _inputs(kind: type[PartBench]) -> list[InputOut]:
    return [
        InputOut(
            name=field.name,
            label=field.metadata["label"],
            unit=field.metadata.get("unit", ""),
            help=field.metadata.get("help", ""),
            default=field.default,
            low=field.metadata.get("low"),
            high=field.metadata.get("high"),
            options=list(field.metadata.get("options", ())),
        )
        for field in dataclasses.fields(cast(Any, kind))
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
        known = {one.name for one in dataclasses.fields(cast(Any, kind))}
        raise does_not_fit(str(error), field if field in known else None) from error
    return WorkedOut(
        steps=[step_out(step) for step in worked.steps],
        results=[ResultOut.model_validate(one) for one in worked.results],
        findings=[FindingOut.of(finding) for finding in worked.findings],
        bands=list(worked.bands),
    )
