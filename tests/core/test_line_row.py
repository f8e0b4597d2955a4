"""A row of sensors over a line: its place with a ± that holds, its situations, its states."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.black_white import BlackWhiteKind
from tickstone.core.calibration.kind import Span
from tickstone.core.chains.reflectance import Reflectance, ReflectanceParameters
from tickstone.core.line_row import Row, even_places_m
from tickstone.core.quantity import COUNTS, LIGHTNESS
from tickstone.core.signal import Signal
from tickstone.core.stages.lane_state import LaneState
from tickstone.core.stages.lightness import Lightness, Surfaces
from tickstone.core.stages.line_situation import SITUATION
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

HERE = Surroundings(AirConditions(20.0))
KIND = Reflectance()
ROWS = [(5, 0.019, 0.038, 0.006), (8, 0.010, 0.019, 0.008), (3, 0.012, 0.019, 0.010)]


def lanes(count: int) -> list[str]:
    return [str(n + 1) for n in range(count)]


def counts_over(row: Row, line_m, noise: float, rng: np.random.Generator) -> np.ndarray:
    """Counts of sensors that read 200 on white and 800 on black."""
    return 200.0 + 600.0 * row.covered(line_m) + rng.normal(0.0, noise, row.covered(line_m).shape)


def waved(count: int, row: Row, noise: float, rng: np.random.Generator) -> Signal:
    reach = row.places_m[-1] + 1.2 * row.reach_m
    line = np.interp(np.arange(600), [0, 290, 310, 599], [-reach, reach, reach, -reach])
    counts = np.rint(counts_over(row, line, noise, rng))
    return Signal.of(np.arange(600) * 0.01, counts, COUNTS.in_lanes(*lanes(count)))


def chain_of(count: int, parameters: ReflectanceParameters, known):
    return KIND.build(parameters, HERE, {"black-white": known}, lanes={"light": count})


def test_the_stated_ninety_five_per_cent_hold() -> None:
    """Lines anywhere under the row, black and white learnt by a noisy wave: JCGM 101 in small."""
    rng = np.random.default_rng(12)
    held = trials = 0
    for count, pitch, line, spot in ROWS:
        row = Row(even_places_m(count, pitch), line, spot)
        parameters = ReflectanceParameters(pitch_m=pitch, line_m=line, spot_m=spot)
        for _ in range(5):
            fit = BlackWhiteKind().fit([Span("wave", waved(count, row, 6.0, rng))], parameters)
            chain = chain_of(count, parameters, BlackWhiteKind().stage(fit, True, "wave"))
            reach = row.places_m[-1] + row.reach_m
            truth = rng.uniform(-reach, reach, 100)
            counts = counts_over(row, truth, 6.0, rng)
            signal = Signal.of(np.arange(100) * 0.01, counts, COUNTS.in_lanes(*lanes(count)))
            told = chain.apply(signal, "position")
            for index in np.flatnonzero(told.ok).tolist():
                step = chain.explain(signal, index, "position")[-1]
                trials += 1
                held += abs(step.value - truth[index]) <= 2.0 * step.u
    assert trials > 1_300
    assert 0.93 <= held / trials <= 0.97


@pytest.mark.parametrize(("count", "pitch", "line", "spot"), ROWS)
@given(place=st.floats(-0.012, 0.012))
def test_a_millimetre_of_strip_is_a_millimetre_of_place_within_its_doubt(
    count, pitch, line, spot, place
) -> None:
    row = Row(even_places_m(count, pitch), line, spot)
    parameters = ReflectanceParameters(pitch_m=pitch, line_m=line, spot_m=spot)
    chain = chain_of(count, parameters, Lightness((Surfaces(800.0, 200.0, 3.0, 3.0),) * count))
    line_m = np.array([place, place + 0.001])
    counts = 200.0 + 600.0 * row.covered(line_m)
    signal = Signal.of([0.0, 0.01], counts, COUNTS.in_lanes(*lanes(count)))
    steps = [chain.explain(signal, index, "position")[-1] for index in (0, 1)]
    moved = steps[1].value - steps[0].value
    assert moved >= -1e-6
    # What lies between two sensors is told by its middle, 95 of 100 of it within the ±; on either
    # side of it they are off the other way, so that their ± add up, and not in quadrature.
    assert abs(moved - 0.001) <= 1.1 * 2.0 * (steps[0].u + steps[1].u)


def test_a_light_line_and_a_row_that_is_mounted_the_other_way_round() -> None:
    row = Row(even_places_m(5, 0.019), 0.03, 0.01)
    dark = counts_over(row, 0.02, 0.0, np.random.default_rng(1))
    known = Lightness((Surfaces(800.0, 200.0, 3.0, 3.0),) * 5)
    usual = ReflectanceParameters(pitch_m=0.019, line_m=0.03, spot_m=0.01)
    names = COUNTS.in_lanes(*lanes(5))

    def place(counts, parameters) -> float:
        signal = Signal.of([0.0], counts[:, np.newaxis], names)
        return float(chain_of(5, parameters, known).apply(signal, "position").value[0])

    right = place(dark, usual)
    assert right == pytest.approx(0.02, abs=0.004)
    assert place(1000.0 - dark, replace(usual, line_is="light")) == pytest.approx(right, abs=1e-9)
    assert place(dark, replace(usual, first_is="right")) == pytest.approx(-right, abs=1e-9)
    moved = replace(usual, middle_m=0.005)
    assert place(dark, moved) == pytest.approx(right + 0.005, abs=1e-9)
    uneven = replace(usual, places_m=(-0.05, -0.02, 0.0, 0.02, 0.05))
    assert place(dark, uneven) == pytest.approx(0.02, abs=0.02)


def test_lost_crossing_bar_lifted_and_flooded_are_told() -> None:
    row = Row(even_places_m(5, 0.019), 0.019, 0.006)
    white, black = np.full(5, 200.0), np.full(5, 800.0)
    scenes = (
        [counts_over(row, x, 0.0, np.random.default_rng(0)) for x in (0.0, -0.03)]
        + [white] * 3
        + [counts_over(row, 0.0, 0.0, np.random.default_rng(0))]
        + [black] * 8
        + [np.full(5, 1023.0)]
        + [np.array([10.0, 200.0, 800.0, 200.0, 200.0])]
    )
    signal = Signal.of(np.arange(len(scenes)) * 0.1, np.array(scenes).T, COUNTS.in_lanes(*lanes(5)))
    parameters = ReflectanceParameters(
        pitch_m=0.019, line_m=0.019, bar_after_s=0.3, saturated_v=0.0
    )
    chain = chain_of(5, parameters, Lightness((Surfaces(800.0, 200.0, 3.0, 3.0),) * 5))
    seen = [SITUATION.states[int(x)].name for x in chain.apply(signal, "situation").value]
    assert seen == (
        ["line", "line", *3 * ["lost_left"], "line"]
        + 4 * ["crossing"] + 4 * ["bar"] + ["lifted", "line"]
    )  # fmt: skip
    flags = [Status(int(x)) for x in chain.apply(signal, "position").flag]
    assert flags[2] == Status.LOST
    assert flags[6] == Status.ALL_ON_LINE
    assert flags[-2] == Status.LIFTED
    assert flags[-1] == Status.FLOODED
    light = chain.apply(signal, "lightness")
    assert Status(int(light.status[0, -1])) == Status.FLOODED
    assert Status(int(light.status[0, -2])) == Status.TOO_DARK


def test_nothing_is_claimed_while_black_and_white_are_not_known() -> None:
    signal = Signal.of([0.0, 0.1], np.full((5, 2), 400.0), COUNTS.in_lanes(*lanes(5)))
    chain = KIND.build(ReflectanceParameters(), HERE, lanes={"light": 5})
    assert np.isnan(chain.apply(signal, "position").value).all()
    assert (chain.apply(signal, "position").flag == Status.UNCALIBRATED).all()
    assert SITUATION.states[int(chain.apply(signal, "situation").value[0])].name == "blind"
    volts = chain.apply(signal, "volts")
    assert volts.values[:, 0] == pytest.approx(400.5 * 5 / 1024)


def test_a_single_sensor_has_lightness_and_no_place() -> None:
    known = Lightness((Surfaces(800.0, 200.0, 3.0, 3.0),))
    chain = KIND.build(ReflectanceParameters(), HERE, {"black-white": known}, lanes={"light": 1})
    assert [name for name, _ in chain.outputs] == ["lightness", "state", "volts"]
    assert KIND.headline(chain).name == "lightness"
    percent = KIND.build(
        ReflectanceParameters(), HERE, forms={"light": "percent"}, lanes={"light": 1}
    )
    told = percent.apply(Signal.of([0, 1], [[0.17, 0.67]], percent.inputs[0].quantity), "lightness")
    assert told.value.tolist() == pytest.approx([0.17, 0.67])


@pytest.mark.parametrize(("more_light", "dark"), [("lower", [1.0, 0.0]), ("higher", [0.0, 1.0])])
def test_a_comparator_tells_by_its_level_alone(more_light: str, dark: list[float]) -> None:
    parameters = ReflectanceParameters(more_light=more_light)
    chain = KIND.build(parameters, HERE, forms={"light": "level"}, lanes={"light": 1})
    level = Signal.of([0, 1], [[1.0, 0.0]], chain.inputs[0].quantity)
    assert chain.apply(level, "state").value.tolist() == dark


@given(
    st.lists(st.floats(0.0, 1.0), min_size=2, max_size=60),
    st.floats(0.2, 0.8),
    st.floats(0.0, 0.2),
)
def test_hysteresis_never_chatters_inside_its_band(lightness, at, half) -> None:
    stage = LaneState((at,), (half,))
    signal = Signal.of(range(len(lightness)), lightness, LIGHTNESS)
    states, _ = stage.run(stage.begin(), signal)
    for before, after, value in zip(states.value, states.value[1:], lightness[1:], strict=False):
        if at - half <= value <= at + half:
            assert after == before
        else:
            assert after == float(value < at - half)


def test_places_that_do_not_rise_are_refused() -> None:
    with pytest.raises(ValueError, match="rise"):
        ReflectanceParameters(places_m=(0.0, 0.02, 0.01))


def test_places_of_another_row_leave_everything_but_the_place() -> None:
    known = Lightness((Surfaces(800.0, 200.0),) * 5)
    chain = chain_of(5, ReflectanceParameters(places_m=(0.0, 0.01)), known)
    assert {"lightness", "state", "volts", "position"} == {name for name, _ in chain.outputs}
    counts = Signal.of([0.0, 1.0], np.full((5, 2), 500.0), COUNTS.in_lanes(*"12345"))
    place = chain.apply(counts, "position")
    assert set(place.flag.tolist()) == {Status.UNPLACED}
    assert np.isnan(place.value).all()
    assert chain.apply(counts, "lightness").ok.all()
    last = chain.explain({"light": counts}, 1, "position")[-1]
    assert last.filled == "2 places, 5 sensors"


def test_black_and_white_of_another_row_are_refused() -> None:
    chain = chain_of(5, ReflectanceParameters(), Lightness((Surfaces(800.0, 200.0),) * 3))
    with pytest.raises(ValueError, match="known of 3 sensors, but 5"):
        chain.quantity_of("lightness")
