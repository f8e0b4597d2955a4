"""What a world tells a listening program, and whether it printed that."""

from __future__ import annotations

import random

import pytest

from tickstone.core.listening.plan import ListeningPlan
from tickstone.proof.heard import Heard

WITHIN_US = 12.0
"""Two steps of the counter, and the loop that looks at the lead."""


def agrees(plan: ListeningPlan, heard: Heard, told: dict[str, list[float]]) -> None:
    """What it printed is what the world told: counts to the last one, times within its counter."""
    for reading in plan.readings:
        for column in reading.columns:
            said, want = heard.column(column.name), told[column.name]
            if column.quantity == "echo time":
                assert all(
                    abs(got - us) <= WITHIN_US if 0 < us <= reading.timeout_us - 100 else got == 0
                    for got, us in zip(said, want, strict=True)
                ), (column.name, said, want)
            elif column.quantity == "pulse gap":
                assert said[-1] == pytest.approx(want[-1], abs=WITHIN_US)
            elif reading.way in ("one_wire", "one_word"):
                assert [one for one in said if one is not None], "it never answered"
                lsb = 0.0625 if reading.way == "one_wire" else 0.1
                for got in (one for one in said if one is not None):
                    assert min(abs(got - one) for one in want) <= lsb / 2 + 0.005
            else:
                assert said == want, column.name


def made_up(plan: ListeningPlan, lines: int, seed: int) -> dict[str, list[float]]:
    """Something for every column to say, at random."""
    rng = random.Random(seed)
    told: dict[str, list[float]] = {}
    for reading in plan.readings:
        for column in reading.columns:
            if column.quantity == "echo time":
                values = [rng.choice((0, rng.randint(120, 24_000))) for _ in range(lines)]
            elif column.quantity == "pulse count":
                values = [(n + 1) // 2 for n in range(lines)]
            elif column.quantity == "pulse gap":
                values = [float(plan.pace.period_us * 2)] * lines
            elif column.quantity == "pulse":
                values = [rng.randint(0, 1) for _ in range(lines)]
            elif column.quantity == "converter counts":
                values = [rng.randint(0, 1022) for _ in range(lines)]
            elif reading.way == "one_wire":
                values = [rng.randint(-880, 2000) * 0.0625] * lines
            elif reading.way == "one_word":
                values = [rng.randint(-300, 900) / 10 if column.unit == "degC" else 45.5] * lines
            else:
                signed = next(v for v in reading.registers.values if column.name.endswith(v.name))
                low, high = (
                    (-(2**15), 2**15 - 1) if signed.is_signed else (0, 256**signed.bytes - 1)
                )
                values = [rng.randint(low, high) for _ in range(lines)]
            told[column.name] = [float(one) for one in values]
    return told


def lines_for(plan: ListeningPlan) -> int:
    """Enough of them for a thermometer to have converted."""
    slow = {"one_wire", "one_word"} & {*plan.ways}
    return 8 + (round(1e6 / plan.pace.period_us) if slow else 0)
