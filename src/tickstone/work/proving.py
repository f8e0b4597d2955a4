"""Programs run: what they tell is held against what they were told."""

from __future__ import annotations

import math
import random
import tempfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from threading import Lock

from tickstone.core.display import grouped
from tickstone.core.emit.deciding import Deciding
from tickstone.core.emit.routine import Routine
from tickstone.core.emit.summing import Summing
from tickstone.core.emit.whole.routine import NONE
from tickstone.core.machines.machine import Machine
from tickstone.core.status import Status
from tickstone.proof.agreement import disagreements, lines_for, made_up
from tickstone.proof.eight_bit import chip
from tickstone.proof.eight_bit.listening import listen_on_chip
from tickstone.proof.eight_bit.sums import most_rows, step_on_chip
from tickstone.proof.python_sums import step_on_python
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
from tickstone.work.programs import Written

_STACK_BYTES = 256
"""Left for what is called within what; a rough rule."""
_SHOWN_LINES, _ROWS, _DECIDED_ROWS = 6, 40, 160


@dataclass(frozen=True, slots=True)
class PartCost:
    """What one chain or decision costs a board as if it were alone, with all that it calls. us: of
    one step, at most.
    """

    name: str
    us: float
    program_bytes: int
    memory_bytes: int


@dataclass(frozen=True, slots=True)
class Proof:
    """What running a program showed. missing: what this machine lacks; then nothing was run.

    differs: what was printed otherwise than it was told. too_large: what the board has no room for.
    cost: figures with their units, by what they are. lines: the first that were printed. where: on
    what it was run. parts: what each chain and decision costs.
    """

    where: str
    missing: tuple[str, ...] = ()
    told: int = 0
    differs: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    cost: dict[str, str] = field(default_factory=dict)
    too_large: tuple[str, ...] = ()
    parts: tuple[PartCost, ...] = ()


_ONE_AT_A_TIME = Lock()
"""A proof takes a processor for a second or two."""


def prove(written: Written, seed: int = 1) -> Proof:
    """Run it in a made-up world, and hold what it tells against what it was told."""
    place = _PLACES[written.target.name]
    if written.summed is None and written.target.name == "python":
        return Proof("a single-board computer", ("one: such a program wants its pins",))
    if lacking := place.missing():
        return Proof(place.where, lacking)
    with _ONE_AT_A_TIME, tempfile.TemporaryDirectory() as folder:
        if written.summed is None:
            return _prove_listening(written, place, Path(folder), seed)
        return _prove_sums(written, place, Path(folder), seed)


@dataclass(frozen=True, slots=True)
class _Place:
    """Where programs of a target are run. missing: what this machine lacks for it. step: runs a
    chain's code there; None for the chip.
    """

    where: str
    missing: Callable[[], tuple[str, ...]]
    step: Callable[[Routine, Sequence[Row]], Stepped] | None = None

    @property
    def is_chip(self) -> bool:
        """Whether it has a chip's memories, clock and single precision."""
        return self.step is None


_PLACES = {
    "cpp": _Place("a simulated chip of the common small 8-bit boards", chip.missing),
    "small-python": _Place("its own interpreter", interpreter.missing, step_on_interpreter),
    "python": _Place("the interpreter of this machine", lambda: (), step_on_python),
}


def _prove_listening(written: Written, place: _Place, folder: Path, seed: int) -> Proof:
    plan = written.plan
    lines = lines_for(plan)
    told = made_up(plan, lines, seed)
    cost: dict[str, str] = {}
    too_large: tuple[str, ...] = ()
    if place.is_chip:
        try:
            built = chip.build(written.program.text, folder)
        except chip.DoesNotFitError:
            return Proof(place.where, too_large=(_WAY_TOO_LARGE,))
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
    cost: dict[str, str] = {}
    parts: list[PartCost] = []
    too_large: list[str] = []
    count = 0
    runs: list[tuple[str, Routine, list[Row], Summing | Deciding]] = [
        (one.label, one.written, rows_of(one, told, period_us), one)
        for one in written.summed.summings
    ]
    runs += [
        (f"“{one.label}”", one.routine, _deciding_rows(one, period_us, seed), one)
        for one in (written.decided.decidings if written.decided else ())
    ]
    for label, routine, rows, of in runs:
        if place.step is None:
            try:
                got = step_on_chip(routine, rows[: most_rows(routine)], folder)
            except chip.DoesNotFitError:
                too_large.append(f"{label} alone is more than the board has memory for.")
                continue
            us = max(got.cycles) / (chip.CLOCK_HZ / 1e6)
            parts.append(PartCost(label, us, got.flash_bytes, got.ram_bytes))
        else:
            got = place.step(routine, rows)
        rows = rows[: len(got.values)]
        differs += [f"{label}, {said}" for said in _told_otherwise(of, got, rows, place.is_chip)]
        count += sum(len(row) for row in got.values)
    if place.is_chip:
        for file in written.beside:
            (folder / Path(file.path).name).write_text(file.text, encoding="utf-8")
        try:
            built = chip.build(written.program.text, folder)
        except chip.DoesNotFitError:
            too_large.append(_WAY_TOO_LARGE)
        else:
            cost |= _cost(built)
            too_large += _too_large(built)
    return Proof(
        place.where,
        told=count,
        differs=tuple(differs),
        cost=cost,
        too_large=tuple(too_large),
        parts=tuple(parts),
    )


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


_WAY_TOO_LARGE = (
    "The program is more than the board’s memory holds. Leave out what need not run there, or "
    "take a board with more."
)


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
