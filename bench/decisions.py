"""Rules over ten million samples against one pass, and a loop of ten thousand seconds at 1 kHz."""

from __future__ import annotations

import time

import numpy as np

from bench.clock import Ratio, compare
from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Rig, simulate
from tickstone.core.control.plant import Plant
from tickstone.core.machines.machine import Machine
from tickstone.core.machines.running import Runner
from tickstone.core.signal import Signal

SAMPLES = 10_000_000
RULES = 10


def run() -> str:
    return "\n".join((str(_rules()), _loop(), _slider()))


def _machine(stop_m: float) -> Machine:
    return Machine.of(
        {
            "inputs": [{"name": "front", "unit": "m"}],
            "start": "drive",
            "states": [
                {"name": "drive", "moves": True},
                {"name": "stopped", "stay_s": 0.2},
                {"name": "back", "leave_after_s": 0.4, "leave_to": "drive"},
            ],
            "transitions": [
                {"leaves": "drive", "to": "stopped", "when": f"front < {stop_m} m"},
                {
                    "leaves": "stopped", "to": "back", "when": f"front < {stop_m + 0.1} m",
                    "for_s": 1.0,
                },
                {"leaves": "stopped", "to": "drive", "when": f"front > {stop_m + 0.1} m"},
            ],
            "when_blind": {"how": "hold", "hold_s": 0.3, "go_to": "stopped"},
        }
    )  # fmt: skip


def _rules() -> Ratio:
    rng = np.random.default_rng(1)
    time_s = np.arange(SAMPLES) * 1e-3
    values = 0.8 + 0.5 * np.sin(0.5 * time_s) + rng.normal(0.0, 0.003, SAMPLES)
    front = Signal.of(time_s, values)
    runners = [Runner(_machine(0.3 + 0.02 * n)) for n in range(RULES)]

    def replay() -> None:
        for runner in runners:
            runner.replay({"front": front})

    return compare(
        f"replay of {RULES} rules, 10 M samples", replay, "one NumPy multiply",
        lambda: np.multiply(values, 1.5), 15.0, 3,
    )  # fmt: skip


def _loop() -> str:
    plant, controller = Plant(2.0, 0.5, 0.1), Controller(kp=1.0, ki=2.0)
    rig = Rig(sample_s=0.001, lasts_s=10_000.0, noise_u=0.01)
    simulate(plant, controller, Rig(lasts_s=1.0))
    began = time.perf_counter()
    simulate(plant, controller, rig)
    return f"10 000 s of a loop at 1 kHz: {time.perf_counter() - began:.2f} s (budget 5 s)"


def _slider() -> str:
    """What the server does for one step of a slider: four settings of 20 s, with their margins."""
    from tickstone.api.routers.control import run_loop
    from tickstone.api.schemas.control import RunIn

    body = RunIn(plant="fitted", settings=[{"kp": 1.0 + n / 4, "ki": 1.0} for n in range(4)])
    run_loop(body)
    took = []
    for _ in range(9):
        began = time.perf_counter()
        run_loop(body)
        took.append(time.perf_counter() - began)
    return f"one step of a slider, four settings: {1e3 * sorted(took)[4]:.0f} ms of the 150 ms"
