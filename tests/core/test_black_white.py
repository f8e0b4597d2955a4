"""Black and white of a row: by a wave, by holding, and what is said when neither tells."""

from __future__ import annotations

import numpy as np
import pytest

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.black_white import BlackWhiteKind
from tickstone.core.calibration.kind import Fit, Span
from tickstone.core.chains.reflectance import Reflectance, ReflectanceParameters
from tickstone.core.misfit import MisfitError
from tickstone.core.models.reflective import ReflectiveRow, Scene
from tickstone.core.quantity import COUNTS, VOLTAGE
from tickstone.core.rules.kind import Known
from tickstone.core.rules.line_thresholds import LineThresholdEvidence, LineThresholds
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

KIND = BlackWhiteKind()
PLACES = (-38.0, -19.0, 0.0, 19.0, 38.0)
SETTINGS = ReflectanceParameters(line_m=0.038, pitch_m=0.019)
FIVE = COUNTS.in_lanes(*"12345")
HERE = Surroundings(AirConditions(20.0))


def wave(ambient: float = 0.1, low: float = -75.0, high: float = 75.0, n: int = 500) -> Signal:
    rng = np.random.default_rng(3)
    line = np.interp(np.arange(n), [0, n // 2, n - 1], [low, high, low])
    times = np.arange(n) * 0.02
    scenes = [Scene(float(x), 38.0, ambient=ambient) for x in line]
    return Signal.of(times, ReflectiveRow(PLACES).along(scenes, times, rng), FIVE)


def flipped(signal: Signal) -> Signal:
    """As with the resistor to ground: more light, more counts."""
    return signal.replaced(1023.0 - signal.values)


def titles(fit: Fit) -> str:
    return " ".join(one.title for one in fit.remarks)


@pytest.mark.parametrize("is_high", [True, False])
def test_one_wave_tells_black_and_white_of_all_five_and_which_is_which(is_high: bool) -> None:
    signal = wave() if is_high else flipped(wave())
    fit = KIND.fit([Span("wave", signal)], SETTINGS)
    black, white = (np.array(fit.parameters[name]) for name in ("black", "white"))
    assert ((black > white) == is_high).all()
    assert (np.abs(black - white) > 400).all()
    assert all(one.dark.n > 60 and one.light.n > 100 and one.between > 0 for one in fit.heaps)
    assert f"More light reads {'lower' if is_high else 'higher'}" in titles(fit)
    KIND.check(fit)
    light = KIND.stage(fit, True, "a wave").apply(signal)
    assert light.values.min() == pytest.approx(0.0, abs=0.05)
    assert light.values.max() == pytest.approx(1.0, abs=0.05)


def test_what_was_held_says_which_is_which_whatever_the_wave_saw_more_of() -> None:
    """A light line on dark: the heap seen less is white, and a stretch over black says so."""
    signal = flipped(wave())
    held = Signal.of(np.arange(60) * 0.02, np.full((5, 60), 900.0) + np.arange(60) % 3, FIVE)
    fit = KIND.fit([Span("wave", signal), Span("black", held)], SETTINGS)
    assert fit.parameters["black"][0] > fit.parameters["white"][0]
    by_setting = KIND.fit(
        [Span("wave", signal)], ReflectanceParameters(line_m=0.038, pitch_m=0.019, line_is="light")
    )
    assert by_setting.parameters["black"][0] > by_setting.parameters["white"][0]


def test_marks_of_one_sensor_say_nothing_of_the_others() -> None:
    n = 40
    values = np.full((5, n), 300.0) + np.arange(n) % 2
    white = Span("white", Signal.of(np.arange(n) * 0.02, values, FIVE))
    blacks = [
        Span("black", Signal.of(np.arange(n) * 0.02, values + 500.0, FIVE), lane=lane)
        for lane in range(4)
    ]
    with pytest.raises(ValueError, match="sensor 5: only white was held"):
        KIND.fit([white, *blacks], SETTINGS)


def test_a_third_surface_keeps_its_name_and_parts_from_the_line() -> None:
    n = 60
    rng = np.random.default_rng(1)

    def held(name: str, level: float) -> Span:
        values = np.rint(rng.normal(level, 4.0, (5, n)))
        return Span(name, Signal.of(np.arange(n) * 0.02, values, FIVE))

    fit = KIND.fit([held("black", 800), held("white", 200), held("grey slab", 420)], SETTINGS)
    assert [one.name for one in fit.heaps[0].others] == ["grey slab"]
    known = Known(0.02, 0.0, 0.02, "", lambda _: 0.0, SETTINGS, {KIND.name: fit})
    told = LineThresholds().suggest(LineThresholdEvidence(), known)
    assert all(430 < one.at < 790 for one in told.lanes)


@pytest.mark.parametrize(
    ("spans", "why"),
    [
        ([], "no mark"),
        ([Span("wave", wave(low=-75.0, high=-60.0))], "no sensor is known yet"),
        ([Span("wave", wave(low=-75.0, high=5.0))], "sensor 5: the samples are one heap"),
        ([Span("wave", wave(n=12))], "too few"),
        (
            [Span("wave", Signal.of(np.arange(99) * 0.02, np.full((5, 99), 1023.0), FIVE))],
            "every sample is the same",
        ),
    ],
)
def test_what_cannot_tell_black_from_white_is_refused_with_the_reason(spans, why) -> None:
    with pytest.raises(ValueError, match=why):
        KIND.fit(spans, SETTINGS)


def test_clipping_and_drift_are_remarked() -> None:
    signal = wave()
    status = np.zeros(signal.values.shape, dtype=np.uint8)
    values = signal.values.copy()
    values[1] = np.minimum(1023.0, values[1] * 1.6)
    status[1, values[1] >= 1023.0] = Status.CLIPPED
    drifting = values[3] + np.linspace(0.0, 60.0, len(signal)) * (values[3] < 500)
    values[3] = drifting
    fit = KIND.fit([Span("wave", signal.replaced(values, status))], SETTINGS)
    assert "Sensor 2 stands at an end of the converter" in titles(fit)
    assert "Sensor 4: white moved" in titles(fit)


def test_a_recording_in_other_light_cracks_it_and_the_same_light_does_not() -> None:
    fit = KIND.fit([Span("wave", wave(ambient=0.1))], SETTINGS)
    assert KIND.outgrown(fit, wave(ambient=0.1, n=700)) is None
    short, said = KIND.outgrown(fit, wave(ambient=0.7)) or ("", "")
    assert short == "other light"
    assert "lighter than it did" in said
    assert KIND.outgrown(fit, wave(low=-75.0, high=-60.0)) is None


def test_heaps_come_back_from_what_is_kept() -> None:
    fit = KIND.fit([Span("wave", wave())], SETTINGS)
    for one in fit.heaps:
        assert type(one).from_json(one.as_json()) == one
    with pytest.raises(ValueError, match="missing"):
        type(fit.heaps[0]).from_json({"lane": "1"})


def test_a_wave_is_proposed_from_the_first_crossing_to_the_last() -> None:
    signal = wave(n=800)
    ((start_s, end_s),) = KIND.still(signal)
    assert 0.0 <= start_s < 4.0
    assert 12.0 < end_s <= signal.until_s
    assert KIND.fit(
        [Span("wave", signal.between(int(start_s / 0.02), int(end_s / 0.02)))], SETTINGS
    )
    assert KIND.still(wave(low=-75.0, high=5.0)) == []


LSB_V = 5.0 / 1024.0
IN_VOLTS = VOLTAGE.in_lanes(*"12345")


def in_volts(counts: Signal) -> Signal:
    """The same readings as a program that divides them itself prints them."""
    return counts.replaced((counts.values + 0.5) * LSB_V, quantity=IN_VOLTS)


@pytest.mark.parametrize("of", ["counts", "volts"])
@pytest.mark.parametrize("heard", ["counts", "volts"])
def test_what_was_learnt_in_codes_holds_in_volts_and_the_other_way_round(of, heard) -> None:
    learnt = {"counts": wave(), "volts": in_volts(wave())}[of]
    stage = KIND.stage(KIND.fit([Span("wave", learnt)], SETTINGS), True, "wave")
    chain = Reflectance().build(SETTINGS, HERE, {KIND.name: stage}, {"light": heard}, {"light": 5})
    later = wave(ambient=0.15)
    told = chain.apply({"counts": later, "volts": in_volts(later)}[heard], "position")
    codes = KIND.stage(KIND.fit([Span("wave", wave())], SETTINGS), True, "wave")
    usual = (
        Reflectance()
        .build(SETTINGS, HERE, {KIND.name: codes}, {"light": "counts"}, {"light": 5})
        .apply(later, "position")
    )
    both = told.ok & usual.ok
    assert both.sum() > 0.9 * usual.ok.sum() > 100
    assert np.abs(told.value[both] - usual.value[both]).max() < 2e-4
    raw = Reflectance().raw_for(0.01, SETTINGS, HERE, {KIND.name: stage})
    again = Reflectance().build(SETTINGS, HERE, {KIND.name: stage}, {"light": of}, {"light": 5})
    assert raw is not None
    assert again.apply(raw, "position").value[0] == pytest.approx(0.01, abs=0.01)
    assert again.apply(raw, "position").ok.all()


def test_codes_say_nothing_of_a_sensors_own_per_cent() -> None:
    stage = KIND.stage(KIND.fit([Span("wave", wave())], SETTINGS), True, "wave")
    chain = Reflectance().build(
        SETTINGS, HERE, {KIND.name: stage}, {"light": "percent"}, {"light": 5}
    )
    with pytest.raises(MisfitError, match="known as counts, but reflectance is heard") as misfit:
        chain.quantity_of("lightness")
    assert misfit.value.grounds[0] == "another form"


def test_thresholds_are_told_in_what_is_counted() -> None:
    fits = {"V": KIND.fit([Span("wave", in_volts(wave()))], SETTINGS),
            "counts": KIND.fit([Span("wave", wave())], SETTINGS)}  # fmt: skip
    told = {
        unit: LineThresholds().suggest(
            LineThresholdEvidence(),
            Known(0.02, 0.0, 0.02, "", lambda _: 0.0, SETTINGS, {KIND.name: fit}, lanes=5),
        )
        for unit, fit in fits.items()
    }
    for unit, one in told.items():
        assert unit in one.parts[0].note
        assert "black" in KIND.certificate(fits[unit])[0].text
    assert " counts, " in told["counts"].parts[0].note
    assert " counts" not in told["V"].parts[0].note
    for volts, codes in zip(told["V"].lanes, told["counts"].lanes, strict=True):
        assert volts.at / volts.per_volt == pytest.approx(codes.at / codes.per_volt, abs=0.02)
