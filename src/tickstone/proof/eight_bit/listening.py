"""Drives a listening program on the simulated chip with what its sensors should tell it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from tickstone.core.listening.plan import ListeningPlan
from tickstone.core.listening.reading import PinInUse, Reading
from tickstone.core.listening.ways.converter import ConverterReading
from tickstone.core.listening.ways.echo import EchoReading
from tickstone.core.listening.ways.edges import EdgesReading
from tickstone.core.listening.ways.levels import LevelsReading
from tickstone.core.listening.ways.one_wire import OneWireReading
from tickstone.core.listening.ways.one_word import OneWordReading
from tickstone.core.listening.ways.registers import RegistersReading
from tickstone.proof.eight_bit.chip import Built, run
from tickstone.proof.heard import Heard, Told, heard_in, word_of

SUPPLY_MV = 5_000
NO_ECHO_US = 38_000
"""How long such a ranger holds its echo lead when nothing comes back (common practice)."""
PULSE_US = 300


def listen_on_chip(built: Built, plan: ListeningPlan, told: Told, lines: int) -> Heard:
    """Run the program until it has printed so many lines, the world saying what is told.

    A short run without a world comes first, to know when the first line is taken.
    """
    period_us = plan.pace.period_us
    first = heard_in(
        run(built, [*_world(plan, told, 0.0), f"run {period_us * 2 + 1_500_000}"]).lines
    )
    begins_us = first.rows[0][0]
    assert begins_us is not None
    until_us = begins_us + (lines + 0.97) * period_us
    ran = run(built, [*_world(plan, told, begins_us), f"run {until_us:.0f}"])
    found = heard_in(ran.lines)
    return replace(found, rows=found.rows[:lines], written=ran.written, stack_bytes=ran.stack_bytes)


def _world(plan: ListeningPlan, told: Told, begins_us: float) -> list[str]:
    found: list[str] = []
    for one in plan.readings:
        found += _WORLDS[type(one)](one, told, begins_us, plan.pace.period_us)
    return found


def _where(pin: PinInUse) -> str:
    """Port and bit on the chip of the small boards (from memory)."""
    if pin.printed.startswith("A"):
        return f"C {int(pin.printed[1:])}"
    number = int(pin.printed[1:])
    return f"D {number}" if number < 8 else f"B {number - 8}"


def _just_before(begins_us: float, line: int, period_us: int) -> float:
    return max(0.0, begins_us + (line - 0.02) * period_us)


def _echo(one: EchoReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    widths = [round(width) or NO_ECHO_US for width in told[one.columns[0].name]]
    trigger, echo = _where(one.trigger), _where(one.echo)
    return [f"ranger {trigger} {echo} {' '.join(map(str, widths))}"]


def _edges(one: EdgesReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    """Pulses just before each line is taken, as many as its count is above the one before."""
    where = _where(one.pin)
    idle = 1 if one.edge == "falling" else 0
    found = [f"level {where} 0 {idle}"]
    counted = 0
    gap_us = told[one.columns[1].name][0]
    for line, count in enumerate(told[one.columns[0].name]):
        for n in range(round(count) - counted):
            at = _just_before(begins_us, line, period_us) - n * gap_us - 2 * PULSE_US
            found += [f"level {where} {at} {1 - idle}", f"level {where} {at + PULSE_US} {idle}"]
        counted = round(count)
    return found


def _converter(one: ConverterReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    return [
        f"volts {channel.pin.printed[1:]} {_just_before(begins_us, line, period_us) if line else 0}"
        f" {_millivolts(counts)}"
        for channel in one.channels
        for line, counts in enumerate(told[channel.column])
    ]


def _millivolts(counts: float) -> int:
    """The middle of a code of the simulated converter, which has 1023 steps."""
    return min(SUPPLY_MV, round((counts + 0.5) * SUPPLY_MV / 1023))


def _levels(one: LevelsReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    return [
        f"level {_where(pin)} {_just_before(begins_us, line, period_us)} {level:.0f}"
        for column, pin in one.pins
        for line, level in enumerate(told[column])
    ]


def _registers(one: RegistersReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    names = [column.name for column in one.columns]
    blocks = [one.block(values).hex() for values in zip(*map(told.get, names), strict=True)]
    return [f"unit {one.address} {one.registers.first} {' '.join(blocks)}"]


def _one_wire(one: OneWireReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    lsb = one.commands.lsb_c.value
    codes = " ".join(f"{round(one_c / lsb)}" for one_c in told[one.columns[0].name])
    return [f"one-wire {_where(one.pin)} {codes}"]


def _one_word(one: OneWordReading, told: Told, begins_us: float, period_us: int) -> list[str]:
    pairs = zip(*(told[column.name] for column in one.columns), strict=True)
    words = [word_of(*pair).hex() for pair in pairs]
    return [f"one-word {_where(one.pin)} {' '.join(words)}"]


_WORLDS: dict[type[Reading], Callable[[Any, Told, float, int], list[str]]] = {
    EchoReading: _echo,
    EdgesReading: _edges,
    ConverterReading: _converter,
    LevelsReading: _levels,
    RegistersReading: _registers,
    OneWireReading: _one_wire,
    OneWordReading: _one_word,
}
