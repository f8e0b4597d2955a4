"""Programs for a rig's board: what is written for it, and kept in mind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from tickstone.core.emit.routine import Routine
from tickstone.core.families.board_family import BoardFamily
from tickstone.core.lines.names import known_unit
from tickstone.core.listening.names import identifier
from tickstone.core.listening.plan import (
    USUAL_BAUD,
    USUAL_HZ,
    LeftOut,
    ListeningPlan,
    listening_plan,
)
from tickstone.core.listening.reading import PrintedColumn
from tickstone.core.wiring.netlist import Wiring
from tickstone.store.models import Program, Rig, utc_now
from tickstone.targets import TARGETS
from tickstone.targets.target import ProgramFile, Target, converted_columns
from tickstone.work.catalogue import Catalogue
from tickstone.work.deciding.for_board import Decided, asked_of, decide, decisions_of
from tickstone.work.summing import Summed, sum_up
from tickstone.work.wiring import grounds_of, wiring_of

KINDS = ("listen", "convert", "rules")


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is wanted of a program. kind: one of KINDS. target: empty for the one that suits the
    board. is_whole: chains in whole numbers, where that can be.
    """

    kind: str = "listen"
    target: str = ""
    rate_hz: float = USUAL_HZ
    baud: int = USUAL_BAUD
    is_whole: bool = False


@dataclass(frozen=True, slots=True)
class Written:
    """A program with all that was planned for it. beside: files that go into its folder too.

    left_out: what it does not read, does not convert or does not decide. summed: chains it carries.
    decided: rules and controllers behind them. notes: what a person should know.
    """

    kind: str
    target: Target
    wiring: Wiring
    plan: ListeningPlan
    program: ProgramFile
    beside: tuple[ProgramFile, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    summed: Summed | None = None
    decided: Decided | None = None

    @property
    def notes(self) -> tuple[str, ...]:
        """What a person should know."""
        summed = self.summed.notes if self.summed else ()
        return (*self.plan.notes, *summed, *(self.decided.notes if self.decided else ()))

    @property
    def basis(self) -> dict[str, Any]:
        """What it rests on: where each lead goes of what it reads, and what sums are worked out
        from.
        """
        wired = {one.device: grounds_of(self.wiring, one.device) for one in self.plan.readings}
        return {
            "wiring": wired,
            "sums": self.summed.basis if self.summed else {},
            "decisions": self.decided.basis if self.decided else {},
        }

    @property
    def columns(self) -> tuple[PrintedColumn, ...]:
        """What a line of it holds."""
        decided = self.decided.decidings if self.decided else ()
        columns = converted_columns(self.plan, self.summed.summings if self.summed else ())
        return (*columns, *(one.column for one in decided))


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


def write_program(session: Session, rig: Rig, catalogue: Catalogue, wanted: Wanted) -> Written:
    """A program for a rig as it is wired, calibrated and set now.

    Raises ValueError naming what cannot be.
    """
    if wanted.kind not in KINDS:
        raise ValueError(f"kind: there is no “{wanted.kind[:40]}”; there are {', '.join(KINDS)}")
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
    name = identifier(rig.name) or "rig"
    if wanted.kind == "listen":
        program = target.listening(plan, name)
        return Written("listen", target, wiring, plan, program, (), plan.left_out)
    asked = asked_of(session, rig) if wanted.kind == "rules" else None
    if asked is not None and not asked.rows:
        raise ValueError(
            "kind: nothing is decided on this rig yet; keep rules on its rules page, or a "
            "controller on the bench of loops, and come back"
        )
    summed = sum_up(session, rig, catalogue, plan, asked.asks if asked else {}, wanted.is_whole)
    if not summed.summings:
        why = "; ".join(f"{one.label}: {one.why}" for one in summed.left_out)
        raise ValueError(f"kind: no chain of this rig can be carried by a board yet: {why}")
    left_out = (*plan.left_out, *summed.left_out)
    if asked is None:
        program, sums = target.converting(plan, name, summed.summings)
        return Written("convert", target, wiring, plan, program, (sums,), left_out, summed)
    decided = decide(asked, summed.summings, left_out, plan.pace.period_us)
    if not decided.decidings:
        why = "; ".join(f"{one.label}: {one.why}" for one in decided.left_out)
        raise ValueError(f"kind: no decision of this rig can be carried by a board yet: {why}")
    program, sums = target.deciding(plan, name, summed.summings, decided.decidings)
    left_out = (*left_out, *decided.left_out)
    return Written("rules", target, wiring, plan, program, (sums,), left_out, summed, decided)


def constants_of(session: Session, rig: Rig, catalogue: Catalogue) -> list[tuple[str, Routine]]:
    """What a rig's chains and decisions come to now, each by what it is called.

    Raises ValueError when there are none.
    """
    kind = "rules" if decisions_of(session, rig) else "convert"
    try:
        written = write_program(session, rig, catalogue, Wanted(kind))
    except ValueError:
        # Rules that no longer fit the rig are no reason to keep the rest back.
        written = write_program(session, rig, catalogue, Wanted("convert"))
    assert written.summed is not None
    decided = written.decided.decidings if written.decided else ()
    return [
        *((one.label, one.routine) for one in written.summed.summings),
        *((f"“{one.label}”", one.routine) for one in decided),
    ]


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
            kind=written.kind,
            target=written.target.name,
            text=written.program.text,
            columns=[
                {
                    "name": column.name,
                    "header": column.header,
                    "unit": known_unit(column.unit) or "",
                    "quantity": column.quantity,
                    "sensor_id": int(column.device) if column.device else None,
                }
                for column in written.columns
            ],
            basis=written.basis,
            written_at=utc_now(),
        )
        .on_conflict_do_nothing()
    )
    return session.scalars(known).one()
