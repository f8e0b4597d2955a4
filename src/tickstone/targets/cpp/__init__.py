"""C++ in the dialect of setup and loop, for the common 8-bit boards."""

from __future__ import annotations

from typing import Any

from tickstone.core.families.board_family import BoardFamily, Reference
from tickstone.core.listening.plan import ListeningPlan
from tickstone.targets.target import Target
from tickstone.targets.writing import CppWriter

SLOWEST_OTHER_HZ = 20e6
VECTORS = {"B": "PCINT0_vect", "C": "PCINT1_vect", "D": "PCINT2_vect"}
"""The interrupts of changes on the common small boards, by port (from memory)."""


def _suits(board: BoardFamily) -> bool:
    return board.clock_hz.value <= SLOWEST_OTHER_HZ


def _reference(plan: ListeningPlan, one: Reference) -> str:
    """The dialect's word for a reference of the converter."""
    if one.follows_supply:
        return "DEFAULT"
    if one.rail:
        return "EXTERNAL"
    references = plan.board.converter.references if plan.board.converter else ()
    inner = [r for r in references if not r.follows_supply and not r.rail]
    return (
        "INTERNAL" if len(inner) == 1 else f"INTERNAL{one.volts.value:g}V".replace(".", "V", 1)[:12]
    )


def _facts(plan: ListeningPlan) -> dict[str, Any]:
    facts: dict[str, Any] = {"vectors": VECTORS}
    if plan.reference is not None:
        facts["reference"] = _reference(plan, plan.reference)
    return facts


CPP = Target(
    "cpp",
    "C++",
    "For 8-bit boards, in the dialect with setup and loop. Nothing to download.",
    _suits,
    lambda name: f"{name}/{name}.ino",
    _facts,
    writer=CppWriter,
    sums_path="sums.h",
)
