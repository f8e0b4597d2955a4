"""The speed of sound against sources outside this project."""

from __future__ import annotations

import numpy as np
import pytest
from ambiance import Atmosphere

from tickstone.core.air import cramer, ideal_gas, linear_rule
from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.fixed_rules import FIXED_RULES
from tickstone.core.air.sound_speed import (
    AIR_MODELS,
    sound_speed_fixed,
    sound_speed_from_air,
    sound_speed_from_rule,
)


@pytest.mark.parametrize("t", [0, 5, 10, 15, 20, 25, 30])
def test_dry_air_against_a_fluid_property_library(t: float) -> None:
    """CoolProp's air (Lemmon and others, 2000). Cramer states 300 parts in a million."""
    from CoolProp.CoolProp import PropsSI  # it takes five seconds, which few tests need

    library = PropsSI("A", "T", t + 273.15, "P", 101_325, "Air")
    assert cramer.speed_of_sound(AirConditions(t, 0.0)) == pytest.approx(library, rel=3e-4)


@pytest.mark.parametrize("kpa", [80, 90, 101.325])
def test_pressure_hardly_matters_and_does_so_as_in_the_library(kpa: float) -> None:
    from CoolProp.CoolProp import PropsSI

    library = PropsSI("A", "T", 293.15, "P", kpa * 1000, "Air")
    ours = cramer.speed_of_sound(AirConditions(20, 0.0, kpa * 1000))
    assert ours == pytest.approx(library, rel=3e-4)


@pytest.mark.parametrize("t", [5, 15, 25])
@pytest.mark.parametrize("rh", [0.2, 0.5, 0.9])
def test_vapour_fraction_against_a_humid_air_library(t: float, rh: float) -> None:
    """CoolProp's humid air (Herrmann and others, ASHRAE RP-1485)."""
    from CoolProp.HumidAirProp import HAPropsSI

    library = HAPropsSI("psi_w", "T", t + 273.15, "P", 101_325, "R", rh)
    ours = cramer.water_vapour_fraction(AirConditions(t, rh))
    assert ours == pytest.approx(library, rel=2e-3)


@pytest.mark.parametrize(
    ("t", "rh", "published"), [(0, 0.0, 331.46), (20, 0.0, 343.37), (20, 0.5, 343.99)]
)
def test_values_of_the_equation_as_published(t: float, rh: float, published: float) -> None:
    """Cramer, J. Acoust. Soc. Am. 93(5), 1993, eq. 15, at 101.325 kPa."""
    assert cramer.speed_of_sound(AirConditions(t, rh)) == pytest.approx(published, abs=0.01)


def test_the_standard_atmosphere() -> None:
    """ICAO Doc 7488 / ISO 2533: 340.294 m/s at 15 °C; other heights by a library of it."""
    assert ideal_gas.speed_of_sound(15.0) == pytest.approx(340.294, abs=5e-4)
    heights = Atmosphere(np.array([0.0, 1000.0, 2500.0, 5000.0, 9000.0]))
    for celsius, speed in zip(heights.temperature_in_celsius, heights.speed_of_sound, strict=True):
        assert ideal_gas.speed_of_sound(celsius) == pytest.approx(speed, rel=1e-7)


@pytest.mark.parametrize(
    ("rule", "temperature_c"),
    [
        ("c340", 14.5),
        ("c341", 16.2),
        ("c343", 19.6),
        ("sea_level", 15.0),
        ("us29", 20.7),
        ("us58", 22.7),
        ("us148", 20.0),
    ],
)
def test_the_air_each_rule_of_thumb_assumes(rule: str, temperature_c: float) -> None:
    """Common practice; dry air, ideal gas."""
    assert FIXED_RULES[rule].assumed_temperature_c == pytest.approx(temperature_c, abs=0.06)


def test_rules_of_thumb_do_what_their_names_say() -> None:
    centimetres = 5800 * 1e-6 * sound_speed_from_rule("us58").value / 2 * 100
    assert centimetres == pytest.approx(100.0)
    inches = 1480 * 1e-6 * sound_speed_from_rule("us148").value / 2 / 0.0254
    assert inches == pytest.approx(10.0)
    assert 2910 * 1e-6 * sound_speed_from_rule("us29").value / 2 * 100 == pytest.approx(50.0)


def test_the_three_models_agree_in_a_room_within_their_stated_doubt() -> None:
    air = AirConditions(20.0, 0.5)
    speeds = [sound_speed_from_air(name, air) for name in AIR_MODELS]
    for one in speeds:
        for other in speeds:
            assert abs(one.value - other.value) <= 2 * (one.u + other.u)


def test_the_thermometer_dominates_as_the_trade_says() -> None:
    """± 2 °C is ± 0.35 % of distance; about 0.18 % per degree near room temperature."""
    sound = sound_speed_from_air("cramer", AirConditions(20.0, 0.5))
    thermometer = next(part for part in sound.components if part.name == "thermometer")
    per_degree = thermometer.contribution / thermometer.u_input / sound.value
    assert per_degree == pytest.approx(0.0018, abs=0.0001)
    assert max(sound.components, key=lambda part: abs(part.contribution)) is thermometer


def test_the_linear_rule_near_the_ideal_gas() -> None:
    for t in range(0, 31, 5):
        assert linear_rule.speed_of_sound(t) == pytest.approx(
            ideal_gas.speed_of_sound(t), rel=1.5e-3
        )


@pytest.mark.parametrize("speed", [0.0, 249.0, 451.0, float("nan"), float("inf")])
def test_what_is_no_speed_of_sound_is_refused(speed: float) -> None:
    with pytest.raises(ValueError, match="not air"):
        sound_speed_fixed(speed)


@pytest.mark.parametrize(
    "change", [{"temperature_c": 99.0}, {"relative_humidity": 1.2}, {"pressure_pa": 1.0}]
)
def test_impossible_air_is_refused(change: dict[str, float]) -> None:
    with pytest.raises(ValueError, match="has to lie from"):
        AirConditions(**{"temperature_c": 20.0, **change})


def test_extremes_of_humidity_still_have_a_budget() -> None:
    for rh in (0.0, 1.0):
        assert sound_speed_from_air("cramer", AirConditions(-40.0, rh)).u > 0
    assert sound_speed_from_air("cramer", AirConditions(-10.0)).note.startswith("Outside")
