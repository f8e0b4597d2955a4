"""Example logs that ship with Tick Stone, for a bench without hardware."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.responses import FileResponse

from tickstone.api.problems import not_found
from tickstone.api.schemas.base import Answer
from tickstone.demo.logs import EXAMPLE_LOGS, log_path

router = APIRouter(prefix="/api/examples", tags=["examples"])


class ExampleOut(Answer):
    """An example log. kind: of the sensor it is of."""

    name: str
    kind: str
    description: str


@router.get("")
def list_examples() -> list[ExampleOut]:
    """The example logs."""
    return [
        ExampleOut(name=name, kind=kind, description=description)
        for name, (kind, description) in EXAMPLE_LOGS.items()
    ]


@router.get("/{name}", response_class=FileResponse)
def read_example(name: str) -> FileResponse:
    """One example log as a file."""
    if name not in EXAMPLE_LOGS:
        raise not_found("example")
    return FileResponse(log_path(name), media_type="text/csv", filename=name)
