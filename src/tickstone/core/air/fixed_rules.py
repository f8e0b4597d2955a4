"""Constants and rules of thumb that stand in for the air, each with the air it silently assumes."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.air.ideal_gas import temperature_for


@dataclass(frozen=True, slots=True)
class FixedRule:
    """A constant speed of sound under the name people know it by. All common practice."""

    name: str
    label: str
    speed_m_per_s: float

    @property
    def assumed_temperature_c(self) -> float:
        """The dry-air temperature, °C, at which the rule is right (ideal gas).

        >>> round(FIXED_RULES["us58"].assumed_temperature_c, 1)
        22.7
        """
        return temperature_for(self.speed_m_per_s)


_CM = 0.01
_INCH = 0.0254
_US = 1e-6

FIXED_RULES: dict[str, FixedRule] = {
    rule.name: rule
    for rule in (
        FixedRule("us58", "µs ÷ 58 = cm", 2 * _CM / (58 * _US)),
        FixedRule("us148", "µs ÷ 148 = in", 2 * _INCH / (148 * _US)),
        FixedRule("us29", "µs ÷ 2 ÷ 29.1 = cm", _CM / (29.1 * _US)),
        FixedRule("c340", "340 m/s", 340.0),
        FixedRule("c341", "341 m/s", 341.0),
        FixedRule("c343", "343 m/s", 343.0),
        FixedRule("sea_level", "340.3 m/s, sea-level standard", 340.3),
    )
}
