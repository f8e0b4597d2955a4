"""The stones: each state, and why."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.kind import Fit, SpanResult
from tickstone.core.chains.echo_ranger import EchoRanger, RangerParameters
from tickstone.core.rules.stop_and_go import StopAndGo, StopAndGoParameters
from tickstone.core.status import Status
from tickstone.core.stones.facts import (
    CalibrationFacts,
    RecordingFacts,
    RuleFacts,
    SensorFacts,
    SignOffFacts,
    WiringFacts,
)
from tickstone.core.stones.row import next_stone, stones_for
from tickstone.core.stones.stone import Stone, StoneState, WorkStage
from tickstone.core.surroundings import Surroundings
from tickstone.formats.family_file import shipped_devices

FAMILIES = shipped_devices()
NOW = datetime(2026, 7, 14, 12, tzinfo=UTC)
KIND = EchoRanger()
PARAMETERS = RangerParameters()
GROUNDS = KIND.grounds(PARAMETERS)


def air(celsius: float) -> Surroundings:
    return Surroundings(AirConditions(celsius))


def span(name: str) -> SpanResult:
    return SpanResult(name, 0.3, 0.001, 0.3, 0.001, 0.0, 60, 0, 0, True, True, 0.0)


FIT = Fit(
    {"offset": -0.004, "scale": 0.998},
    np.array([[1e-6, 0.0], [0.0, 0.0]]),
    {"scale_fitted": 1.0},
    (span("a"), span("b"), span("c")),
)
DONE = SensorFacts(
    family=FAMILIES["ultrasonic_ranger"],
    now=NOW,
    surroundings=air(14.0),
    kind=KIND,
    parameters=PARAMETERS,
    wired=SignOffFacts(NOW - timedelta(days=9), True),
    recording=RecordingFacts(
        "ruler", NOW - timedelta(days=8), 832, 800, {Status.NO_ECHO: 30}, 19.8
    ),
    calibrations=(
        CalibrationFacts(
            "7", KIND.calibrations[0], FIT, NOW - timedelta(days=7), air(14.0), GROUNDS
        ),
    ),
    rules=(
        RuleFacts(StopAndGo(), StopAndGoParameters(0.42, 0.5), NOW - timedelta(days=6), 0.41, "7"),
    ),
    driven=SignOffFacts(NOW - timedelta(days=5), True),
)
CALIBRATION, RULE = DONE.calibrations[0], DONE.rules[0]
BARE = SensorFacts(FAMILIES["ultrasonic_ranger"], NOW, air(14.0), KIND, PARAMETERS)


def stone(facts: SensorFacts, stage: str) -> Stone:
    return next(one for one in stones_for(facts) if one.stage == stage)


def test_all_tick_when_nothing_has_changed() -> None:
    assert [one.state for one in stones_for(DONE)] == [StoneState.TICKED] * 5
    assert next_stone([stones_for(DONE)]) is None


def test_all_hollow_when_nothing_was_done() -> None:
    assert [one.state for one in stones_for(BARE)] == [StoneState.HOLLOW] * 5
    following = next_stone([stones_for(BARE)])
    assert following is not None
    assert following.stone.stage == WorkStage.WIRED


@pytest.mark.parametrize(
    ("change_c", "state"),
    [(0, "ticked"), (4.9, "ticked"), (5.1, "stale"), (12, "stale"), (-12, "stale")],
)
def test_the_calibration_goes_stale_with_the_air(change_c: float, state: str) -> None:
    facts = replace(DONE, surroundings=air(14.0 + change_c))
    assert stone(facts, "calibrated").state == state


def test_the_stale_calibration_says_why_in_numbers() -> None:
    calibrated = stone(replace(DONE, surroundings=air(26.0)), "calibrated")
    assert calibrated.short == "air +12 °C"
    assert "made at 14.0 °C; the air is now 26.0 °C, 12 °C warmer" in calibrated.reason
    assert "22 mm" in calibrated.reason or "21 mm" in calibrated.reason


def test_a_fixed_speed_is_told_to_correct_nothing() -> None:
    fixed = RangerParameters(air_model="fixed")
    made = replace(CALIBRATION, grounds=KIND.grounds(fixed))
    facts = replace(DONE, surroundings=air(26.0), parameters=fixed, calibrations=(made,))
    assert "a fixed speed of sound corrects none" in stone(facts, "calibrated").reason


def test_tuning_and_drive_follow_a_stale_calibration() -> None:
    facts = replace(DONE, surroundings=air(26.0))
    assert stone(facts, "tuned").short == "follows"
    assert stone(facts, "driven").short == "follows"


def test_another_chain_makes_the_calibration_stale() -> None:
    facts = replace(DONE, parameters=RangerParameters(mount_m=0.012))
    assert stone(facts, "calibrated").short == "mount changed"


def test_what_somebody_says_has_changed_undoes_a_calibration() -> None:
    moved = replace(CALIBRATION, undone_by="moved on its mount")
    found = stone(replace(DONE, calibrations=(moved,)), "calibrated")
    assert (found.state, found.short) == (StoneState.STALE, "moved on its mount")
    assert "made anew" in found.reason


def test_a_calibration_grows_old() -> None:
    facts = replace(DONE, now=NOW + timedelta(days=200))
    assert stone(facts, "calibrated").state == StoneState.STALE
    assert "207 days ago" in stone(facts, "calibrated").reason


def test_rewiring_makes_what_came_after_stale() -> None:
    facts = replace(DONE, wired=SignOffFacts(NOW, True))
    assert stone(facts, "heard").short == "re-wired"
    assert stone(facts, "calibrated").short == "re-wired"


def test_zeros_and_short_recordings_fail() -> None:
    zeros = replace(
        DONE, recording=RecordingFacts("curtain", NOW, 420, 284, {Status.NO_ECHO: 136}, 19.8)
    )
    assert stone(zeros, "heard").short == "32 % zeros"
    short = replace(DONE, recording=RecordingFacts("stub", NOW, 5, 5, {}, 19.8))
    assert stone(short, "heard").state == StoneState.FAILING
    far = replace(
        DONE,
        recording=RecordingFacts(
            "yard", NOW, 100, 40, {Status.NO_ECHO: 3, Status.TOO_FAR: 57}, 19.8
        ),
    )
    assert stone(far, "heard").short == "60 % flagged"


def test_a_threshold_on_another_calibration_or_too_short_is_told() -> None:
    other = replace(DONE, rules=(replace(RULE, calibration_identity="6"),))
    assert stone(other, "tuned").short == "other calibration"
    short = replace(DONE, rules=(replace(RULE, needed=0.6),))
    assert stone(short, "tuned").state == StoneState.FAILING


def test_marks_at_odds_fail_the_calibration() -> None:
    bad = replace(DONE, calibrations=(replace(CALIBRATION, errors=("They miss the line.",)),))
    assert stone(bad, "calibrated").state == StoneState.FAILING


def test_what_went_wrong_comes_before_what_was_never_done() -> None:
    wrong = replace(DONE, driven=SignOffFacts(NOW, False, "hit the bench"))
    following = next_stone([stones_for(BARE), stones_for(wrong)])
    assert following is not None
    assert (following.sensor, following.stone.stage) == (1, WorkStage.DRIVEN)
    assert "hit the bench" in following.stone.reason


def test_a_family_without_a_bench_says_so_and_is_never_next() -> None:
    facts = SensorFacts(
        FAMILIES["six_axis"],
        NOW,
        air(14.0),
        wired=DONE.wired,
        driven=DONE.driven,
    )
    assert stone(facts, "heard").state == StoneState.ABSENT
    assert "six-axis" in stone(facts, "heard").reason
    assert next_stone([stones_for(facts)]) is None
    thermometer = replace(facts, family=FAMILIES["thermometer"], driven=None)
    assert stone(thermometer, "driven").state == StoneState.ABSENT
    assert next_stone([stones_for(thermometer)]) is None


WIRES = {"board": "5 V 8-bit board", "TRIG": "D7", "ECHO": "D8"}
SIGNED = replace(
    DONE,
    wired=SignOffFacts(NOW - timedelta(days=9), True, "", WIRES),
    wiring=WiringFacts(WIRES, steps=6, done=6),
)


def test_the_wired_stone_holds_while_the_wires_are_what_was_looked_at() -> None:
    assert stone(SIGNED, "wired").state == StoneState.TICKED


@pytest.mark.parametrize(
    ("now", "words"),
    [
        ({**WIRES, "ECHO": "D9"}, "ECHO went from D8 to D9"),
        ({**WIRES, "board": "3.3 V board"}, "board went from 5 V 8-bit board to 3.3 V board"),
        ({**WIRES, "XTRA": "D4"}, "XTRA went from nothing to D4"),
        ({"board": WIRES["board"], "TRIG": "D7"}, "ECHO went from D8 to nothing"),
    ],
)
def test_the_wired_stone_goes_stale_with_a_wire(now: dict[str, str], words: str) -> None:
    changed = stone(replace(SIGNED, wiring=WiringFacts(now, steps=6, done=6)), "wired")
    assert changed.state == StoneState.STALE
    assert words in changed.reason


def test_the_wired_stone_fails_when_a_check_says_no() -> None:
    facts = replace(
        SIGNED, wiring=WiringFacts(WIRES, ("ECHO puts 5 V on a 3.3 V pin.",), steps=6, done=6)
    )
    failing = stone(facts, "wired")
    assert failing.state == StoneState.FAILING
    assert failing.reason == "ECHO puts 5 V on a 3.3 V pin."


def test_a_wire_that_is_wrong_fails_before_anything_is_strung() -> None:
    wrong = WiringFacts(WIRES, ("ECHO puts 5 V on a 3.3 V pin.",), ("no ground",))
    failing = stone(replace(DONE, wired=None, wiring=wrong), "wired")
    assert failing.state == StoneState.FAILING
    assert failing.short == "a check says no"


def test_a_wire_that_is_missing_fails_only_once_stringing_has_begun() -> None:
    gap = WiringFacts({"board": WIRES["board"]}, gaps=("no supply",), steps=6)
    planned = stone(replace(DONE, wired=None, wiring=gap), "wired")
    assert (planned.state, planned.reason) == (StoneState.HOLLOW, "no supply")
    begun = stone(replace(DONE, wired=None, wiring=replace(gap, done=2)), "wired")
    assert (begun.state, begun.reason) == (StoneState.FAILING, "no supply")
    sound = replace(DONE, wired=None, wiring=replace(gap, gaps=(), done=2))
    assert stone(sound, "wired").short == "2 of 6"


def test_a_wiring_taken_off_whole_after_it_was_noted_fails() -> None:
    gone = WiringFacts({"board": WIRES["board"]}, gaps=("no supply",))
    assert stone(replace(SIGNED, wiring=gone), "wired").state == StoneState.FAILING


def test_a_sign_off_from_before_wires_were_kept_still_holds() -> None:
    facts = replace(DONE, wiring=WiringFacts({"board": "any"}, gaps=("no supply",)))
    assert stone(facts, "wired").state == StoneState.TICKED


def test_a_wire_that_is_wrong_comes_before_all_else() -> None:
    """Whatever is heard over it is worth little, so it outranks what is heard badly."""
    ticked = Stone(WorkStage.WIRED, StoneState.TICKED, "", "")
    deaf = Stone(WorkStage.HEARD, StoneState.FAILING, "", "")
    wrong = Stone(WorkStage.WIRED, StoneState.FAILING, "", "")
    cracked = Stone(WorkStage.WIRED, StoneState.STALE, "", "")
    heard = Stone(WorkStage.HEARD, StoneState.TICKED, "", "")
    found = next_stone([(ticked, deaf), (wrong, heard)])
    assert found is not None
    assert (found.sensor, found.stone) == (1, wrong)
    found = next_stone([(ticked, deaf), (cracked, heard)])
    assert found is not None
    assert (found.sensor, found.stone) == (0, deaf)


def test_tuned_cracks_when_delays_or_geometry_are_others() -> None:
    moved = replace(RULE, moved=("other delays", "One turn took 20 ms, and takes 90 ms now."))
    tuned = stone(replace(DONE, rules=(moved,)), "tuned")
    assert (tuned.state, tuned.short) == (StoneState.STALE, "other delays")


def test_driven_names_the_run_that_bears_it_out() -> None:
    run = replace(DONE.driven, grounds={"run": "“round the yard”", "off": ""})
    driven = stone(replace(DONE, driven=run), "driven")
    assert driven.state is StoneState.TICKED
    assert "“round the yard”" in driven.reason


def test_driven_is_not_ticked_by_a_run_that_was_not_as_told() -> None:
    off = "In its run it ran on after it said stop 0.40 m; 0.15 m was told."
    run = replace(DONE.driven, grounds={"run": "“r”", "off": off})
    driven = stone(replace(DONE, driven=run), "driven")
    assert (driven.state, driven.reason) == (StoneState.STALE, off)
