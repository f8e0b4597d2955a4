"""``tickstone constants RIG``: what a rig's calibrations and settings come to, as one block."""

from __future__ import annotations

import json
from typing import Annotated

import typer
from sqlalchemy.orm import Session

from tickstone.cli.failing import fail
from tickstone.cli.store_here import open_store
from tickstone.cli.take_files import DataOption, UrlOption
from tickstone.formats.constants_json import constants_document
from tickstone.targets import TARGETS

FORMATS = (*TARGETS, "json")


def constants(
    rig: Annotated[str, typer.Argument(help="A rig, by name.")],
    form: Annotated[str, typer.Option("--format", help=f"One of {', '.join(FORMATS)}.")] = "json",
    data: DataOption = None,
    database_url: UrlOption = None,
) -> None:
    """Print a rig's constants: value, unit, ± and what each rests on.

    For example: tickstone constants Bramble --format cpp
    """
    from tickstone.work.catalogue import catalogue_of
    from tickstone.work.programs import constants_of
    from tickstone.work.takes.bringing import rig_named

    if form not in FORMATS:
        fail(f"There is no format “{form}”; there are {', '.join(FORMATS)}.")
    with open_store(data, database_url) as engine, Session(engine) as session:
        found = rig_named(session, rig)
        if found is None:
            fail(f"There is no rig called “{rig}”.")
        try:
            named = constants_of(session, found, catalogue_of(session))
            routines = [one for _, one in named]
        except ValueError as error:
            fail(f"{rig}: {error}")
        if form == "json":
            document = constants_document(found.name, routines)
            typer.echo(json.dumps(document, ensure_ascii=False, indent=1))
        else:
            typer.echo(TARGETS[form].constants(found.name, routines), nl=False)
