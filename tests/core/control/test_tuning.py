"""Tuning rules against their published tables, and the order of tuning by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tickstone.core.control.by_hand import BRAKE, DONE, EDGE, STAGES, advise
from tickstone.core.control.controller import Controller, Gains
from tickstone.core.control.loop import Rig, as_seen, simulate
from tickstone.core.control.margins import Loop, growth, margins
from tickstone.core.control.measures import measures, of_run
from tickstone.core.control.plant import Plant
from tickstone.core.control.plants import PLANTS
from tickstone.core.control.tuning import TUNING_RULES
from tickstone.core.control.tuning.relay import swing_of
from tickstone.core.control.tuning.rule import ultimate

SIMC, RELAY = TUNING_RULES["simc"], TUNING_RULES["relay"]


@pytest.mark.parametrize(
    ("rule", "plant", "terms", "gains"),
    [
        # Ziegler, Nichols 1942: 0.5 Ku; 0.45 Ku, Tu/1.2; 0.6 Ku, Tu/2, Tu/8. Ku, Tu of K/s·e^−θs
        # are π/(2Kθ) and 4θ.
        ("zn-edge", Plant(1.0, 0.0, 0.5, 1), "p", (0.5 * math.pi, 0.0, 0.0)),
        ("zn-edge", Plant(1.0, 0.0, 0.5, 1), "pi", (0.45 * math.pi, 0.45 * math.pi / (2 / 1.2), 0)),
        ("zn-edge", Plant(1.0, 0.0, 0.5, 1), "pid",
         (0.6 * math.pi, 0.6 * math.pi / 1.0, 0.6 * math.pi * 0.25)),
        # The same paper, by the step: 1/(RL); 0.9/(RL), L/0.3; 1.2/(RL), 2L, 0.5L.
        ("zn-step", Plant(2.0, 4.0, 0.5), "p", (4.0, 0.0, 0.0)),
        ("zn-step", Plant(2.0, 4.0, 0.5), "pi", (3.6, 3.6 / (0.5 / 0.3), 0.0)),
        ("zn-step", Plant(2.0, 4.0, 0.5), "pid", (4.8, 4.8, 1.2)),
        # Skogestad 2003, table 1, τc = θ: Kc = 0.5 τ/(kθ), τI = min(τ, 8θ).
        ("simc", Plant(1.0, 1.0, 1.0), "pi", (0.5, 0.5, 0.0)),
        ("simc", Plant(1.0, 20.0, 1.0), "pi", (10.0, 10.0 / 8.0, 0.0)),
        # e^−s/s: Kc = 0.5, τI = 8; e^−s/s²: series Kc = 0.0625, τI = τD = 8.
        ("simc", Plant(1.0, 0.0, 1.0, 1), "pi", (0.5, 0.5 / 8.0, 0.0)),
        ("simc", Plant(1.0, 0.0, 1.0, 2), "pid", (0.125, 0.0625 / 8.0, 0.5)),
        # Pure dead time, e^−s: integral alone, KI = 0.5.
        ("simc", Plant(1.0, 0.0, 1.0), "pi", (0.0, 0.5, 0.0)),
    ],
)  # fmt: skip
def test_the_published_tables(
    rule: str, plant: Plant, terms: str, gains: tuple[float, float, float]
) -> None:
    told = TUNING_RULES[rule].tune(plant, terms).gains
    assert (told.kp, told.ki, told.kd) == pytest.approx(gains, rel=1e-9)


@pytest.mark.parametrize(
    ("plant", "gain_margin", "phase_deg", "peak"),
    [
        # Skogestad 2003, table 2: SIMC with τc = θ: GM 3.14, PM 61.4°, Ms 1.59 for τ ≤ 8θ; of an
        # integrating plant GM 2.96, PM 46.9°, Ms 1.70.
        (Plant(1.0, 8.0, 1.0), 3.14, 61.4, 1.59),
        (Plant(1.0, 1.0, 1.0), 3.14, 61.4, 1.59),
        (Plant(1.0, 0.0, 1.0, 1), 2.96, 46.9, 1.70),
    ],
)
def test_margins_are_those_that_its_author_printed(
    plant: Plant, gain_margin: float, phase_deg: float, peak: float
) -> None:
    found = margins(Loop(plant, SIMC.tune(plant, "pi").gains))
    assert found.gain == pytest.approx(gain_margin, abs=0.005)
    assert math.degrees(found.phase_rad) == pytest.approx(phase_deg, abs=0.05)
    assert found.peak == pytest.approx(peak, abs=0.005)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.2, 5.0), st.floats(0.1, 3.0), st.floats(0.3, 3.0), st.integers(0, 1))
def test_a_relay_finds_the_edge_as_near_as_its_authors_say(
    gain: float, lag: float, ratio: float, many: int
) -> None:
    """The describing function is near where the plant damps what is not the swing itself: within
    a quarter for a lag with dead time."""
    plant = Plant(gain, lag, ratio * lag, many)
    ku, tu = ultimate(plant)
    told = RELAY.tune(plant, "p")
    working = dict(told.working)
    assert working["Ku"] == pytest.approx(ku, rel=0.25)
    assert working["Tu, s"] == pytest.approx(tu, rel=0.15)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.2, 5.0), st.floats(0.05, 5.0), st.floats(0.02, 2.0), st.integers(0, 1))
def test_what_simc_tells_is_stable_as_it_is_sampled(
    gain: float, lag: float, delay: float, many: int
) -> None:
    plant = Plant(-gain, lag, delay, many)
    rig = Rig(sample_s=min(0.05, max(0.001, delay / 3.0)))
    gains = SIMC.tune(as_seen(plant, rig), "pid" if many else "pi").gains
    assert growth(Loop(plant, gains), rig.sample_s) < 1.0
    found = margins(Loop(plant, gains, sample_s=rig.sample_s))
    assert found.gain > 2.0
    assert found.peak < 2.0


def test_a_relay_run_that_is_none_says_why() -> None:
    t = np.arange(0, 20, 0.05)
    y = np.sin(t)
    for u, says in (
        (np.ones_like(t), "never changes"),
        (np.sin(t), "more than two values"),
        (np.sign(np.sin(0.3 * t)), "record longer"),
    ):
        with pytest.raises(ValueError, match=says):
            swing_of(t, y, u)


def tuned(name: str, most: int = 60) -> tuple[Gains, str]:
    """Follow the advice, run after run, as a person would."""
    kind = PLANTS[name]
    values = dict(kind.usual)
    rig = Rig(**{k: values[k] for k in values if k in Rig.__dataclass_fields__} | {"zeros": 0.0})
    plant = kind.plant(kind.parameters())
    gains, stage = Gains(0.2 * values["kp"], 0.0, 0.0), EDGE
    for _ in range(most):
        controller = Controller(
            kp=gains.kp, ki=gains.ki, kd=gains.kd, low=values["low"], high=values["high"],
            derivative_lag_s=values.get("derivative_lag_s", 0.05),
        )  # fmt: skip
        told = of_run(simulate(plant, controller, rig), rig.load_at_s)
        advice = advise(stage, gains, told, values["high"] - values["low"], plant.integrators == 2)
        stage, gains = advice.stage, advice.gains or gains
        if stage == DONE:
            break
    return gains, stage


@pytest.mark.parametrize("name", ["wheel-speed", "wall-distance", "fitted"])
def test_the_order_by_hand_ends_somewhere_good(name: str) -> None:
    gains, stage = tuned(name)
    assert stage == DONE, gains
    kind = PLANTS[name]
    plant = kind.plant(kind.parameters())
    loop = Loop(plant, gains, kind.usual.get("derivative_lag_s", 0.05))
    assert growth(loop, kind.usual["sample_s"]) < 1.0


def test_what_rolls_on_is_told_to_take_d_first() -> None:
    calm = measures(np.arange(10.0), (np.arange(10.0) > 2) * 1.0, np.zeros(10), np.zeros(10))
    told = advise(EDGE, Gains(1.0, 0.0, 0.0), calm, 1.0, rolls_on=True)
    assert told.stage == BRAKE
    assert told.gains is not None
    assert told.gains.kd > 0.0
    assert told.gains.ki == 0.0


def test_stages_and_terms_there_are_none_of() -> None:
    calm = measures(np.arange(10.0), (np.arange(10.0) > 2) * 1.0, np.zeros(10), np.zeros(10))
    assert list(STAGES) == ["p", "i", "d", "done"]
    with pytest.raises(ValueError, match="stage: “x” is none of p, i, d, done"):
        advise("x", Gains(1, 0, 0), calm, 1.0)
    with pytest.raises(ValueError, match="terms: SIMC has no table for “p”"):
        SIMC.tune(Plant(1.0, 1.0, 1.0), "p")
    with pytest.raises(ValueError, match="rolls on"):
        RELAY.tune(Plant(1.0, 1.0, 1.0, 2), "pid")
    with pytest.raises(ValueError, match="there is no step"):
        measures(np.arange(10.0), np.zeros(10), np.zeros(10), np.zeros(10))
