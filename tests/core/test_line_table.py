"""A table of sights: complete, mirrored, checked, and what a recording holds of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.chains.reflectance import ReflectanceParameters
from tickstone.core.digests.line_schemes import LineSchemes
from tickstone.core.digests.line_states import LineStates
from tickstone.core.line_codes import combinations
from tickstone.core.line_row import Row, even_places_m
from tickstone.core.quantity import PLACE
from tickstone.core.rules.kind import Known
from tickstone.core.rules.line_table import LineTable, LineTableEvidence, LineTableParameters
from tickstone.core.signal import Signal
from tickstone.core.stages.lane_state import SURFACE
from tickstone.core.stages.line_action import ACTION, LineAction

RULE = LineTable()


def known(lanes: int) -> Known:
    return Known(0.02, 0.0, 0.02, "", lambda _: 0.0, ReflectanceParameters(), lanes=lanes)


@pytest.mark.parametrize("count", [1, 2, 3, 5, 8])
@pytest.mark.parametrize("scheme", ["two-ways", "three-ways", "graded", "edge"])
def test_every_scheme_tells_every_combination_and_mirrors_itself(count: int, scheme: str) -> None:
    found = RULE.suggest(LineTableEvidence(scheme), known(count))
    table = str(found.parameters["table"])
    assert len(table) == 2**count
    assert "-" not in table
    assert found.findings == ()
    turned = str.maketrans("lLrR", "rRlL")
    for one in combinations(count):
        mirrored = sum(1 << count - 1 - place for place, is_on in enumerate(one.on) if is_on)
        assert table[mirrored] == table[one.code].translate(turned)
    assert RULE.failing(LineTableParameters(table), None) is None


def test_three_sensors_mean_what_people_say_they_mean() -> None:
    """Middle dark: straight on; left dark: steer left; all: crossing. Common practice."""
    table = str(RULE.suggest(LineTableEvidence(), known(3)).parameters["table"])
    stage = LineAction(table, True, False, 0.0, 0.0)
    sights = np.array([[0, 1, 0], [1, 0, 0], [0, 0, 0], [0, 0, 1], [1, 1, 1]]).T
    states = Signal.of(range(5), sights, SURFACE.in_lanes(*"123"))
    told = [ACTION.states[int(one)].name for one in stage.run(stage.begin(), states)[0].value]
    assert told == ["straight", "ease_left", "ease_left", "ease_right", "straight"]


@pytest.mark.parametrize(
    ("action", "is_over"), [*((a, True) for a in "FlrK"), *((a, False) for a in "LRSB")]
)
def test_a_table_that_drives_over_the_edge_is_called_that(action: str, is_over: bool) -> None:
    keeps = LineTableEvidence("edge")
    table = str(RULE.suggest(keeps, known(3)).parameters["table"])
    tried = LineTableParameters(table[:3] + action + table[4:])
    found = RULE.suggest(keeps, known(3), tried).findings
    assert [one.title for one in found] == is_over * ["■■□ drives on with the edge under it."]


def test_holes_and_contradictions_are_found() -> None:
    table = str(RULE.suggest(LineTableEvidence(), known(3)).parameters["table"])
    holed = LineTableParameters("-" + table[1:])
    assert RULE.failing(holed, None) == ("a hole", "□□□ has no action: the rig stops there.")
    assert RULE.failing(LineTableParameters(""), None) is not None
    found = RULE.suggest(LineTableEvidence(), known(3), holed)
    assert found.tried_fails
    away = LineTableParameters(table[0] + "r" + table[2:])
    titles = [one.title for one in RULE.suggest(LineTableEvidence(), known(3), away).findings]
    assert titles == ["■□□ steers away from the line."]
    uneven = LineTableParameters(table[0] + "L" + table[2:])
    titles = [one.title for one in RULE.suggest(LineTableEvidence(), known(3), uneven).findings]
    assert titles == ["■□□ and □□■ do not mirror each other."]


@pytest.mark.parametrize(
    ("table", "why"), [("FFF", "2, 4, 8"), ("FX", "is no action"), ("F", "2, 4, 8")]
)
def test_tables_that_cannot_be_are_refused(table: str, why: str) -> None:
    with pytest.raises(ValueError, match=why):
        LineTableParameters(table)


def test_rows_too_long_for_a_table_are_told_what_to_do_instead() -> None:
    with pytest.raises(ValueError, match="steer by the place"):
        RULE.suggest(LineTableEvidence(), known(12))
    with pytest.raises(ValueError, match="listen to it first"):
        RULE.suggest(LineTableEvidence(), known(0))


@given(
    st.lists(st.integers(0, 7), min_size=1, max_size=40),
    st.sampled_from([0.0, 0.15, 0.5]),
)
def test_a_sight_shorter_than_its_wait_changes_nothing(codes, debounce_s) -> None:
    table = str(RULE.suggest(LineTableEvidence(), known(3)).parameters["table"]).replace("K", "S")
    sights = np.array([[code >> n & 1 for code in codes] for n in range(3)], dtype=float)
    states = Signal.of(np.arange(len(codes)) * 0.1, sights, SURFACE.in_lanes(*"123"))
    stage = LineAction(table, True, False, debounce_s, 0.0)
    told = stage.run(stage.begin(), states)[0].value
    changes = np.flatnonzero(np.diff(told)) + 1
    for at in changes.tolist():
        since = at
        while since > 0 and codes[since - 1] == codes[at]:
            since -= 1
        assert (at - since) * 0.1 >= debounce_s - 1e-9


@given(
    st.lists(st.integers(0, 7), min_size=1, max_size=60),
    st.sampled_from([0.15, 0.5]),
)
def test_an_action_lasts_except_for_a_stop(codes, least_s) -> None:
    """And what is done at last is what was told, once there was time for it."""
    table = "FlrRLlSB"
    codes = codes + [codes[-1]] * 10
    sights = np.array([[code >> n & 1 for code in codes] for n in range(3)], dtype=float)
    states = Signal.of(np.arange(len(codes)) * 0.1, sights, SURFACE.in_lanes(*"123"))
    asked, done = (
        stage.run(stage.begin(), states)[0].value
        for stage in (LineAction(table, True, False, 0.0, least) for least in (0.0, least_s))
    )
    changes = np.flatnonzero(np.diff(done)) + 1
    for before, at in zip([0, *changes.tolist()], changes.tolist(), strict=False):
        is_alarm = ACTION.states[int(done[at])].is_alarm
        assert is_alarm or (at - before) * 0.1 >= least_s - 1e-9
    alarms = [ACTION.states[int(one)].is_alarm for one in asked]
    assert (done[alarms] == asked[alarms]).all()
    assert done[-1] == asked[-1]


def test_a_recording_says_what_was_seen_how_long_and_what_chattered() -> None:
    codes = [4] * 50 + [12] * 30 + [4] + [12] * 20 + [4] * 40 + [31] * 5 + [4] * 10
    sights = np.array([[code >> n & 1 for code in codes] for n in range(5)], dtype=float)
    states = Signal.of(np.arange(len(codes)) * 0.02, sights, SURFACE.in_lanes(*"12345"))
    settings = ReflectanceParameters()
    told = {
        one.name: one.value
        for one in LineStates().figures({"state": states}, 0.0, 99.0, None, settings)
    }
    assert told["visits_4"] == 4
    assert told["visits_12"] == 2
    assert told["chatter_4"] == 1
    assert told["chatter_12"] == 0
    assert told["time_31"] == pytest.approx(0.1)
    assert told["never"] == 29
    assert "visits_3" not in told


def test_more_sensors_lie_nearer_the_weighted_place() -> None:
    row = Row(even_places_m(5, 0.019), 0.03, 0.012)
    settings = replace(ReflectanceParameters(), pitch_m=0.019, line_m=0.03, spot_m=0.012)
    line = 0.03 * np.sin(np.arange(2_000) * 0.01)
    dark = (row.covered(line) > 0.5).astype(float)
    times = np.arange(2_000) * 0.02
    results = {
        "state": Signal.of(times, dark, SURFACE.in_lanes(*"12345")),
        "position": Signal.of(times, line, PLACE),
    }
    told = {
        one.name: one.value for one in LineSchemes().figures(results, 0.0, 99.0, None, settings)
    }
    assert told["off_2"] > told["off_3"] > told["off_5"]
    assert told["places_5"] > told["places_3"] > told["places_2"]
    assert told["lost_2"] >= told["lost_5"]
