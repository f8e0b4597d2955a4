"""Programs for a rig's board: what is written for it, and proven."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from tickstone.core.display import grouped
from tickstone.core.families.board_family import BoardFamily
from tickstone.core.lines.names import known_unit
from tickstone.core.listening.names import identifier
from tickstone.core.listening.plan import USUAL_BAUD, USUAL_HZ, ListeningPlan, listening_plan
from tickstone.core.wiring.netlist import Wiring
from tickstone.proof.agreement import disagreements, lines_for, made_up
from tickstone.proof.eight_bit import chip
from tickstone.proof.eight_bit.listening import listen_on_chip
from tickstone.proof.small_python import interpreter
from tickstone.proof.small_python.listening import listen_on_interpreter
from tickstone.store.models import Program, Rig, utc_now
from tickstone.targets import TARGETS
from tickstone.targets.target import ProgramFile, Target
from tickstone.work.catalogue import Catalogue
from tickstone.work.wiring import grounds_of, wiring_of

_SHOWN_LINES = 6


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is wanted of a listening program. target: empty for the one that suits the board."""

    target: str = ""
    rate_hz: float = USUAL_HZ
    baud: int = USUAL_BAUD


@dataclass(frozen=True, slots=True)
class Written:
    """A listening program with all that was planned for it."""

    target: Target
    wiring: Wiring
    plan: ListeningPlan
    program: ProgramFile

    @property
    def basis(self) -> dict[str, Any]:
        """What it rests on: where each lead goes of what it reads."""
        return {
            "wiring": {
                one.device: grounds_of(self.wiring, one.device) for one in self.plan.readings
            }
        }


@dataclass(frozen=True, slots=True)
class Proof:
    """What running a program showed. missing: what this machine lacks; then nothing was run.

    differs: what was printed otherwise than it was told. cost: figures with their units, by what
    they are. lines: the first that were printed. where: on what it was run.
    """

    where: str
    missing: tuple[str, ...] = ()
    told: int = 0
    differs: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    cost: dict[str, str] = field(default_factory=dict)


def targets_for(board: BoardFamily) -> list[Target]:
    """The targets that a board runs."""
    return [one for one in TARGETS.values() if one.suits(board)]


def target_named(board: BoardFamily, name: str) -> Target:
    """The target of that name; the first that suits when empty.

    Raises ValueError when there is none such, or the board does not run it.
    """
    suiting = targets_for(board)
    known = ", ".join(one.name for one in suiting) or "none"
    if not name:
        if not suiting:
            raise ValueError(f"target: there is none yet for a {board.label}")
        return suiting[0]
    if name not in TARGETS:
        raise ValueError(f"target: there is no “{name[:40]}”; for a {board.label}: {known}")
    if TARGETS[name] not in suiting:
        raise ValueError(f"target: a {board.label} does not run {TARGETS[name].label}; {known}")
    return TARGETS[name]


def write_listening(session: Session, rig: Rig, catalogue: Catalogue, wanted: Wanted) -> Written:
    """A program that listens to a rig as it is wired now.

    Raises ValueError naming what cannot be.
    """
    wiring = wiring_of(session, rig, catalogue)
    if wiring is None:
        raise ValueError("board: this rig has none; choose it first, on its wiring page")
    target = target_named(wiring.board, wanted.target)
    plan = listening_plan(
        rig.name,
        wiring,
        target.wanted(wanted.rate_hz, wanted.baud),
        {str(sensor.id): sensor.parameters for sensor in rig.sensors},
    )
    return Written(target, wiring, plan, target.listening(plan, identifier(rig.name) or "rig"))


def keep_written(session: Session, rig: Rig, written: Written) -> Program:
    """Note that this program was written, so that it is known again; once, however often."""
    known = select(Program).where(
        Program.rig_id == rig.id, Program.identity == written.program.identity
    )
    found = session.scalars(known).first()
    if found is not None:
        return found
    session.execute(
        insert(Program)
        .values(
            rig_id=rig.id,
            identity=written.program.identity,
            kind="listen",
            target=written.target.name,
            text=written.program.text,
            columns=[
                {
                    "name": column.name,
                    "unit": known_unit(column.unit) or "",
                    "quantity": column.quantity,
                    "sensor_id": int(column.device) if column.device else None,
                }
                for column in written.plan.columns
            ],
            basis=written.basis,
            written_at=utc_now(),
        )
        .on_conflict_do_nothing()
    )
    return session.scalars(known).one()


_ONE_AT_A_TIME = Lock()
"""A proof takes a processor for a second or two."""


def prove_listening(written: Written, seed: int = 1) -> Proof:
    """Run it in a made-up world, and hold what it prints against what the world told."""
    plan = written.plan
    lines = lines_for(plan)
    told = made_up(plan, lines, seed)
    with _ONE_AT_A_TIME, tempfile.TemporaryDirectory() as folder:
        if written.target.name == "cpp":
            where = "a simulated chip of the common small 8-bit boards, at 16 MHz"
            if lacking := chip.missing():
                return Proof(where, lacking)
            built = chip.build(written.program.text, Path(folder))
            heard = listen_on_chip(built, plan, told, lines)
            cost = {
                "program memory": _bytes(built.flash_bytes, chip.FLASH_BYTES),
                "memory from the start": _bytes(built.ram_bytes, chip.RAM_BYTES),
                "deepest stack": f"{heard.stack_bytes} B",
            }
        elif written.target.name == "small-python":
            where = "its own interpreter, with a stand-in for the board’s hardware"
            if lacking := interpreter.missing():
                return Proof(where, lacking)
            heard = listen_on_interpreter(written.program.text, plan, told, lines)
            cost = {}
        else:
            return Proof("a single-board computer", ("one: this program wants its pins",))
    return Proof(
        where,
        told=sum(len(one.columns) for one in plan.readings) * lines,
        differs=tuple(disagreements(plan, heard, told)),
        lines=heard.lines[: 2 + _SHOWN_LINES],
        cost=cost,
    )


def _bytes(count: int, most: int) -> str:
    return f"{grouped(count, 0)} of {grouped(most, 0)} B"
