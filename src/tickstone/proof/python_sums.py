"""Steps a chain or a decision row by row, in a program that both kinds of Python take, and reads
what it printed. Ordinary Python is run by the interpreter at hand.
"""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Sequence

from tickstone.core.emit.routine import Routine
from tickstone.core.emit.terms import Kind, Name
from tickstone.proof.stepped import Row, Stepped
from tickstone.targets import TARGETS
from tickstone.targets.writing import PythonWriter

RUNS_WITHIN_S = 120.0


def stepping_program(target: str, routine: Routine, rows: Sequence[Row]) -> str:
    """Prints what each step told, values before statuses."""
    taken = [one for entry in routine.entries for one in entry.parameters]
    told = [name for one in routine.told for name in one.values]
    flags = [name for one in routine.told for name in one.statuses]
    given = "\n".join(
        f"    ({', '.join([str(row.now_us % 2**32), *(_given(one, row) for one in taken)])}),"
        for row in rows
    )
    return f"""{TARGETS[target].sums("proof", [routine]).text}

it = {PythonWriter(routine).structure}()
for row in (
{given}
):
    it.step(*row)
    print({", ".join(f"repr(it.{name})" for name in told)}, {", ".join(f"it.{n}" for n in flags)})
"""


def stepped_in(lines: Sequence[str], routine: Routine) -> Stepped:
    """What such a program printed."""
    lanes = sum(len(one.values) for one in routine.told)
    words = [line.split() for line in lines]
    return Stepped(
        tuple(tuple(float(text) for text in line[:lanes]) for line in words),
        tuple(tuple(int(text) for text in line[lanes:]) for line in words),
    )


def step_on_python(routine: Routine, rows: Sequence[Row]) -> Stepped:
    """Every row through the code of ordinary Python. Raises RuntimeError with what went wrong."""
    done = subprocess.run(
        [sys.executable, "-I", "-S", "-"],
        input=stepping_program("python", routine, rows),
        capture_output=True,
        text=True,
        check=False,
        timeout=RUNS_WITHIN_S,
    )
    if done.returncode != 0:
        raise RuntimeError(f"the interpreter ended with: {done.stderr[-1_500:]}")
    return stepped_in(done.stdout.splitlines(), routine)


def _given(one: Name, row: Row) -> str:
    value = row.given[one.text]
    if one.kind is not Kind.REAL:
        return str(int(value))
    return repr(float(value)) if value == value else "NAN"
