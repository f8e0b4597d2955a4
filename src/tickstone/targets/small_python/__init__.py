"""Small Python, for 3.3 V boards that run an interpreter of their own."""

from __future__ import annotations

import re
from typing import Any

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.listening.plan import ListeningPlan
from tickstone.targets.target import Target

CONSOLE_BAUD = 115_200
"""Of the interpreter’s own console, where it has a speed at all; common practice."""
SLOWEST_HZ, FASTEST_HZ = 20e6, 400e6


def _suits(board: BoardFamily) -> bool:
    return SLOWEST_HZ < board.clock_hz.value < FASTEST_HZ


def _facts(plan: ListeningPlan) -> dict[str, Any]:
    converter = plan.board.converter
    bus = plan.bus
    number = re.search(r"\d+", bus.bus) if bus is not None else None
    return {
        "shift": 16 - converter.bits if converter else 0,
        "needs_attenuation": plan.reference is not None and not plan.reference.follows_supply,
        "bus_number": int(number.group()) if number else 0,
    }


SMALL_PYTHON = Target(
    "small-python",
    "Small Python",
    "For 3.3 V boards that run an interpreter of their own. Nothing to download.",
    _suits,
    lambda name: f"{name}/main.py",
    _facts,
    baud=CONSOLE_BAUD,
)
