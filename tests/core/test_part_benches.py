"""The parts benches: check values, uncertainty against Monte Carlo, and bad inputs."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.core.inputs import inputs_of, with_inputs
from tickstone.core.part_benches import PART_BENCHES
from tickstone.core.part_benches.bench import PartBench, Result
from tickstone.core.part_benches.commutation import ELECTRICAL_60, ELECTRICAL_120, valid_spacings
from tickstone.core.part_benches.values import part_value, short_value


def results(name: str, **inputs: float | str) -> dict[str, float]:
    worked = with_inputs(PART_BENCHES[name], inputs).work()
    return {one.name: one.value for one in worked.results}


def titles(name: str, **inputs: float | str) -> str:
    worked = with_inputs(PART_BENCHES[name], inputs).work()
    return " ".join(finding.title for finding in worked.findings)


@pytest.mark.parametrize("kind", PART_BENCHES.values(), ids=lambda kind: kind.name)
def test_every_bench_works_as_it_opens_and_shows_its_working(kind: type[PartBench]) -> None:
    worked = kind().work()
    assert worked.steps
    assert worked.results
    for step in worked.steps:
        assert step.formula
        assert step.source
        assert math.isfinite(step.value)
    for one in worked.results:
        assert one.text


@pytest.mark.parametrize("kind", PART_BENCHES.values(), ids=lambda kind: kind.name)
def test_an_input_out_of_its_span_is_refused_by_name(kind: type[PartBench]) -> None:
    for one in inputs_of(kind):
        bad: float | str = 1e300 if one.high is not None else "nonsense " * 60
        with pytest.raises(ValueError, match=f"^{one.name}"):
            with_inputs(kind, {one.name: bad})
        with pytest.raises(ValueError, match=f"^{one.name}"):
            with_inputs(kind, {one.name: 1.0 if isinstance(bad, str) else "words"})
    with pytest.raises(ValueError, match="no such input"):
        with_inputs(kind, {"__class__": 1.0})


def test_led_resistor() -> None:
    got = results("led-resistor", supply_v=5.0, forward_v=2.0, current_ma=15.0)
    assert got["resistor"] == 220.0
    assert got["current"] == pytest.approx(3.0 / 220.0)
    assert got["heat"] == pytest.approx(9.0 / 220.0)
    assert results("led-resistor", current_ma=14.0, series="E24")["resistor"] == 220.0
    assert results("led-resistor", current_ma=15.0, series="E24")["resistor"] == 200.0
    with pytest.raises(ValueError, match="cannot light"):
        results("led-resistor", supply_v=1.5)
    assert "heat" in titles("led-resistor", supply_v=24.0, current_ma=50.0)


def test_an_uncertainty_budget_against_a_monte_carlo_run() -> None:
    worked = with_inputs(PART_BENCHES["led-resistor"], {}).work()
    current = next(step for step in worked.steps if step.stage == "current")
    rng = np.random.default_rng(4)
    n = 400_000
    supply = 5.0 * rng.uniform(0.95, 1.05, n)
    forward = rng.uniform(1.8, 2.2, n)
    ohm = 220.0 * rng.uniform(0.95, 1.05, n)
    assert current.u == pytest.approx(((supply - forward) / ohm).std(), rel=0.01)


def test_divider_both_ways() -> None:
    """Common practice check: 1.60 V and 3.40 V."""
    assert results("divider")["output"] == pytest.approx(1.60, abs=0.005)
    swapped = results("divider", top_ohm=4_700.0, bottom_ohm=10_000.0)
    assert swapped["output"] == pytest.approx(3.40, abs=0.005)
    designed = results("divider", mode="design for a level")
    assert (designed["upper resistor"], designed["lower resistor"]) == (1_800.0, 3_300.0)
    assert designed["lowest, resistors alone"] == pytest.approx(3.12, abs=0.005)
    assert designed["highest, resistors alone"] == pytest.approx(3.35, abs=0.005)
    cells = results("divider", mode="design for a battery", input_v=8.4, logic_v=5.0)
    assert cells["highest"] <= 5.0


def test_pull_up_window_may_be_empty() -> None:
    assert "No resistor does both" in titles("pull-up", capacitance_pf=4_000.0)


def test_photo_load_saturates_and_merges() -> None:
    assert "saturates over white" in titles("photo-load", ohm=47_000.0)
    assert "apart" in titles("photo-load", ohm=470.0)
    dark_low = results("photo-load", side="emitter, to ground")
    assert dark_low["over white"] > dark_low["over black"]
    assert results("photo-load")["over white"] < results("photo-load")["over black"]


@given(st.floats(1.0, 30.0), st.floats(1.0, 5_000.0), st.floats(0.0, 90.0))
def test_the_load_that_is_safe_takes_the_most_current_there_may_be(
    supply_v: float, white_ua: float, known: float
) -> None:
    said = {"supply_v": supply_v, "white_ua": white_ua, "known_percent": known, "black_ua": 0.0}
    worked = with_inputs(PART_BENCHES["photo-load"], {**said, "use_percent": 100.0}).work()
    ohm = worked.results[0].value
    saturates = ohm * white_ua * 1e-6 * (1.0 + known / 100.0) > supply_v - 0.3
    notes = [one for one in worked.findings if "more current" in one.title]
    assert bool(notes) == saturates
    for note in notes:
        least = part_value(note.remedy.removeprefix("Use ").split("Ω")[0].replace(" ", ""))
        assert least * white_ua * 1e-6 * (1.0 + known / 100.0) <= (supply_v - 0.3) * (1 + 1e-9)


@given(st.floats(1e-9, 1e6), st.floats(1e-4, 10.0), st.sampled_from(["V", "Ω", "A"]))
def test_a_result_shows_its_doubt_with_two_figures_at_most(
    value: float, share: float, unit: str
) -> None:
    spread = Result("x", value, unit, value * share).text.split("± ")[1].split(" ")[0]
    whole, _, decimals = spread.partition(".")
    assert len(whole) <= 3, "the prefix suits the doubt as well"
    assert not decimals or len((whole + decimals).lstrip("0")) <= 2


def test_ten_bits_over_five_volts() -> None:
    """Common practice check: 1024 steps of 4.883 mV."""
    assert results("counts-volts")["one code"] == pytest.approx(0.004883, abs=5e-7)
    top = results("counts-volts", counts=1023.0)
    assert top["to"] == pytest.approx(5.0)
    assert top["divided by one less"] == pytest.approx(5.0)


@pytest.mark.parametrize("bits", [8.0, 10.0, 12.0, 16.0])
def test_counts_to_volts_and_back_is_the_same_code(bits: float) -> None:
    for count in np.linspace(0, 2**bits - 1, 37).astype(int):
        volts = results("counts-volts", bits=bits, counts=float(count))["volts"]
        back = results("counts-volts", mode="volts to counts", bits=bits, volts=volts)
        assert back["counts"] == count


def test_a_timer_for_pulses() -> None:
    """Common practice check: 8 MHz ÷ 256 and 16 bits tell 28.6 RPM and up; at 16 MHz two is off."""
    got = results("pulse-timer", clock_mhz=8.0, other_mhz=16.0)
    assert got["ticks a second"] == 31_250.0
    assert got["slowest"] == pytest.approx(28.6, abs=0.05)
    assert got["fastest, in theory"] == 1_875_000.0
    assert got["another board reads"] == 0.5
    assert results("pulse-timer", clock_mhz=1.0, prescaler=1, timer_bits=32, word_bits=32)[
        "timer wraps after"
    ] == pytest.approx(71.58 * 60.0, rel=1e-4)
    assert "wrapped before" in titles("pulse-timer", clock_mhz=8.0, rpm=20.0)
    assert "keeps 15 bits" in titles("pulse-timer", word_bits=15)


@given(st.integers(1, 1024), st.integers(8, 32), st.integers(1, 60), st.floats(1.0, 5_000.0))
def test_a_tick_more_changes_the_reading_by_what_the_timer_says(
    prescaler: int, bits: int, per_turn: int, rpm: float
) -> None:
    got = results(
        "pulse-timer", prescaler=prescaler, timer_bits=bits, word_bits=bits, per_turn=per_turn,
        rpm=rpm,
    )  # fmt: skip
    tick_hz = got["ticks a second"]
    ticks = 60.0 * tick_hz / (per_turn * rpm)
    step = rpm - 60.0 * tick_hz / (per_turn * (ticks + 1.0))
    assert got["one tick at this speed"] == pytest.approx(step, rel=1.1 / ticks)
    assert got["slowest"] * (2**bits - 1) == pytest.approx(got["fastest, in theory"])


def test_hall_switches_around_fourteen_magnets() -> None:
    """Common practice check: 17.14° is the tightest; 120° works where 3 does not divide p."""
    assert results("commutation")["tightest spacing"] == pytest.approx(17.14, abs=0.005)
    for pairs in range(1, 30):
        spacings = [one for one in valid_spacings(pairs) if one.electrical_deg == 120]
        thirds = any(math.isclose(one.mechanical_rad, 2 * math.pi / 3) for one in spacings)
        assert thirds == (pairs % 3 != 0)
        for one in valid_spacings(pairs):
            electrical = math.degrees(pairs * one.mechanical_rad)
            off = abs(math.remainder(electrical, 360.0))
            assert off == pytest.approx(one.electrical_deg, abs=1e-6)
    with pytest.raises(ValueError, match="even"):
        results("commutation", magnets=13.0)


@given(st.integers(1, 60), st.sampled_from([ELECTRICAL_120, ELECTRICAL_60]))
def test_the_tightest_spacing_is_the_electrical_angle_over_the_pole_pairs(
    pairs: int, kind: str
) -> None:
    got = results("commutation", magnets=2.0 * pairs, kind=kind, radius_mm=25.0)
    assert got["tightest spacing"] == pytest.approx(float(kind.split("°")[0]) / pairs)
    assert got["per degree"] == pairs
    arc_m = math.radians(got["tightest spacing"]) * 0.025
    assert got["arc of the tightest"] == pytest.approx(arc_m)
    # A millimetre along the arc turns by 1/r; electrically p times that.
    assert got["per millimetre"] == pytest.approx(math.degrees(pairs * 1.0 / 25.0))


def test_a_current_budget_says_when_it_is_too_much() -> None:
    assert results("current-budget", loads_ma="2x15, 22")["drawn"] == pytest.approx(0.052)
    # Five emitters of 4.4 mA share 22 mA; 470 Ω from 5 V give one 8 mA. Common practice.
    assert results("current-budget", loads_ma="5x4.4")["drawn"] == pytest.approx(0.022)
    one = results("led-resistor", supply_v=5.0, forward_v=1.2, current_ma=8.2)
    assert one["resistor"] == 470.0
    assert "more is drawn" in titles("current-budget", loads_ma="3×200")
    assert "Less than a fifth" in titles("current-budget", loads_ma="450")
    heat = results("current-budget", loads_ma="100", input_v=9.0, output_v=5.0)
    assert heat["regulator's heat"] == pytest.approx(0.4)


@pytest.mark.parametrize(
    ("name", "inputs", "words"),
    [
        ("current-budget", {"loads_ma": "2x"}, "loads_ma: “2x” is no load"),
        ("current-budget", {"loads_ma": "2x-5"}, "loads_ma: “2x-5” cannot be"),
        ("current-budget", {"loads_ma": ",".join(["1"] * 99)}, "loads at most"),
        ("combine", {"values": " , "}, "values: 1 to 20 of them"),
        ("combine", {"values": "0, 10k"}, "values: each has to be above 0"),
        ("combine", {"values": "10k, ten"}, "values: “ten” is no part’s value"),
        ("photo-load", {"black_ua": 700.0}, "black_ua: has to be below"),
        ("photo-load", {"supply_v": 0.5, "saturation_v": 0.6}, "saturation_v: has to be below"),
        ("colour-bands", {"mode": "ohms to bands", "ohm": 4_703.0}, "more than 2 figures"),
        ("colour-bands", {"mode": "ohms to bands", "tolerance_percent": 3.3}, "no band says"),
        ("colour-bands", {"mode": "ohms to bands", "ohm": 1e11}, "outside what bands can say"),
    ],
)
def test_a_sum_that_cannot_be_says_why(
    name: str, inputs: dict[str, float | str], words: str
) -> None:
    with pytest.raises(ValueError, match=words):
        results(name, **inputs)


@given(
    st.lists(st.sampled_from([1.0, 2.2, 4.7, 10.0, 33.0]), min_size=1, max_size=8),
    st.sampled_from(["resistors", "capacitors"]),
)
def test_parts_together_are_never_below_the_least_nor_beside_above_it(
    values: list[float], kind: str
) -> None:
    unit = "k" if kind == "resistors" else "n"
    got = results("combine", kind=kind, values=", ".join(f"{one:g}{unit}" for one in values))
    scale = 1e3 if kind == "resistors" else 1e-9
    adding, sharing = ("in a row", "side by side")[:: 1 if kind == "resistors" else -1]
    assert got[adding] == pytest.approx(sum(values) * scale)
    assert got[sharing] <= min(values) * scale * (1 + 1e-9)
    if len(values) == 2:
        assert got[adding] * got[sharing] == pytest.approx(values[0] * values[1] * scale**2)


def test_a_code_at_the_end_of_the_range_is_told() -> None:
    assert "end of the range" in titles("counts-volts", counts=1023.0)
    assert "end of the range" not in titles("counts-volts", counts=512.0)
    assert "outside" in titles("counts-volts", mode="volts to counts", volts=7.0)
    assert results("counts-volts", mode="volts to counts", volts=7.0)["counts"] == 1023


def test_bands_both_ways_and_a_value_that_is_rare() -> None:
    written = with_inputs(PART_BENCHES["colour-bands"], {"mode": "ohms to bands", "ohm": 220.0})
    assert written.work().bands == ("red", "red", "brown", "gold")
    assert titles("colour-bands", bands="red yellow red gold") == ""
    rare = titles("colour-bands", bands="red green red gold")
    assert "2.5 kΩ is no E24 value; the nearest is 2.4 kΩ" in rare


def test_rc_corner_passes_half_the_power() -> None:
    got = results("rc-filter", ohm=1_000.0, capacitance_nf=100.0, signal_hz=1_591.549)
    assert got["signal kept"] == pytest.approx(math.sqrt(0.5), abs=1e-4)


@pytest.mark.parametrize(
    ("text", "value"),
    [("4k7", 4700.0), ("1,8k", 1800.0), ("100n", 1e-7), ("2M2", 2.2e6), ("47", 47.0)],
)
def test_part_values_as_people_write_them(text: str, value: float) -> None:
    assert part_value(text) == pytest.approx(value)
    assert part_value(short_value(value)) == pytest.approx(value)


@pytest.mark.parametrize("text", ["", "k", "1.2k3", "-5", "1e5", "ten", "4 7 k"])
def test_part_values_that_are_none(text: str) -> None:
    with pytest.raises(ValueError, match="no part’s value"):
        part_value(text)
