"""The speed of sound by any model, with its uncertainty budget."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from tickstone.core.air import cramer, ideal_gas, linear_rule
from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.fixed_rules import FIXED_RULES
from tickstone.core.reading_units import shown, temperature, temperature_step
from tickstone.core.reading_units import sound_speed as said_speed
from tickstone.core.uncertainty import Component, combined, rectangular

RULE_AIR_SPREAD_C = 10.0
"""A fixed rule is used in whatever air there is: within ± this of the air it assumes."""


@dataclass(frozen=True, slots=True)
class SoundSpeed:
    """A speed of sound c in m/s with its budget (contributions in m/s), formula and source."""

    value: float
    components: tuple[Component, ...]
    label: str
    formula: str
    filled: str
    source: str
    note: str

    @property
    def u(self) -> float:
        """Combined standard uncertainty, m/s."""
        return combined(self.components)


@dataclass(frozen=True, slots=True)
class AirModel:
    """A way to work out c from the air."""

    name: str
    label: str
    formula: str
    source: str
    speed: Callable[[AirConditions], float]


AIR_MODELS: dict[str, AirModel] = {
    model.name: model
    for model in (
        AirModel(
            "cramer",
            "humid air",
            "c(t, h, p) after Cramer, eq. 15",
            "Cramer, J. Acoust. Soc. Am. 93(5), 1993, eq. 15; vapour after CIPM-81/91",
            cramer.speed_of_sound,
        ),
        AirModel(
            "ideal",
            "dry ideal gas",
            "c = √(γ·R·T/M)",
            "ICAO Doc 7488 / ISO 2533, constants of the standard atmosphere",
            lambda air: ideal_gas.speed_of_sound(air.temperature_c),
        ),
        AirModel(
            "linear",
            "straight line",
            "c = 331.3 + 0.606·t",
            "common practice",
            lambda air: linear_rule.speed_of_sound(air.temperature_c),
        ),
    )
}


def sound_speed_from_air(model_name: str, air: AirConditions) -> SoundSpeed:
    """Speed of sound in `air` by the model `cramer`, `ideal` or `linear`.

    The budget holds the thermometer, the hygrometer and the barometer through numerical
    sensitivities (JCGM 100 §5.1.3, note 2) and the model itself. For the two dry-air models that
    last line is their distance from Cramer's humid air, taken as a half width.

    Raises KeyError for an unknown model.

    >>> c = sound_speed_from_air("cramer", AirConditions(20.0, 0.5))
    >>> round(c.value, 2), round(c.u, 2)
    (343.99, 0.73)
    """
    model = AIR_MODELS[model_name]
    value = model.speed(air)
    reference = cramer.speed_of_sound(air)
    if model_name == "cramer":
        model_u, basis = value * cramer.RELATIVE_MODEL_U, "from memory: 300 parts in a million"
    else:
        model_u = rectangular(abs(value - reference))
        off = said_speed(abs(value - reference), 2)
        basis = f"{off} from Cramer's humid air, taken as half width"
    components = (
        _from_tolerance(model, air, "thermometer", "temperature_c", "°C"),
        _from_tolerance(model, air, "hygrometer", "relative_humidity", "of 1"),
        _from_tolerance(model, air, "barometer", "pressure_pa", "Pa"),
        Component("air model", model_u, "m/s", model_u, True, basis),
    )
    inside = model_name != "cramer" or cramer.is_within_stated_range(air)
    return SoundSpeed(
        value=value,
        components=tuple(part for part in components if part.contribution != 0.0),
        label=f"{temperature(air.temperature_c, 1)}, {air.relative_humidity * 100:.0f} % RH",
        formula=model.formula,
        filled=(
            f"t = {temperature(air.temperature_c, 1)}, h = {air.relative_humidity * 100:.0f} %, "
            f"p = {air.pressure_pa / 1000:.2f} kPa"
        ),
        source=model.source,
        note="" if inside else "Outside the air the equation was fitted for: 0–30 °C, 75–102 kPa.",
    )


def sound_speed_from_rule(name: str) -> SoundSpeed:
    """The constant behind a named rule of thumb.

    Raises KeyError for an unknown rule.

    >>> round(sound_speed_from_rule("us58").value, 2)
    344.83
    """
    rule = FIXED_RULES[name]
    return _fixed(rule.speed_m_per_s, rule.label)


def sound_speed_fixed(speed_m_per_s: float) -> SoundSpeed:
    """A constant the person typed, m/s.

    Raises ValueError outside 250 to 450 m/s, where no air on a bench is.

    >>> sound_speed_fixed(343.0).note
    'Right for dry air at 19.6 °C; today’s air is not asked.'
    """
    if not (math.isfinite(speed_m_per_s) and 250.0 <= speed_m_per_s <= 450.0):
        raise ValueError(
            f"a speed of sound of {speed_m_per_s:g} m/s is not air; give 250 to 450 m/s"
        )
    return _fixed(speed_m_per_s, f"{said_speed(speed_m_per_s, 1)}, fixed")


def _fixed(speed_m_per_s: float, label: str) -> SoundSpeed:
    assumed_c = ideal_gas.temperature_for(speed_m_per_s)
    u_temperature = rectangular(RULE_AIR_SPREAD_C)
    per_degree = speed_m_per_s / (2.0 * (assumed_c + 273.15))
    component = Component(
        "air not asked",
        u_temperature,
        "°C",
        per_degree * u_temperature,
        True,
        f"air within ± {temperature_step(RULE_AIR_SPREAD_C, 0)} of what the constant assumes",
    )
    return SoundSpeed(
        value=speed_m_per_s,
        components=(component,),
        label=label,
        formula="c is fixed",
        filled=f"c = {said_speed(speed_m_per_s, 2)}",
        source="common practice",
        note=f"Right for dry air at {temperature(assumed_c, 1)}; today’s air is not asked.",
    )


_TOLERANCE_FIELD = {
    "temperature_c": "temperature_tolerance_c",
    "relative_humidity": "humidity_tolerance",
    "pressure_pa": "pressure_tolerance_pa",
}
_PROBE = {"temperature_c": 0.01, "relative_humidity": 0.001, "pressure_pa": 10.0}
_RANGE = {
    "temperature_c": (-40.0, 60.0),
    "relative_humidity": (0.0, 1.0),
    "pressure_pa": (30_000.0, 120_000.0),
}


def _from_tolerance(
    model: AirModel, air: AirConditions, name: str, quantity: str, unit: str
) -> Component:
    centre = getattr(air, quantity)
    low = max(_RANGE[quantity][0], centre - _PROBE[quantity])
    high = min(_RANGE[quantity][1], centre + _PROBE[quantity])
    slope = (
        model.speed(replace(air, **{quantity: high})) - model.speed(replace(air, **{quantity: low}))
    ) / (high - low)
    tolerance = getattr(air, _TOLERANCE_FIELD[quantity])
    u_input = rectangular(tolerance)
    if quantity == "relative_humidity":
        stated, stated_unit = tolerance * 100, "%"
    else:
        stated, stated_unit = shown(tolerance, "K" if quantity == "temperature_c" else unit)
    basis = f"stated ± {stated:g} {stated_unit}, rectangular"
    return Component(name, u_input, unit, slope * u_input, True, basis)
