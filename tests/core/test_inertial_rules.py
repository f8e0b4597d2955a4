"""When it leans too far, is level, has turned far enough, was hit, or its battery is empty."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.inertial_units import HZ, G

from tickstone.core.quantity import FORCE
from tickstone.core.rules.bump import Bump, BumpEvidence, BumpParameters
from tickstone.core.rules.cell_cut_off import CellCutOff
from tickstone.core.rules.kind import Known, RuleKind
from tickstone.core.rules.lean_limit import (
    FusedLeanLimit,
    LeanLimit,
    LeanLimitEvidence,
    LeanLimitParameters,
)
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


RULES = (LeanLimit(), FusedLeanLimit(), LevelBand(), TurnedBy(), Bump(), CellCutOff())


@pytest.mark.parametrize("rule", RULES, ids=lambda rule: f"{rule.name} on {rule.takes}")
def test_a_decision_can_be_kept_as_it_is_suggested_and_says_so(rule: RuleKind) -> None:
    known = replace(KNOWN, u_at=lambda _: 0.004)
    told = rule.suggest(rule.evidence(), known)
    kept = rule.parameters(**told.parameters)
    stage = rule.stage(kept, None)
    assert stage.gives(FORCE.in_lanes("")) == rule.decision
    assert rule.short(kept)
    assert rule.sentence(kept, told.needed).endswith(".")
    assert all(math.isfinite(one.at) for one in rule.lines(kept))
    assert sum(part.is_total for part in told.parts) == 1
    again = rule.suggest(rule.evidence(), known, kept)
    assert not again.tried_fails
    assert again.parameters == told.parameters
    worse = rule.suggest(rule.evidence(), replace(KNOWN, u_at=lambda _: 0.008))
    first = next(iter(told.parameters))
    # More doubt never lets it go further, nor a battery deeper.
    if rule.name == "cell-cut-off":
        assert worse.parameters[first] >= told.parameters[first]
    else:
        assert worse.parameters[first] <= told.parameters[first]


@pytest.mark.parametrize(
    ("make", "names"),
    [
        (lambda: LeanLimitParameters(0.1, 0.2), "again_rad"),
        (lambda: LevelBand().parameters(0.2, 0.1), "off_rad"),
        (lambda: TurnedBy().parameters(1.0, 1.5), "back_rad"),
        (lambda: CellCutOff().parameters(3.5, 3.3), "again_v"),
        (lambda: BumpParameters(above=-1.0), "above"),
        (lambda: LeanLimitEvidence(track_m=0.0), "track_m"),
        (lambda: BumpEvidence(false_every_s=0.0), "false_every_s"),
    ],
)
def test_a_band_the_wrong_way_round_is_refused_by_name(
    make: Callable[[], object], names: str
) -> None:
    with pytest.raises(ValueError, match=names):
        make()


@pytest.mark.parametrize(
    ("chemistry", "usual_v"), [("lithium", 3.3), ("iron", 2.8), ("nickel", 1.0), ("alkaline", 0.9)]
)
def test_a_cell_is_cut_off_above_what_harms_it(chemistry: str, usual_v: float) -> None:
    rule = CellCutOff()
    evidence = rule.evidence(chemistry)
    told = rule.suggest(evidence, KNOWN)
    # All that the reading may be off by is put on top, so that it is never read too full.
    assert told.parameters["empty_v"] == pytest.approx(usual_v + 2 * 0.01, abs=0.006)
    deep = rule.parameters(usual_v - 0.1, usual_v)
    found = rule.suggest(evidence, KNOWN, deep)
    assert found.tried_fails
    assert "harmed below" in found.tried_says


def test_a_dip_at_a_start_is_no_empty_battery_and_rest_alone_does_not_fill_one() -> None:
    stage = CellCutOff().stage(CellCutOff().parameters(3.3, 3.5, dwell_s=2.0), None)
    t = np.arange(0.0, 60.0, 0.1)
    cell = np.full(len(t), 3.6)
    cell[(t > 5.0) & (t < 6.0)] = 3.0
    cell[t > 20.0] = 3.2
    cell[t > 40.0] = 3.4
    cell[t > 50.0] = 3.6
    told = stage.run(stage.begin(), Signal.of(t, cell))[0].value
    at = {second: told[np.searchsorted(t, second)] for second in (4, 6, 10, 21, 25, 45, 51, 55)}
    empty = [second for second, state in at.items() if state == 1.0]
    assert empty == [25, 45, 51]


@given(st.floats(0.02, 1.0), st.floats(0.02, 1.0), st.floats(0.0, 20.0))
def test_a_lean_limit_never_lies_beyond_where_it_tips(
    track_m: float, height_m: float, sideways: float
) -> None:
    evidence = LeanLimitEvidence(track_m, height_m, sideways)
    told = LeanLimit().suggest(evidence, KNOWN)
    tips = math.atan2(track_m / 2.0, height_m)
    limit = told.parameters["limit_rad"]
    assert limit <= max(tips, math.radians(0.5))
    assert told.parameters["again_rad"] < limit
    parts = sum(part.value for part in told.parts if not part.is_total)
    if told.needed:
        assert parts == pytest.approx(next(p.value for p in told.parts if p.is_total), abs=1e-9)


def test_a_bump_is_told_once_and_its_mean_follows_a_slope() -> None:
    stage = Bump().stage(BumpParameters(above=2.0, over_s=0.5, hold_s=0.3), None)
    n = 400
    t = np.arange(n) / HZ
    # A slope that takes seconds is no bump, however far it goes.
    slow = G + np.linspace(0.0, 6.0, n)
    assert stage.run(stage.begin(), Signal.of(t, slow))[0].value.max() == 0.0
    hit = np.full(n, G)
    hit[100:104] = G + np.array([5.0, -4.0, 3.0, -2.5])
    told = stage.run(stage.begin(), Signal.of(t, hit))[0].value
    assert np.count_nonzero(np.diff(told) == 1.0) == 1
    assert t[told == 1.0].max() - t[103] == pytest.approx(0.3, abs=1.0 / HZ)
