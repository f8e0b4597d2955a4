"""``tickstone check program``: a second pair of eyes on a program a person wrote."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from tickstone.cli.failing import fail
from tickstone.cli.store_here import open_store
from tickstone.cli.take_files import DataOption, UrlOption
from tickstone.lookover.checks import LookOver, look_over
from tickstone.lookover.finding import RigFacts
from tickstone.lookover.reading import LARGEST_BYTES, NotAProgramError, read_program
from tickstone.targets.target import is_as_written


def check_program(
    file: Annotated[Path, typer.Argument(help="A program in C++ or Python.")],
    rig: Annotated[
        str, typer.Option(help="The rig it is for, by name: line, pins and thresholds are held to.")
    ] = "",
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
    data: DataOption = None,
    database_url: UrlOption = None,
) -> None:
    """Look a program over. Exit code 1 when anything was found, 2 when it cannot be read."""
    try:
        with file.open("rb") as stream:
            text = stream.read(LARGEST_BYTES + 1).decode("utf-8", "replace")
        program = read_program(text, file.name)
    except OSError as error:
        fail(f"tickstone: {file}: {error.strerror}")
    except NotAProgramError as error:
        fail(f"tickstone: {file}: {error}")
    seen = look_over(program, _facts(rig, data, database_url) if rig else RigFacts())
    if as_json:
        typer.echo(json.dumps(_as_json(seen, program.language, text), ensure_ascii=False))
    else:
        typer.echo(_as_text(seen))
    if seen.findings:
        raise typer.Exit(1)


def _facts(rig: str, data: Path | None, database_url: str | None) -> RigFacts:
    from sqlalchemy.orm import Session

    from tickstone.work.catalogue import catalogue_of
    from tickstone.work.looking_over import rig_facts
    from tickstone.work.takes.bringing import rig_named

    with open_store(data, database_url) as engine, Session(engine) as session:
        found = rig_named(session, rig)
        if found is None:
            fail(f"There is no rig called “{rig}”.")
        return rig_facts(session, found, catalogue_of(session))


def _as_json(seen: LookOver, language: str, text: str) -> dict[str, object]:
    return {
        "language": language,
        "as_written_here": is_as_written(text),
        "findings": [
            {
                "id": one.id,
                "line": one.line,
                "code": one.code,
                "message": one.message,
                "why": one.why,
                "repair": one.repair,
            }
            for one in seen.findings
        ],
        "more": seen.more,
        "looked_for": list(seen.looked_for),
        "not_looked_for": list(seen.not_looked_for),
    }


def _as_text(seen: LookOver) -> str:
    lines = []
    for one in seen.findings:
        lines += [
            f"line {one.line}: {one.message}",
            f"  {one.code}",
            f"  {one.why}",
            f"  {one.repair}",
        ]
    if seen.more:
        lines.append(f"… and {seen.more} more.")
    lines.append("" if lines else "Nothing was found.")
    lines.append("Looked for: " + "; ".join(seen.looked_for) + ".")
    if seen.not_looked_for:
        lines.append("Not looked for: " + "; ".join(seen.not_looked_for) + ".")
    return "\n".join(lines)
