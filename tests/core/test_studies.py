"""The height study: led, refused where a cell says nothing, and what it says of the best height."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tickstone.core.chains.reflectance import ReflectanceParameters
from tickstone.core.inputs import with_inputs
from tickstone.core.models.reflective import ReflectiveRow, Scene
from tickstone.core.quantity import COUNTS, VOLTAGE
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.studies.angle import AngleStudy
from tickstone.core.studies.board_check import BoardCheck, BoardPlan
from tickstone.core.studies.height import HeightPlan, HeightStudy
from tickstone.core.studies.kind import Taken
from tickstone.core.studies.load import LoadStudy

STUDY = HeightStudy()
SETTINGS = ReflectanceParameters(line_m=0.038, pitch_m=0.019)
ROW = ReflectiveRow((-38.0, -19.0, 0.0, 19.0, 38.0))
FIVE = COUNTS.in_lanes(*"12345")


def cell_signal(
    height_mm: float, is_lit: bool, ambient: float = 0.12, drift: float = 0.0
) -> Signal:
    rng = np.random.default_rng(round(height_mm * 10))
    n = 150
    times = np.cumsum(rng.normal(0.04, 0.002, n))  # a mains lamp flickers between
    line = (
        np.interp(np.arange(n), [0, n // 2, n - 1], [-72, 72, -72]) if is_lit else np.full(n, -120)
    )
    scenes = [
        Scene(float(x), 38.0, height_mm, ambient=ambient, lamp=1.0 if is_lit else 0.0) for x in line
    ]
    counts = ROW.along(scenes, times, rng) + drift
    return Signal.of(times, counts, FIVE)


def taken_all(plan: HeightPlan, **scene) -> dict[str, Taken]:
    return {
        cell.key: STUDY.take(cell, cell_signal(1000 * cell.level, cell.is_lit, **scene), SETTINGS)
        for cell in STUDY.cells(plan)
    }


def test_the_plan_sets_each_height_once_and_comes_back_to_the_first() -> None:
    cells = STUDY.cells(HeightPlan())
    assert [cell.says for cell in cells][:3] == [
        "3 mm, lamps on", "3 mm, lamps off", "6 mm, lamps on",
    ]  # fmt: skip
    assert len(cells) == 11
    assert cells[-1].says == "3 mm, again, lamps on"
    assert len({cell.key for cell in cells}) == 11


def test_the_best_height_is_neither_too_low_nor_too_high() -> None:
    plan = HeightPlan(levels=(0.0015, 0.003, 0.006, 0.009, 0.014))
    told = STUDY.outcome(plan, taken_all(plan))
    assert told.best in (0.003, 0.006)
    assert told.flat is not None
    assert told.flat[0] <= told.best <= told.flat[1]
    by_level = {row.level: row for row in told.rows}
    assert by_level[0.0015].d_prime < by_level[told.best].d_prime
    assert by_level[0.014].d_prime < 0.5 * by_level[told.best].d_prime
    rooms = [row.room_share for row in told.rows if row.room_share is not None]
    assert rooms[-1] == max(rooms)
    assert rooms[1:] == sorted(rooms[1:])  # lowest, there is hardly any light of its own
    assert "mm off costs up to" in told.cost


def test_bright_rooms_and_drift_are_said() -> None:
    plan = HeightPlan(levels=(0.006, 0.012))
    bright = STUDY.outcome(plan, taken_all(plan, ambient=0.45))
    assert any("of the light at 12 mm" in one.title for one in bright.findings)
    taken = taken_all(plan)
    again = next(cell for cell in STUDY.cells(plan) if "again" in cell.key)
    taken[again.key] = STUDY.take(again, cell_signal(6.0, True, drift=80.0), SETTINGS)
    drifted = STUDY.outcome(plan, taken)
    assert any("drifted by" in one.title for one in drifted.findings)


@pytest.mark.parametrize(
    ("quantity", "scale", "settings"),
    [
        (COUNTS, 1.0, SETTINGS),
        (COUNTS, 4095.0 / 1023.0, replace(SETTINGS, bits=12)),
        (COUNTS, 0.4, SETTINGS),  # never near the end of the converter
        (VOLTAGE, 5.0 / 1023.0, SETTINGS),
        (VOLTAGE, 3.3 / 1023.0, replace(SETTINGS, reference_v=3.3)),
    ],
)
def test_the_rooms_share_is_told_from_where_no_light_would_read(quantity, scale, settings) -> None:
    """In counts of any converter and in volts alike: the same light, the same share."""
    plan = HeightPlan(levels=(0.009, 0.012))
    rail = 1023.0 * scale
    end = 2.0**settings.bits - 1.0 if quantity is COUNTS else settings.reference_v
    taken = {}
    for cell in STUDY.cells(plan):
        raw = cell_signal(1000 * cell.level, cell.is_lit)
        values = end - (rail - raw.values * scale)  # the same light below whatever the end is
        signal = Signal.of(raw.time_s, values, quantity.in_lanes(*"12345"))
        taken[cell.key] = STUDY.take(cell, signal, settings)
    shares = [row.room_share for row in STUDY.outcome(plan, taken).rows]
    usual = [row.room_share for row in STUDY.outcome(plan, taken_all(plan)).rows]
    assert shares == pytest.approx(usual, rel=0.02)
    assert 0.01 < usual[0] < usual[1] < 0.5


def test_a_converter_that_stands_at_its_end_is_a_dead_sensor() -> None:
    check = BoardCheck()
    cells = {cell.key: cell for cell in check.cells(BoardPlan())}
    rng = np.random.default_rng(8)
    taken = {}
    for key, level in (("floor", 300.0), ("lifted", 900.0)):
        values = level + rng.normal(0.0, 3.0, (5, 80))
        status = np.zeros((5, 80), dtype=np.uint8)
        values[2] = 1023.0 - (np.arange(80) % 2)  # not without a count of noise
        status[2] = Status.CLIPPED
        taken[key] = check.take(
            cells[key], Signal.of(np.arange(80.0), values, FIVE, status), SETTINGS
        )
    titles = [one.title for one in check.outcome(BoardPlan(), taken).findings]
    assert titles == ["Sensor 3 is dead."]


def test_lamps_that_were_not_put_out_are_not_called_the_room() -> None:
    plan = HeightPlan(levels=(0.006, 0.012))
    lit = cell_signal(6.0, True)
    heaps = STUDY.take(STUDY.cells(plan)[0], lit, SETTINGS).heaps
    over_white = np.array([one.light.mean for one in heaps])[:, None]
    noise = np.random.default_rng(5).normal(0.0, 2.0, (5, 120))
    held = Signal.of(np.arange(120) * 0.04, over_white + noise, FIVE)
    taken = {
        cell.key: STUDY.take(cell, lit if cell.is_lit else held, SETTINGS)
        for cell in STUDY.cells(plan)
    }
    titles = [one.title for one in STUDY.outcome(plan, taken).findings]
    assert "With lamps off it reads as with lamps on, at 6 mm." in titles
    assert not any(one.startswith("The room gives") for one in titles)


def test_half_a_study_says_what_is_missing() -> None:
    plan = HeightPlan()
    assert STUDY.outcome(plan, {}).says == "Nothing is taken yet."
    taken = taken_all(plan)
    some = {key: taken[key] for key in ("0.006 on", "0.009 on")}
    told = STUDY.outcome(plan, some)
    assert "3 of 5 levels are not taken yet" in told.says
    assert told.says.startswith("Best so far at")
    assert all(row.room_share is None for row in told.rows)


def test_merged_heaps_are_a_result_and_one_surface_is_none() -> None:
    plan = HeightPlan(levels=(0.006, 0.03))
    cells = {cell.key: cell for cell in STUDY.cells(plan)}
    far = STUDY.take(cells["0.03 on"], cell_signal(30.0, True, ambient=0.8), SETTINGS)
    near = STUDY.take(cells["0.006 on"], cell_signal(6.0, True), SETTINGS)
    told = STUDY.outcome(plan, {"0.03 on": far, "0.006 on": near})
    assert told.best == 0.006
    assert told.rows[-1].d_prime == 0.0
    none = STUDY.outcome(plan, {"0.03 on": far})
    assert none.says.startswith("None of them will do")
    with pytest.raises(ValueError, match="samples are too few"):
        STUDY.take(cells["0.006 on"], cell_signal(6.0, True).between(0, 8), SETTINGS)
    still = Signal.of(np.arange(99) * 0.04, np.full((5, 99), 300.0), FIVE)
    with pytest.raises(ValueError, match="every sample is the same"):
        STUDY.take(cells["0.006 on"], still, SETTINGS)
    moved = Signal.of(np.arange(99) * 0.04, np.full((5, 99), 900.0) - np.arange(99), FIVE)
    with pytest.raises(ValueError, match="hold it still"):
        STUDY.take(cells["0.006 off"], moved, SETTINGS)
    with pytest.raises(ValueError, match="hold it still"):
        STUDY.take(cells["0.006 off"], cell_signal(6.0, True), SETTINGS)


@pytest.mark.parametrize("study", [HeightStudy(), AngleStudy(), LoadStudy()])
def test_plans_that_cannot_be_are_refused(study) -> None:
    usual = with_inputs(study.plan, {})
    assert len(study.cells(usual)) >= len(usual.levels)
    for levels in ([usual.levels[0]], [usual.levels[0]] * 2, []):
        with pytest.raises(ValueError, match="two at least"):
            with_inputs(study.plan, {"levels": levels})


def board(**faults) -> list[str]:
    """What the board check finds on a row with faults: its findings, as titles."""
    check = BoardCheck()
    models = list(ROW.models)
    for place in faults.get("dead", ()):
        models[place] = replace(models[place], is_dead=True)
    for place in faults.get("unlit", ()):
        models[place] = replace(models[place], is_lit=False)
    order = faults.get("order", (0, 1, 2, 3, 4))
    height = faults.get("height", (6.0,) * 5)
    rng = np.random.default_rng(3)
    times = np.cumsum(rng.normal(0.02, 0.001, 200))

    def counts(line, lift: float = 0.0) -> Signal:
        told = np.array(
            [
                [
                    models[n].counts(Scene(float(x), 38.0, height[n] + lift, 0.1), float(t), rng)
                    for n in order
                ]
                for x, t in zip(line, times, strict=True)
            ],
            dtype=float,
        ).T
        for place in faults.get("reversed", ()):
            told[place] = 1023.0 - told[place]
        return Signal.of(times, told, FIVE)

    signals = {
        "floor": counts(np.full(200, -200.0)),
        "lifted": counts(np.full(200, -200.0), 80.0),
        "pass": counts(np.linspace(-80.0, 80.0, 200)),
    }
    taken = {
        cell.key: check.take(cell, signals[cell.key], SETTINGS) for cell in check.cells(BoardPlan())
    }
    return [one.title for one in check.outcome(BoardPlan(), taken).findings]


@pytest.mark.parametrize(
    ("faults", "title"),
    [
        ({"dead": [1]}, "Sensor 2 is dead."),
        ({"unlit": [3]}, "Sensor 4 gets no light."),
        ({"reversed": [2]}, "Sensor 3 is reversed."),
        ({"order": (0, 3, 2, 1, 4)}, "Sensors 2 and 4 are swapped."),
        ({"order": (4, 3, 2, 1, 0)}, "The row is left for right."),
        ({"height": (6.0, 7.5, 9.0, 10.5, 12.0)}, "The row sits askew: its right is farther"),
    ],
)
def test_the_board_check_names_the_fault(faults, title) -> None:
    found = board(**faults)
    assert any(one.startswith(title) for one in found), found


def test_a_sound_board_is_called_sound_only_once_all_is_taken() -> None:
    assert board() == []
    check = BoardCheck()
    assert "3 of 3 are not taken yet" in check.outcome(BoardPlan(), {}).says
