"""``tickstone program RIG``: a program for a rig's board, written into a folder."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from tickstone.cli.failing import fail
from tickstone.cli.store_here import open_store
from tickstone.cli.take_files import DataOption, UrlOption
from tickstone.core.listening.names import identifier
from tickstone.core.listening.plan import USUAL_BAUD, USUAL_HZ, listening_plan
from tickstone.core.wiring.netlist import Wiring
from tickstone.formats.family_file import shipped_boards, shipped_devices
from tickstone.formats.wiring_file import LARGEST_BYTES, read_wiring
from tickstone.targets import TARGETS

KINDS = ("listen",)


def program(
    rig: Annotated[
        str, typer.Argument(help="A rig, by name; or a wiring as JSON, see docs/formats.md.")
    ],
    kind: Annotated[str, typer.Option(help=f"One of {', '.join(KINDS)}.")] = "listen",
    target: Annotated[
        str, typer.Option(help=f"One of {', '.join(TARGETS)}; what suits the board else.")
    ] = "",
    out: Annotated[Path, typer.Option(help="The folder it is written to.")] = Path(),
    rate_hz: Annotated[float, typer.Option(help="Lines a second, if it can.")] = USUAL_HZ,
    baud: Annotated[int, typer.Option(help="The least of the line.")] = USUAL_BAUD,
    data: DataOption = None,
    database_url: UrlOption = None,
) -> None:
    """Write a program for a rig's board. Nothing is written when anything cannot be.

    For example: tickstone program Bramble --kind listen --target cpp --out firmware
    """
    from tickstone.work.programs import Wanted, keep_written, target_named, write_listening

    if kind not in KINDS:
        fail(f"There is no kind “{kind}”; there are {', '.join(KINDS)}.")
    wanted = Wanted(target, rate_hz, baud)
    try:
        if rig.endswith(".json"):
            wiring = _wiring(Path(rig))
            chosen = target_named(wiring.board, target)
            plan = listening_plan(Path(rig).stem, wiring, chosen.wanted(rate_hz, baud))
            text = chosen.listening(plan, identifier(Path(rig).stem) or "rig")
        else:
            from sqlalchemy.orm import Session

            from tickstone.work.catalogue import catalogue_of
            from tickstone.work.takes.bringing import rig_named

            with open_store(data, database_url) as engine, Session(engine) as session:
                found = rig_named(session, rig)
                if found is None:
                    fail(f"There is no rig called “{rig}”.")
                written = write_listening(session, found, catalogue_of(session), wanted)
                keep_written(session, found, written)
                session.commit()
                plan, text = written.plan, written.program
    except ValueError as error:
        fail(f"{rig}: {error}")
    place = out / text.path
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        fresh = place.with_name(f".{place.name}.part")
        fresh.write_text(text.text, encoding="utf-8")
        fresh.replace(place)
    except OSError as error:
        fail(f"{place} cannot be written: {error.strerror}.")
    typer.echo(
        f"{place}: {len(plan.columns)} columns, {plan.pace.rate_hz:.3g} lines a second at "
        f"{plan.pace.baud} baud (program {text.identity})"
    )
    for note in plan.notes:
        typer.echo(note)
    for one in plan.left_out:
        typer.echo(f"{one.label} is not read: {one.why}. {one.next_best}")


def _wiring(file: Path) -> Wiring:
    """A wiring from its file. Exits with a sentence when it cannot be read."""
    try:
        with file.open("rb") as stream:
            return read_wiring(stream.read(LARGEST_BYTES + 1), shipped_boards(), shipped_devices())
    except OSError as error:
        fail(f"{file} cannot be read: {error.strerror}.")
