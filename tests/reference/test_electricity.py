"""Parts against the outside: E series, colour bands, UM10204, and a circuit solved another way."""

from __future__ import annotations

import itertools
import math

import eseries
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from resistors import Resistor
from scipy.optimize import brentq
from scipy.sparse import lil_matrix
from scipy.sparse.linalg import spsolve

from tickstone.core.electric.colour_bands import bands_for, read_bands
from tickstone.core.electric.ladder import Rung, Source, along, corners
from tickstone.core.electric.preferred_values import SERIES, nearest, next_down, next_up
from tickstone.core.electric.pull_up import I2C_MODES, RISE_10_90, RISE_30_70, mode_for, window
from tickstone.core.part_benches.led_resistor import LedResistorBench
from tickstone.core.part_benches.photo_load import COLLECTOR, EMITTER, PhotoLoadBench

ohms = st.floats(0.5, 9e6)
reference_series = {"E6": eseries.E6, "E12": eseries.E12, "E24": eseries.E24}


@pytest.mark.parametrize("name", SERIES)
def test_the_series_are_those_of_the_reference_package(name: str) -> None:
    """IEC 60063 by way of the package `eseries`."""
    ours = [step / 100.0 for step in SERIES[name]]
    theirs = [value / 10.0 for value in eseries.series(reference_series[name])]
    assert ours == pytest.approx(theirs)


@given(ohms, st.sampled_from(sorted(SERIES)))
def test_rounding_is_that_of_the_reference_package(value: float, name: str) -> None:
    key = reference_series[name]
    assert next_up(value, name) == pytest.approx(eseries.find_greater_than_or_equal(key, value))
    assert next_down(value, name) == pytest.approx(eseries.find_less_than_or_equal(key, value))
    assert next_down(value, name) <= nearest(value, name) <= next_up(value, name)


BRITISH = {"gray": "grey"}


def test_bands_are_those_of_the_reference_package() -> None:
    """IEC 60062 by way of the package `resistors`, for four bands: every value it can show."""
    for step, power, (tolerance, percent) in itertools.product(
        SERIES["E24"], range(-2, 6), [(0.05, 5.0), (0.10, 10.0), (0.01, 1.0)]
    ):
        ohm = float(f"{step}e{power - 1}")
        bands = bands_for(ohm, tolerance)
        theirs = Resistor(*("gray" if one == "grey" else one for one in bands)).get_resistance()
        assert theirs["value"] == pytest.approx(ohm), bands
        assert theirs["tolerance"] == percent, bands
        assert read_bands(bands).ohm == pytest.approx(ohm), bands


@given(st.integers(100, 999), st.integers(-3, 6), st.sampled_from([0.01, 0.02, 0.005, 0.05]))
def test_five_bands_read_back(figures: int, power: int, tolerance: float) -> None:
    ohm = float(f"{figures}e{power}")
    reading = read_bands(bands_for(ohm, tolerance, digits=3))
    assert reading.ohm == pytest.approx(ohm)
    assert reading.tolerance == tolerance


@pytest.mark.parametrize(
    ("bands", "words"),
    [
        (("red", "red"), "3 to 6 bands"),
        (("gold", "red", "red", "gold"), "band 1 is gold"),
        (("red", "red", "mauve", "gold"), "band 3 is mauve"),
        (("red", "red", "red", "white"), "band 4 is white"),
        (("black", "black", "red", "gold"), "0 Ω"),
    ],
)
def test_bands_that_cannot_be(bands: tuple[str, ...], words: str) -> None:
    with pytest.raises(ValueError, match=words):
        read_bands(bands)


def test_the_limits_of_um10204() -> None:
    """UM10204 rev. 7, tables 10 and 11 and §7.1: t_r, I_OL, C_b by mode."""
    by_name = {mode.name: mode for mode in I2C_MODES}
    assert (by_name["standard"].rise_s, by_name["standard"].capacitance_f) == (1e-6, 400e-12)
    assert (by_name["fast"].rise_s, by_name["fast"].sink_a) == (300e-9, 3e-3)
    assert (by_name["fast plus"].rise_s, by_name["fast plus"].sink_a) == (120e-9, 20e-3)
    assert by_name["fast plus"].capacitance_f == 550e-12
    # "t = 0.8473 × R_p × C_b" (§7.1)
    assert pytest.approx(0.8473, abs=5e-5) == RISE_30_70
    assert mode_for(100_000.0) is by_name["standard"]
    assert mode_for(100_001.0) is by_name["fast"]
    assert mode_for(1_000_001.0) is None
    # 5 V, 0.4 V at 3 mA: 1.53 kΩ; 400 pF at 300 ns: 885 Ω.
    tight = window(5.0, 0.4, 3e-3, 300e-9, 400e-12)
    assert tight.least_ohm == pytest.approx(1_533.3, abs=0.1)
    assert tight.most_ohm == pytest.approx(885.2, abs=0.1)
    assert tight.is_empty


def test_the_working_of_um10204() -> None:
    """UM10204 rev. 7, §7.1: V(t) = V_DD(1 − e^(−t/RC)) from 0.3 to 0.7 V_DD, step by step."""
    t1, t2 = (-math.log(1.0 - share) for share in (0.3, 0.7))
    assert t1 == pytest.approx(0.3566749, abs=2e-7)
    assert t2 == pytest.approx(1.2039729, abs=2e-7)
    assert t2 - t1 == pytest.approx(RISE_30_70, rel=1e-12)
    # The least resistor at the supply's greatest: (5.5 V − 0.4 V)/3 mA.
    assert window(5.5, 0.4, 3e-3, 1e-6, 400e-12).least_ohm == pytest.approx(1_700.0)


@given(st.floats(100, 1e6), st.floats(1e-12, 1e-9))
def test_rise_times_against_the_charging_curve(ohm: float, farad: float) -> None:
    """The factors against the exponential itself, solved for its crossing times."""

    def time_to(share: float) -> float:
        tau = ohm * farad
        return float(brentq(lambda t: 1.0 - math.exp(-t / tau) - share, 0.0, 50.0 * tau))

    assert time_to(0.7) - time_to(0.3) == pytest.approx(RISE_30_70 * ohm * farad, rel=1e-6)
    assert time_to(0.9) - time_to(0.1) == pytest.approx(RISE_10_90 * ohm * farad, rel=1e-6)


rungs = st.lists(
    st.builds(Rung, st.floats(1.0, 1e6), st.one_of(st.none(), st.sampled_from([0.0, 3.3, 5.0]))),
    max_size=6,
)


def nodal(source: Source, ladder: list[Rung]) -> float:
    """The same circuit as nodes and conductances, solved by a sparse LU (SciPy)."""
    # Node 0 behind the source's resistance; each series rung opens a new node.
    conductances: list[tuple[int, int | None, float, float]] = []
    node, count = 0, 1
    conductances.append((0, None, 1.0 / source.ohm, source.volts))
    for rung in ladder:
        if rung.to_volts is None:
            conductances.append((node, count, 1.0 / rung.ohm, 0.0))
            node, count = count, count + 1
        else:
            conductances.append((node, None, 1.0 / rung.ohm, rung.to_volts))
    matrix, right = lil_matrix((count, count)), np.zeros(count)
    for one, other, g, volts in conductances:
        matrix[one, one] += g
        if other is None:
            right[one] += g * volts
        else:
            matrix[other, other] += g
            matrix[one, other] -= g
            matrix[other, one] -= g
    return float(np.atleast_1d(spsolve(matrix.tocsr(), right))[node])


@given(st.floats(0.0, 12.0), st.floats(0.1, 1e5), rungs)
def test_the_ladder_against_a_nodal_solve(volts: float, ohm: float, ladder: list[Rung]) -> None:
    source = Source(volts, ohm)
    assert along(source, ladder).volts == pytest.approx(nodal(source, ladder), rel=1e-7, abs=1e-7)


@given(st.floats(0.5, 12.0), rungs, st.integers(0, 2**32 - 1))
def test_no_draw_of_tolerances_leaves_the_corners(
    volts: float, ladder: list[Rung], seed: int
) -> None:
    loose = [Rung(rung.ohm, rung.to_volts, 0.05, 0.02) for rung in ladder]
    source = Source(volts, 10.0, 0.05)
    low, high = corners(source, loose)
    rng = np.random.default_rng(seed)
    for _ in range(20):
        drawn = [
            Rung(
                rung.ohm * rng.uniform(0.95, 1.05),
                None if rung.to_volts is None else rung.to_volts * rng.uniform(0.98, 1.02),
            )
            for rung in ladder
        ]
        one = along(Source(volts * rng.uniform(0.95, 1.05), 10.0), drawn).volts
        assert low - 1e-9 <= one <= high + 1e-9


@given(
    st.floats(2.0, 12.0),
    st.floats(5e-6, 3e-3),
    st.sampled_from([470.0, 4_700.0, 22_000.0]),
    st.sampled_from([COLLECTOR, EMITTER]),
)
def test_the_photo_load_against_its_load_line(
    supply_v: float, white_a: float, ohm: float, side: str
) -> None:
    """A transistor whose knee is a millivolt wide, met with its load line by a root finder."""
    saturation_v, knee_v = 0.3, 1e-3
    bench = PhotoLoadBench(supply_v, white_a * 1e6, 0.0, 0.0, saturation_v, 80.0, side, ohm)
    worked = {one.name: one.value for one in bench.work().results}

    def beyond(across_v: float) -> float:
        passed = white_a * (1.0 - math.exp(-max(0.0, across_v - saturation_v) / knee_v))
        return (supply_v - across_v) / ohm - passed

    across_v = float(brentq(beyond, saturation_v, supply_v))
    expected = across_v if side == COLLECTOR else supply_v - across_v
    assert worked["over white"] == pytest.approx(expected, abs=0.03)


@given(st.floats(3.3, 12.0), st.floats(2.0, 20.0))
def test_the_led_resistor_against_an_exponential_diode(supply_v: float, current_ma: float) -> None:
    """An LED of 2 V at the wanted current and 50 mV for each factor e: within the stated doubt."""
    bench = LedResistorBench(supply_v, 2.0, current_ma)
    worked = bench.work()
    resistor, current = worked.results[0], worked.results[1]
    knee_v, wanted_a = 0.05, current_ma * 1e-3

    def beyond(passed_a: float) -> float:
        forward_v = 2.0 + knee_v * math.log(passed_a / wanted_a)
        return supply_v - forward_v - passed_a * resistor.value

    passed_a = float(brentq(beyond, wanted_a * 1e-6, wanted_a * 10.0))
    assert passed_a == pytest.approx(current.value, abs=3.0 * current.u)
    assert passed_a <= wanted_a * (1.0 + 1e-9), "the next value up never asks for more"
