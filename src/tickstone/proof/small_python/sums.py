"""Runs a chain's code of small Python by its own interpreter, row by row."""

from __future__ import annotations

from collections.abc import Sequence

from tickstone.core.emit.routine import Routine
from tickstone.proof.python_sums import stepped_in, stepping_program
from tickstone.proof.small_python.interpreter import run
from tickstone.proof.stepped import Row, Stepped

_NO_WORLD = {
    "begins_us": 0, "until_us": 10**12,
    **{name: [] for name in ("events", "rangers", "units", "wires", "words")},
}  # fmt: skip


def step_on_interpreter(routine: Routine, rows: Sequence[Row]) -> Stepped:
    """Every row through the code. Raises RuntimeError with what went wrong."""
    ran = run(stepping_program("small-python", routine, rows), _NO_WORLD)
    return stepped_in(ran.lines, routine)
