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


def program(
    rig: Annotated[
        str, typer.Argument(help="A rig, by name; or a wiring as JSON, see docs/formats.md.")
    ],
    kind: Annotated[str, typer.Option(help="listen, convert, or rules.")] = "listen",
    target: Annotated[
        str, typer.Option(help=f"One of {', '.join(TARGETS)}; what suits the board else.")
    ] = "",
    out: Annotated[Path, typer.Option(help="The folder it is written to.")] = Path(),
    rate_hz: Annotated[float, typer.Option(help="Lines a second, if it can.")] = USUAL_HZ,
    baud: Annotated[int, typer.Option(help="The least of the line.")] = USUAL_BAUD,
    whole_numbers: Annotated[
        bool,
        typer.Option("--whole-numbers", help="Chains in whole numbers, where they can."),
    ] = False,
    data: DataOption = None,
    database_url: UrlOption = None,
) -> None:
    """Write a program for a rig's board. Nothing is written when anything cannot be.

    For example: tickstone program Bramble --kind listen --target cpp --out firmware
    """
    from tickstone.work.programs import KINDS, Wanted, keep_written, target_named, write_program

    if kind not in KINDS:
        fail(f"There is no kind “{kind}”; there are {', '.join(KINDS)}.")
    wanted = Wanted(kind, target, rate_hz, baud, whole_numbers)
    try:
        if rig.endswith(".json"):
            if kind != "listen":
                fail(f"{rig}: a wiring alone has no calibrations; name a rig of the record.")
            wiring = _wiring(Path(rig))
            chosen = target_named(wiring.board, target)
            plan = listening_plan(Path(rig).stem, wiring, chosen.wanted(rate_hz, baud))
            files = [chosen.listening(plan, identifier(Path(rig).stem) or "rig")]
            columns, left_out, notes = plan.columns, plan.left_out, plan.notes
        else:
            from sqlalchemy.orm import Session

            from tickstone.work.catalogue import catalogue_of
            from tickstone.work.takes.bringing import rig_named

            with open_store(data, database_url) as engine, Session(engine) as session:
                found = rig_named(session, rig)
                if found is None:
                    fail(f"There is no rig called “{rig}”.")
                written = write_program(session, found, catalogue_of(session), wanted)
                keep_written(session, found, written)
                session.commit()
                plan, files = written.plan, [written.program, *written.beside]
                columns, left_out, notes = written.columns, written.left_out, written.notes
    except ValueError as error:
        fail(f"{rig}: {error}")
    for one in reversed(files):
        _write(out / one.path, one.text)
    typer.echo(
        f"{out / files[0].path}: {len(columns)} columns, {plan.pace.rate_hz:.3g} lines a second at "
        f"{plan.pace.baud} baud (program {files[0].identity})"
    )
    for note in notes:
        typer.echo(note)
    for missing in left_out:
        typer.echo(f"{missing.label}: {missing.why}. {missing.next_best}")


def _write(place: Path, text: str) -> None:
    try:
        place.parent.mkdir(parents=True, exist_ok=True)
        fresh = place.with_name(f".{place.name}.part")
        fresh.write_text(text, encoding="utf-8")
        fresh.replace(place)
    except OSError as error:
        fail(f"{place} cannot be written: {error.strerror}.")


def _wiring(file: Path) -> Wiring:
    """A wiring from its file. Exits with a sentence when it cannot be read."""
    try:
        with file.open("rb") as stream:
            return read_wiring(stream.read(LARGEST_BYTES + 1), shipped_boards(), shipped_devices())
    except OSError as error:
        fail(f"{file} cannot be read: {error.strerror}.")
