"""A chain's code on the boards does what the chain does here: values, statuses and decisions."""

from __future__ import annotations

import math
import random
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from tests.core.emit.test_routines import SAID, TRIALS, by_line, flagging, in_whole_us

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chain import Chain, Stage
from tickstone.core.chains import CHAINS
from tickstone.core.emit.routine import Routine, routine_of
from tickstone.core.emit.whole.routine import NONE, in_whole_numbers
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings
from tickstone.proof.eight_bit.sums import step_on_chip
from tickstone.proof.python_sums import step_on_python
from tickstone.proof.small_python.sums import step_on_interpreter
from tickstone.proof.stepped import Row, Stepped, beyond_bounds, differences, stepped_here


def rows_of(routine: Routine, given: dict[str, Signal]) -> list[Row]:
    first = next(iter(given.values()))
    return [
        Row(
            round(float(time_s) * 1e6),
            {
                name: float(np.float32(given[entry.role].values[lane, k]))
                for entry in routine.entries
                for lane, name in enumerate(entry.names)
            },
        )
        for k, time_s in enumerate(first.time_s)
    ]


def folded(chain: Chain, outputs: list[str], rows: list[Row], routine: Routine) -> Stepped:
    """The same rows through the chain itself: what it told last at each."""
    times = np.array([(row.now_us - rows[0].now_us) * 1e-6 for row in rows])
    signals = {
        entry.role: Signal.of(
            times,
            values := [[row.given[name] for row in rows] for name in entry.names],
            entry.quantity,
            np.where(np.isnan(values), 5, 0),
            float(times[-1]),
        )
        for entry in routine.entries
    }
    told = [by_line(chain.apply(signals, output), times) for output in outputs]
    return Stepped(
        tuple(tuple(float(v) for one, _ in told for v in one[:, k]) for k in range(len(rows))),
        tuple(tuple(int(s) for _, one in told for s in one[:, k]) for k in range(len(rows))),
    )


@pytest.mark.parametrize("kind", SAID, ids=lambda kind: kind.name)
@settings(
    max_examples=1,
    phases=[Phase.generate],
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(data=st.data())
def test_every_stage_runs_on_the_boards_as_single_precision_is_due(
    kind: type[Stage], data: st.DataObject, tmp_path: Path
) -> None:
    trial = TRIALS[kind]
    stage = data.draw(trial.settings)
    chain, entering = flagging(stage, [in_whole_us(one) for one in data.draw(trial.entering())])
    routine = routine_of(chain, "it", ["y"])
    rows = rows_of(routine, entering)
    assert (
        differences(step_on_chip(routine, rows, tmp_path), stepped_here(routine, rows, True)) == []
    )
    assert differences(step_on_interpreter(routine, rows), stepped_here(routine, rows, False)) == []


WHOLE = {"echo": ("distance", (0, 25_700)), "six_axis": ("force", (-32_768, 32_767))}


@pytest.mark.parametrize("name", WHOLE)
def test_whole_numbers_come_out_equal_on_the_boards(name: str, tmp_path: Path) -> None:
    """To the last digit what they are here, and no further from the chain than they say."""
    output, span = WHOLE[name]
    kind = CHAINS[name]
    chain = kind.build(kind.parameters(), Surroundings(AirConditions(12.0)))
    routine = routine_of(chain, "it", [output])
    names = [one for entry in routine.entries for one in entry.names]
    whole = in_whole_numbers(routine, dict.fromkeys(names, span))
    rng = random.Random(len(name))
    rows = [
        Row(50_000 * n, {f"{one}_given": rng.choice([rng.randint(*span)] * 9 + [NONE])
                         for one in names})
        for n in range(150)
    ]  # fmt: skip
    due = stepped_here(whole.routine, rows, False)
    assert step_on_interpreter(whole.routine, rows) == Stepped(due.values, due.statuses)
    chip = step_on_chip(whole.routine, rows, tmp_path)
    assert (chip.values, chip.statuses) == (due.values, due.statuses)
    assert beyond_bounds(whole, routine, chip, rows) == []
    assert any(value for row in due.values for value in row)


SPANS = {
    "echo time": (200, 23_000), "converter counts": (40, 980), "distance": (0.03, 1.1),
    "status word": (0, 0), "acceleration": (-4_000, 16_000), "rotation rate": (-3_000, 3_000),
    "temperature": (-5, 40),
}  # fmt: skip


def plausible(routine: Routine, chain_kind: str, count: int, seed: int) -> list[Row]:
    """What sensors of a kind may say: mostly something, now and then nothing or nonsense."""
    rng = random.Random(seed)
    kind, now_us, rows = CHAINS[chain_kind], 2**32 - 900_000, []
    counted = 65_500
    for _ in range(count):
        now_us += rng.randint(18_000, 60_000)
        given = {}
        for entry in routine.entries:
            likely = kind.role(entry.role).forms[0].likely
            if likely == "pulse count":
                counted = (counted + rng.choice((0, 1, 1, 2, 3))) % 65_536
                given[entry.names[0]] = rng.choice([float(counted)] * 9 + [math.nan])
                continue
            if likely == "pulse":
                given |= {name: float(rng.random() < 0.5) for name in entry.names}
                continue
            low, high = SPANS[likely]
            for name in entry.names:
                value = rng.uniform(low, high)
                whole = float(round(value)) if high > 100 else float(np.float32(value))
                given[name] = rng.choice([whole] * 12 + [0.0, math.nan])
        rows.append(Row(now_us, given))
    return rows


@pytest.mark.parametrize("name", CHAINS)
def test_every_kind_decides_on_the_boards_as_here(name: str, tmp_path: Path) -> None:
    kind = CHAINS[name]
    chain = kind.build(kind.parameters(), Surroundings(AirConditions(20.0)))
    outputs = [output for output, _ in chain.outputs]
    routine = routine_of(chain, "it", outputs)
    rows = plausible(routine, name, 60, seed=len(name))
    here = folded(chain, outputs, rows, routine)
    assert differences(stepped_here(routine, rows, False), here, 1e-9) == []
    assert differences(step_on_interpreter(routine, rows), here) == []
    assert differences(step_on_python(routine, rows), here) == []
    chip = step_on_chip(routine, rows, tmp_path)
    assert differences(chip, stepped_here(routine, rows, True)) == []
    # Beside the chain itself single precision loses digits, but no status and no decision.
    assert differences(chip, here, 1e-4) == []
    assert 0 < max(chip.cycles) < 160_000
