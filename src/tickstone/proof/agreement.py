"""What a made-up world tells a listening program, and whether the program printed that."""

from __future__ import annotations

import random
from collections.abc import Sequence

from tickstone.core.listening.plan import ListeningPlan
from tickstone.core.listening.reading import PrintedColumn, Reading
from tickstone.core.listening.ways.echo import EchoReading
from tickstone.core.listening.ways.registers import RegistersReading
from tickstone.proof.heard import Heard, Told

WITHIN_US = 12.0
"""Two steps of a counter of 4 µs, and the loop that looks at the lead."""
FEWEST_LINES = 8
_SLOW = ("one_wire", "one_word")


def lines_for(plan: ListeningPlan) -> int:
    """How many lines tell: enough of them for a thermometer to have converted."""
    slow = {*_SLOW} & {*plan.ways}
    return FEWEST_LINES + (round(1e6 / plan.pace.period_us) if slow else 0)


def made_up(plan: ListeningPlan, lines: int, seed: int) -> dict[str, list[float]]:
    """Something for every column to say, at random, over all that it can say."""
    rng = random.Random(seed)
    return {
        column.name: [float(one) for one in _said(reading, column, plan, lines, rng)]
        for reading in plan.readings
        for column in reading.columns
    }


def _said(
    reading: Reading, column: PrintedColumn, plan: ListeningPlan, lines: int, rng: random.Random
) -> Sequence[float]:
    match column.quantity:
        case "echo time":
            return [rng.choice((0, rng.randint(120, 24_000))) for _ in range(lines)]
        case "pulse count":
            return [(n + 1) // 2 for n in range(lines)]
        case "pulse gap":
            return [2 * plan.pace.period_us] * lines
        case "pulse":
            return [rng.randint(0, 1) for _ in range(lines)]
        case "converter counts":
            return [rng.randint(0, 1022) for _ in range(lines)]
        case "temperature" if reading.way == "one_wire":
            return [rng.randint(-880, 2_000) * 0.0625] * lines
        case "temperature" if reading.way == "one_word":
            return [rng.randint(-300, 900) / 10] * lines
        case "humidity":
            return [rng.randint(0, 1_000) / 10] * lines
    assert isinstance(reading, RegistersReading)
    place = reading.columns.index(column)
    value = reading.registers.values[place]
    span = 256**value.bytes
    low = -span // 2 if value.is_signed else 0
    return [rng.randint(low, low + span - 1) for _ in range(lines)]


def disagreements(plan: ListeningPlan, heard: Heard, told: Told) -> list[str]:
    """What was printed other than it was told, a sentence each: counts and levels to the last one,
    times within the counter, temperatures within half a step of what is printed.
    """
    found = []
    names = [one.name for one in plan.columns]
    if [*heard.columns] != names:
        return [f"its header names {', '.join(heard.columns)}, not {', '.join(names)}"]
    for reading in plan.readings:
        for column in reading.columns:
            said, want = heard.column(column.name), told[column.name]
            why = _differs(reading, column, said, want)
            if why:
                found.append(f"{column.name}: {why}")
    return found


def _differs(
    reading: Reading,
    column: PrintedColumn,
    said: Sequence[float | None],
    want: Sequence[float],
) -> str:
    if reading.way in _SLOW:
        answers = [one for one in said if one is not None]
        if not answers:
            return "it never answered"
        within = 0.055 if reading.way == "one_word" else 0.036
        off = [one for one in answers if min(abs(one - told) for told in want) > within]
        return f"it said {off[0]:g}, which is none of what it was told" if off else ""
    if column.quantity == "pulse gap":
        last = said[-1]
        is_near = last is not None and abs(last - want[-1]) <= WITHIN_US
        return "" if is_near else f"the last gap is {last}, not {want[-1]:g}"
    for line, (got, told) in enumerate(zip(said, want, strict=True)):
        if isinstance(reading, EchoReading):
            heard = told if told <= reading.timeout_us - 100 else 0.0
            fits = got is not None and (abs(got - heard) <= WITHIN_US if heard else got == 0)
        else:
            fits = got == told
        if not fits:
            return f"line {line + 1} says {got}, not {told:g}"
    return ""
