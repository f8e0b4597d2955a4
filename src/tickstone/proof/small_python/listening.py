"""Drives a listening program of small Python with what its sensors should tell it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from tickstone.core.listening.plan import ListeningPlan
from tickstone.core.listening.ways.converter import ConverterReading
from tickstone.core.listening.ways.echo import EchoReading
from tickstone.core.listening.ways.edges import EdgesReading
from tickstone.core.listening.ways.levels import LevelsReading
from tickstone.core.listening.ways.one_wire import OneWireReading
from tickstone.core.listening.ways.one_word import OneWordReading
from tickstone.core.listening.ways.registers import RegistersReading
from tickstone.proof.heard import Heard, Told, heard_in, word_of
from tickstone.proof.small_python.interpreter import run

NO_ECHO_US = 38_000
BEFORE_WRAP_US = 2**30 - 300_000
"""Where the board's counter begins, so that it wraps on the way."""


def listen_on_interpreter(program: str, plan: ListeningPlan, told: Told, lines: int) -> Heard:
    """Run the program until it has printed so many lines, the world saying what is told."""
    period_us = plan.pace.period_us
    first = heard_in(run(program, _world(plan, told, 0.0, 2 * period_us + 100_000)).lines)
    begins_us = first.rows[0][0]
    assert begins_us is not None
    until_us = begins_us + (lines + 0.97) * period_us
    ran = run(program, _world(plan, told, begins_us, until_us))
    found = heard_in(ran.lines)
    return replace(found, rows=found.rows[:lines], written=ran.written)


def _world(plan: ListeningPlan, told: Told, begins_us: float, until_us: float) -> dict[str, Any]:
    world: dict[str, Any] = {
        "begins_us": BEFORE_WRAP_US,
        "until_us": round(until_us),
        **{name: [] for name in ("events", "rangers", "units", "wires", "words")},
    }
    period_us = plan.pace.period_us

    def just_before(line: int) -> int:
        return max(0, round(begins_us + (line - 0.02) * period_us))

    converter = plan.board.converter
    for one in plan.readings:
        names = [column.name for column in one.columns]
        match one:
            case EchoReading():
                world["rangers"].append(
                    {
                        "trigger": int(one.trigger.number),
                        "echo": int(one.echo.number),
                        "widths": [round(width) or NO_ECHO_US for width in told[names[0]]],
                    }
                )
            case EdgesReading():
                idle, pin, counted = int(one.edge == "falling"), int(one.pin.number), 0
                world["events"].append((0, "level", pin, idle))
                for line, count in enumerate(told[names[0]]):
                    for n in range(round(count) - counted):
                        at = just_before(line) - n * round(told[names[1]][0]) - 600
                        world["events"] += [
                            (at, "level", pin, 1 - idle),
                            (at + 300, "level", pin, idle),
                        ]
                    counted = round(count)
            case ConverterReading() if converter is not None:
                world["events"] += [
                    (
                        just_before(line) if line else 0,
                        "volts",
                        int(channel.pin.number),
                        round(counts) << 16 - converter.bits,
                    )
                    for channel in one.channels
                    for line, counts in enumerate(told[channel.column])
                ]
            case LevelsReading():
                world["events"] += [
                    (just_before(line) if line else 0, "level", int(pin.number), round(level))
                    for column, pin in one.pins
                    for line, level in enumerate(told[column])
                ]
            case RegistersReading():
                blocks = [one.block(values) for values in zip(*map(told.get, names), strict=True)]
                world["units"].append(
                    {
                        "address": one.address,
                        "first": one.registers.first,
                        "blocks": [list(block) for block in blocks],
                    }
                )
            case OneWireReading():
                world["wires"].append(
                    {
                        "pin": int(one.pin.number),
                        "convert": one.commands.convert,
                        "read": one.commands.read,
                        "convert_us": round(one.commands.convert_s.value * 1e6),
                        "codes": [round(c / one.commands.lsb_c.value) for c in told[names[0]]],
                    }
                )
            case OneWordReading():
                pulses: list[int] = []
                for values in zip(*(told[name] for name in names), strict=True):
                    bits = int.from_bytes(word_of(*values), "big")
                    pulses += [80, 80, *(70 if bits >> n & 1 else 26 for n in range(39, -1, -1))]
                world["words"].append({"pin": int(one.pin.number), "pulses": pulses})
    return world
