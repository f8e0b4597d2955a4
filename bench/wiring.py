"""All checks of a wiring, and a proposal, against a dense solve of a network of the same size."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from tickstone.core.electric.solver import solve
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import Device, Settings, Wiring
from tickstone.core.wiring.proposal import propose
from tickstone.formats.family_file import shipped_boards, shipped_devices

KINDS = (
    *("ultrasonic_ranger_3_lead", "hall_switch_unipolar", "indicator_led", "push_button"),
    *("comparator_module", "slotted_encoder", "touch_key", "thermometer", "hobby_servo"),
    "potentiometer",
)
ROUNDS = 7
BUDGETS_MS = {20: 100.0, 60: 1_000.0}
PROPOSAL_MS = 500.0


def run() -> str:
    lines = []
    for count, budget in BUDGETS_MS.items():
        rig = propose(loose(count)).wiring
        lines.append(_line(f"all checks, {count} devices, nothing kept", rig, budget, _cold))
        lines.append(_line(f"all checks, {count} devices, nets known", rig, budget, _anew))
    lines.append(_line("proposal of 20 devices", loose(20), PROPOSAL_MS, propose))
    return "\n".join(lines)


def loose(count: int) -> Wiring:
    """Devices of many kinds on the board with the most pins, none of them wired."""
    board, families = shipped_boards()["five_volt_8bit_many_pins"], shipped_devices()
    devices = tuple(
        Device(f"d{n}", f"device {n}", families[kind], pulse_hz=2.0, facing_rad=1.0)
        for n, kind in enumerate(KINDS * (count // len(KINDS)))
    )
    return Wiring(board, devices, settings=Settings(fires_in_turn=True))


def _cold(rig: Wiring) -> object:
    solve.cache_clear()
    return _anew(rig)


def _anew(rig: Wiring) -> object:
    check_wiring.cache_clear()
    return check_wiring(rig)


def _line(name: str, rig: Wiring, budget_ms: float, work: Callable[[Wiring], object]) -> str:
    """Best of some rounds in ms, and as a ratio to one dense solve of all nets in all states."""
    solved = Circuit(rig).solved
    nodes = sum(len(island.free) for island in solved.islands) or len(rig.devices)
    states = sum(len(island.states) for island in solved.islands) or 1
    matrix = np.eye(nodes) * 2.0 + 0.001
    right = np.ones((nodes, states))
    work(rig)
    best = min(_seconds(lambda: work(rig)) for _ in range(ROUNDS))
    floor = min(_seconds(lambda: np.linalg.solve(matrix, right)) for _ in range(ROUNDS))
    verdict = "within" if best * 1e3 <= budget_ms else "OVER"
    return (
        f"{name:<52} {best * 1e3:5.1f} ms, {best / floor:5.0f} × a dense solve of {nodes} nets in "
        f"{states} states; budget {budget_ms:g} ms: {verdict}"
    )


def _seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


if __name__ == "__main__":
    print(run())
