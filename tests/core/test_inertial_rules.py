"""When it leans too far, is level, has turned far enough, was hit, or its battery is empty."""

from __future__ import annotations

import math

import numpy as np
import pytest
from tests.core.inertial_units import HZ, G

from tickstone.core.rules.bump import Bump, BumpEvidence, BumpParameters
from tickstone.core.rules.kind import Known
from tickstone.core.rules.lean_limit import LeanLimit, LeanLimitEvidence, LeanLimitParameters
from tickstone.core.rules.level_band import LevelBand, LevelBandEvidence
from tickstone.core.rules.turned_by import TurnedBy, TurnedByEvidence
from tickstone.core.signal import Signal

KNOWN = Known(0.02, 0.0, 0.02, "", lambda _: 0.01, scatter=lambda: 0.05 * G)


def test_the_lean_limit_is_below_where_it_tips() -> None:
    told = LeanLimit().suggest(LeanLimitEvidence(track_m=0.2, height_m=0.1), KNOWN)
    limit = float(told.parameters["limit_rad"])  # type: ignore[arg-type]
    assert 0.0 < limit < math.pi / 4
    late = LeanLimit().suggest(
        LeanLimitEvidence(track_m=0.2, height_m=0.1), KNOWN, LeanLimitParameters(0.9, 0.1)
    )
    assert late.tried_fails
    assert LeanLimit().failing(LeanLimitParameters(0.9, 0.1), told.needed) is not None


def test_leaning_has_to_stand_before_it_counts() -> None:
    stage = LeanLimit().stage(LeanLimitParameters(0.2, 0.1, dwell_s=0.2, blind_s=1.0), None)
    lean = np.zeros(100)
    lean[10:13], lean[40:70] = 0.5, 0.5
    told = stage.run(stage.begin(), Signal.of(np.arange(100) / HZ, lean))[0].value
    assert told[10:20].max() == 0.0
    assert told[60] == 1.0


def test_level_and_turning_take_doubt_and_delay_off() -> None:
    told = LevelBand().suggest(LevelBandEvidence(wanted_rad=0.05), KNOWN)
    assert float(told.parameters["within_rad"]) == pytest.approx(0.03)  # type: ignore[arg-type]
    hopeless = LevelBand().suggest(LevelBandEvidence(wanted_rad=0.01), KNOWN)
    assert hopeless.tried_fails
    turn = TurnedBy().suggest(TurnedByEvidence(math.pi / 2, 1.0, 0.1), KNOWN)
    assert float(turn.parameters["stop_rad"]) == pytest.approx(math.pi / 2 - 0.14)  # type: ignore[arg-type]
    stage = TurnedBy().stage(TurnedBy().parameters(1.0, 0.8), None)
    right = Signal.of(np.arange(5.0), [0.0, -0.5, -1.1, -0.9, -0.7])
    assert stage.run(stage.begin(), right)[0].value.tolist() == [0.0, 0.0, 1.0, 1.0, 0.0]


def test_a_bump_is_beyond_what_a_normal_run_does_by_chance() -> None:
    told = Bump().suggest(BumpEvidence(), KNOWN)
    above = float(told.parameters["above"])  # type: ignore[arg-type]
    assert 4.0 < above / (0.05 * G) < 6.0
    stage = Bump().stage(BumpParameters(above=above), None)
    rng = np.random.default_rng(1)
    size = G + rng.normal(0, 0.05 * G, 5000)
    size[2500] += 2.0 * G
    bumps = stage.run(stage.begin(), Signal.of(np.arange(5000) / HZ, size))[0].value
    begins = np.flatnonzero(np.diff(bumps) == 1.0) + 1
    assert begins.tolist() == [2500]
    silent = Known(0.02, 0.0, 0.02, "", lambda _: 0.01)
    with pytest.raises(ValueError, match="record one, or type it"):
        Bump().suggest(BumpEvidence(), silent)
