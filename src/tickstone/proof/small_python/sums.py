"""Runs a chain's code of small Python by its own interpreter, row by row."""

from __future__ import annotations

from collections.abc import Sequence

from tickstone.core.emit.routine import Routine
from tickstone.core.emit.terms import Kind, Name
from tickstone.proof.small_python.interpreter import run
from tickstone.proof.stepped import Row, Stepped
from tickstone.targets import TARGETS
from tickstone.targets.writing import PythonWriter

_NO_WORLD = {
    "begins_us": 0, "until_us": 10**12,
    **{name: [] for name in ("events", "rangers", "units", "wires", "words")},
}  # fmt: skip


def step_on_interpreter(routine: Routine, rows: Sequence[Row]) -> Stepped:
    """Every row through the code. Raises RuntimeError with what went wrong."""
    taken = [one for entry in routine.entries for one in entry.parameters]
    code = TARGETS["small-python"].sums("proof", [routine]).text
    told = [name for one in routine.told for name in one.values]
    flags = [name for one in routine.told for name in one.statuses]
    given = "\n".join(
        f"    ({', '.join([str(row.now_us % 2**32), *(_given(one, row) for one in taken)])}),"
        for row in rows
    )
    program = f"""{code}

it = {PythonWriter(routine).structure}()
for row in (
{given}
):
    it.step(*row)
    print({", ".join(f"repr(it.{name})" for name in told)}, {", ".join(f"it.{n}" for n in flags)})
"""
    lines = [line.split() for line in run(program, _NO_WORLD).lines]
    return Stepped(
        tuple(tuple(float(text) for text in line[: len(told)]) for line in lines),
        tuple(tuple(int(text) for text in line[len(told) :]) for line in lines),
    )


def _given(one: Name, row: Row) -> str:
    value = row.given[one.text]
    if one.kind is not Kind.REAL:
        return str(int(value))
    return repr(float(value)) if value == value else "NAN"
