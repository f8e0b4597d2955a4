"""Ordinary Python, for a single-board computer: pins and bus through its kernel."""

from __future__ import annotations

import re
from typing import Any

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.listening.plan import ListeningPlan
from tickstone.targets.target import Target

SLOWEST_HZ = 400e6
LINE_BAUD = 115_200


def _suits(board: BoardFamily) -> bool:
    return board.clock_hz.value >= SLOWEST_HZ


def _facts(plan: ListeningPlan) -> dict[str, Any]:
    bus = plan.bus
    number = re.search(r"\d+", bus.bus) if bus is not None else None
    return {"bus_number": int(number.group()) if number else 1}


PYTHON = Target(
    "python",
    "Python",
    "For a single-board computer: the kernel’s pins and I²C through the packages gpiod and smbus2.",
    _suits,
    lambda name: f"{name}/{name}.py",
    _facts,
    cannot={
        "one_word": (
            "its bits are too short for a program that the kernel may hold up at any time",
            "Read it with a small board, or by a driver of the kernel’s.",
        ),
        "converter": (
            "such a board has no converter",
            "Put a converter of its own on the bus, or take a board with one.",
        ),
    },
    baud=LINE_BAUD,
    like="small-python",
)
