"""Rigs for the proofs: the demo ones, one of each kind of device, and random ones."""

from __future__ import annotations

import random

from tickstone.core.families.device_family import DeviceKind
from tickstone.core.listening.plan import Listening, ListeningPlan, listening_plan
from tickstone.core.wiring.netlist import Device, Wiring
from tickstone.core.wiring.proposal import propose
from tickstone.demo.wirings import wiring_text
from tickstone.formats.family_file import shipped_boards, shipped_devices
from tickstone.formats.wiring_file import read_wiring
from tickstone.targets import TARGETS
from tickstone.targets.target import Target

SMALL_BOARDS = ("five_volt_8bit_small", "five_volt_8bit")
ODD_NAMES = (
    "Front", "int", "front", "1st", "*/ system();", "a\nb", "“;#include <x>", "\\", "★", "Räder",
    "loop", "Serial", "??/", "‮gnol", "x" * 100, "A0", "none", "None", "{{ 7*7 }}", "%s%n", "t",
)  # fmt: skip


def rig_of(
    families: list[str], board: str = SMALL_BOARDS[0], names: list[str] | None = None
) -> Wiring:
    """A rig with these devices, wired as a careful friend would."""
    shipped = shipped_devices()
    devices = tuple(
        Device(f"d{n}", names[n] if names else f"{family} {n}", shipped[family])
        for n, family in enumerate(families)
    )
    return propose(Wiring(shipped_boards()[board], devices)).wiring


def sensors() -> list[str]:
    """The families that can be read."""
    return [
        one.name
        for one in shipped_devices().values()
        if one.kind is DeviceKind.SENSOR and one.is_wired
    ]


def random_plan(
    seed: int, boards: tuple[str, ...] = SMALL_BOARDS, target: Target = TARGETS["cpp"]
) -> ListeningPlan:
    """A rig of some random devices with odd names, and its plan."""
    rng = random.Random(seed)
    while True:
        families = rng.choices(sensors(), k=rng.randint(1, 7))
        names = rng.choices(ODD_NAMES, k=len(families))
        board = rng.choice(boards)
        try:
            wiring = rig_of(families, board, names)
            return listening_plan(
                rng.choice(ODD_NAMES), wiring, target.wanted(rng.choice((5.0, 20.0, 100.0)))
            )
        except ValueError:
            continue  # a name that no rig takes, or nothing that could be read


def demo_plan(name: str, wanted: Listening | None = None) -> ListeningPlan:
    """The plan of a demo rig."""
    wiring = read_wiring(wiring_text(name).encode(), shipped_boards(), shipped_devices())
    return listening_plan(name.title(), wiring, wanted)
