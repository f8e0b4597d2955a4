"""Programs for a rig's board: what is written for it, and proven."""

from __future__ import annotations

import math
import random
import tempfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from tickstone.core.display import grouped
from tickstone.core.emit.deciding import Deciding
from tickstone.core.emit.routine import Routine
from tickstone.core.emit.summing import Summing
from tickstone.core.emit.whole_numbers import NONE
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
from tickstone.core.machines.machine import Machine
from tickstone.core.status import Status
from tickstone.core.wiring.netlist import Wiring
from tickstone.proof.agreement import disagreements, lines_for, made_up
from tickstone.proof.eight_bit import chip
from tickstone.proof.eight_bit.listening import listen_on_chip
from tickstone.proof.eight_bit.sums import step_on_chip
from tickstone.proof.rules import made_up_rows, replayed
from tickstone.proof.small_python import interpreter
from tickstone.proof.small_python.listening import listen_on_interpreter
from tickstone.proof.small_python.sums import step_on_interpreter
from tickstone.proof.stepped import (
    Row,
    Stepped,
    beyond_bounds,
    differences,
    single_of,
    stepped_here,
)
from tickstone.store.models import Program, Rig, utc_now
from tickstone.targets import TARGETS
from tickstone.targets.target import ProgramFile, Target, converted_columns
from tickstone.work.catalogue import Catalogue
from tickstone.work.deciding.for_board import Decided, asked_of, decide
from tickstone.work.summing import Summed, sum_up
from tickstone.work.wiring import grounds_of, wiring_of

KINDS = ("listen", "convert", "rules")
_STACK_BYTES = 256
"""Left for what is called within what; a rough rule."""
_SHOWN_LINES, _ROWS, _DECIDED_ROWS = 6, 40, 160


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


@dataclass(frozen=True, slots=True)
class Proof:
    """What running a program showed. missing: what this machine lacks; then nothing was run.

    differs: what was printed otherwise than it was told. too_large: what the board has no room for.
    cost: figures with their units, by what they are. lines: the first that were printed. where: on
    what it was run.
    """

    where: str
    missing: tuple[str, ...] = ()
    told: int = 0
    differs: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    cost: dict[str, str] = field(default_factory=dict)
    too_large: tuple[str, ...] = ()


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


def summings_of(session: Session, rig: Rig, catalogue: Catalogue) -> tuple[Summing, ...]:
    """The chains whose constants a rig has now. Raises ValueError when there are none."""
    written = write_program(session, rig, catalogue, Wanted("convert"))
    assert written.summed is not None
    return written.summed.summings


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


_ONE_AT_A_TIME = Lock()
"""A proof takes a processor for a second or two."""


def prove(written: Written, seed: int = 1) -> Proof:
    """Run it in a made-up world, and hold what it tells against what it was told."""
    place = _PLACES.get(written.target.name)
    if place is None:
        return Proof("a single-board computer", ("one: such a program wants its pins",))
    if lacking := place.missing():
        return Proof(place.where, lacking)
    with _ONE_AT_A_TIME, tempfile.TemporaryDirectory() as folder:
        if written.summed is None:
            return _prove_listening(written, place, Path(folder), seed)
        return _prove_sums(written, place, Path(folder), seed)


@dataclass(frozen=True, slots=True)
class _Place:
    """Where programs of a target are run. missing: what this machine lacks for it."""

    where: str
    missing: Callable[[], tuple[str, ...]]
    is_chip: bool


_PLACES = {
    "cpp": _Place("a simulated chip of the common small 8-bit boards", chip.missing, True),
    "small-python": _Place("its own interpreter", interpreter.missing, False),
}


def _prove_listening(written: Written, place: _Place, folder: Path, seed: int) -> Proof:
    plan = written.plan
    lines = lines_for(plan)
    told = made_up(plan, lines, seed)
    cost: dict[str, str] = {}
    too_large: tuple[str, ...] = ()
    if place.is_chip:
        built = chip.build(written.program.text, folder)
        if too_large := _too_large(built):
            return Proof(place.where, cost=_cost(built), too_large=too_large)
        heard = listen_on_chip(built, plan, told, lines)
        cost = _cost(built) | {"deepest stack": f"{heard.stack_bytes} B"}
    else:
        heard = listen_on_interpreter(written.program.text, plan, told, lines)
    return Proof(
        place.where,
        told=sum(len(one.columns) for one in plan.readings) * lines,
        differs=tuple(disagreements(plan, heard, told)),
        lines=heard.lines[: 2 + _SHOWN_LINES],
        cost=cost,
    )


def _prove_sums(written: Written, place: _Place, folder: Path, seed: int) -> Proof:
    """Chain by chain, and decision by decision: the same samples through the code and through the
    chain, the rules or the controller as they are here.
    """
    assert written.summed is not None
    period_us = written.plan.pace.period_us
    told = made_up(written.plan, _ROWS, seed)
    differs: list[str] = []
    cost, count = {}, 0
    runs: list[tuple[str, Routine, list[Row], Summing | Deciding]] = [
        (one.label, one.written, rows_of(one, told, period_us), one)
        for one in written.summed.summings
    ]
    runs += [
        (f"“{one.label}”", one.routine, _deciding_rows(one, period_us, seed), one)
        for one in (written.decided.decidings if written.decided else ())
    ]
    for label, routine, rows, of in runs:
        if place.is_chip:
            got = step_on_chip(routine, rows, folder)
            cost[label] = (
                f"{max(got.cycles) / (chip.CLOCK_HZ / 1e6):.0f} µs at most, "
                f"{grouped(got.flash_bytes, 0)} B, {got.ram_bytes} B of memory"
            )
        else:
            got = step_on_interpreter(routine, rows)
        differs += [f"{label}, {said}" for said in _told_otherwise(of, got, rows, place.is_chip)]
        count += sum(len(row) for row in got.values)
    too_large: tuple[str, ...] = ()
    if place.is_chip:
        for file in written.beside:
            (folder / Path(file.path).name).write_text(file.text, encoding="utf-8")
        built = chip.build(written.program.text, folder)
        cost |= _cost(built)
        too_large = _too_large(built)
    return Proof(place.where, told=count, differs=tuple(differs), cost=cost, too_large=too_large)


def _told_otherwise(
    of: Summing | Deciding, got: Stepped, rows: Sequence[Row], is_single: bool
) -> list[str]:
    """Where a board told otherwise than it was due, a sentence each."""
    if isinstance(of, Deciding):
        if of.machine is not None:
            return _decided_otherwise(of.machine, got, rows)
        return differences(got, stepped_here(of.routine, rows, is_single))
    if of.whole is None:
        return differences(got, stepped_here(of.routine, rows, is_single))
    return [
        *differences(got, stepped_here(of.written, rows, is_single=False), within=0.0),
        *beyond_bounds(of.whole, of.routine, got, rows),
    ]


def _deciding_rows(one: Deciding, period_us: int, seed: int) -> list[Row]:
    """What a decision is fed with: all that matters to rules; a walk about what is wanted."""
    if one.machine is not None:
        return made_up_rows(one.machine, _DECIDED_ROWS, period_us, seed)
    wanted = one.wanted or 0.0
    rng = random.Random(seed)
    return [
        Row(
            n * period_us,
            {
                "measured_in": single_of(wanted + rng.uniform(-1.0, 1.0) * max(1.0, abs(wanted))),
                "measured_in_status": int(rng.choice([Status.OK] * 6 + [Status.MISSING])),
                "wanted_in": single_of(wanted),
            },
        )
        for n in range(_DECIDED_ROWS)
    ]


def _decided_otherwise(machine: Machine, got: Stepped, rows: Sequence[Row]) -> list[str]:
    """Where a board is in another state than a replay, a sentence each."""
    return [
        f"row {n + 1}: it is in {machine.states[int(row[0])].name}, not {machine.states[due].name}"
        for n, (row, due) in enumerate(zip(got.values, replayed(machine, rows), strict=True))
        if int(row[0]) != due
    ]


def rows_of(one: Summing, told: Mapping[str, Sequence[float]], period_us: int) -> list[Row]:
    """What a chain is fed with when its columns say what is told, line by line."""
    names = [name for entry in one.written.entries for name in entry.names]
    count = min(len(values) for values in told.values())
    missing = math.nan if one.whole is None else NONE
    return [
        Row(
            line * period_us,
            {
                name: fed.scale * told[fed.column][line] if fed.column else missing
                for name, fed in zip(names, one.fed, strict=True)
            },
        )
        for line in range(count)
    ]


def _too_large(built: chip.Built) -> tuple[str, ...]:
    """What the chip has no room for, a sentence each."""
    found = []
    if built.flash_bytes > chip.FLASH_BYTES:
        found.append(
            f"The program takes {_bytes(built.flash_bytes, chip.FLASH_BYTES)} of program memory. "
            "Leave out what need not run there, or take a board with more."
        )
    if built.ram_bytes > chip.RAM_BYTES - _STACK_BYTES:
        found.append(
            f"It takes {_bytes(built.ram_bytes, chip.RAM_BYTES)} of memory from the start, and "
            f"{_STACK_BYTES} B are wanted besides while it runs."
        )
    return tuple(found)


def _cost(built: chip.Built) -> dict[str, str]:
    return {
        "program memory": _bytes(built.flash_bytes, chip.FLASH_BYTES),
        "memory from the start": _bytes(built.ram_bytes, chip.RAM_BYTES),
    }


def _bytes(count: int, most: int) -> str:
    return f"{grouped(count, 0)} of {grouped(most, 0)} B"
