"""``tickstone parts …``: every parts bench as a command, made from its inputs."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Callable
from typing import Any

import typer

from tickstone.cli.options import Options, command_of
from tickstone.core.inputs import with_inputs
from tickstone.core.part_benches import PART_BENCHES
from tickstone.core.part_benches.bench import PartBench, Result, Worked

app = typer.Typer(help="The arithmetic of passive parts, with its working.", no_args_is_help=True)


def _command(kind: type[PartBench]) -> Callable[..., None]:
    """A command whose options are the inputs of a bench."""

    def work(options: Options, as_json: bool) -> str:
        worked = with_inputs(kind, options).work()
        said = _as_text(worked)
        if as_json:
            said = json.dumps(_as_json(kind.name, worked), ensure_ascii=False)
        if any(finding.severity == "error" for finding in worked.findings):
            typer.echo(said)
            raise typer.Exit(1)
        return said

    return command_of(kind, kind.what, work)


for _kind in PART_BENCHES.values():
    app.command(_kind.name)(_command(_kind))


def _as_json(name: str, worked: Worked) -> dict[str, Any]:
    return {
        "kind": name,
        "results": {
            one.name: {"value": one.value, "unit": one.unit, "u": one.u} for one in worked.results
        },
        "working": [
            {
                "stage": step.stage,
                "formula": step.formula,
                "filled": step.filled,
                "value": step.value,
                "unit": step.unit,
                "u": step.u,
                "source": step.source,
            }
            for step in worked.steps
        ],
        "bands": list(worked.bands),
        "findings": [dataclasses.asdict(finding) for finding in worked.findings],
    }


def _as_text(worked: Worked) -> str:
    lines = [
        f"{step.label:<22} {step.formula:<34} {step.filled:<44} = "
        f"{Result('', step.value, step.unit).text}"
        for step in worked.steps
    ]
    lines += ["", *(f"{one.name:<26} {one.text}" for one in worked.results)]
    if worked.bands:
        lines.append(f"{'bands':<26} {' '.join(worked.bands)}")
    for finding in worked.findings:
        lines.append(f"{finding.severity}: {finding.title} {finding.why} {finding.remedy}".rstrip())
    return "\n".join(lines)
