"""One echo time, with what is known of the air and of the ranger."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.fixed_rules import FIXED_RULES
from tickstone.core.air.sound_speed import AIR_MODELS
from tickstone.core.chains.echo_ranger import (
    FIXED_SPEED,
    RangerParameters,
    ranger_chain,
    sound_speed,
)
from tickstone.core.inputs import number, words
from tickstone.core.quantity import ECHO_TIME
from tickstone.core.readings.reading import ASSUMED_AIR, Beside, OneReading
from tickstone.core.signal import Signal

LONGEST_ECHO_US = 60e6


@dataclass(frozen=True)
class AskedEcho:
    """The air is 20 °C, 50 % RH, 101.325 kPa with wide tolerances when nothing is said of it.

    >>> reading = AskedEcho(us=5831.0, air_c=20.0).reading()
    >>> round(reading.chain.explain(reading.signals, 0)[-1].value, 3)
    1.003
    """

    what: ClassVar[str] = "Turn one echo time into a distance and show the working."

    us: float | None = number(
        "Echo time as the sensor gave it", "µs", None, 0.0, LONGEST_ECHO_US, "0 is no echo"
    )
    air_c: float | None = number("Air temperature", "°C", None, -1e6, 1e6)
    rh: float | None = number("Relative humidity", "%", None, -1e6, 1e6, "usually 50")
    kpa: float | None = number("Air pressure", "kPa", None, -1e6, 1e6, "usually 101.325")
    model: str = words("How the air is taken", "", ", ".join(AIR_MODELS))
    rule: str = words("A rule of thumb instead of the air", "", ", ".join(FIXED_RULES))
    speed: float | None = number(
        "A fixed speed of sound instead of the air", "m/s", None, -1e9, 1e9
    )
    baseline_mm: float = number(
        "Between emitter and receiver", "mm", 0.0, -1e6, 1e6, "0 leaves the triangle out"
    )
    offset_mm: float = number(
        "The sensor’s face behind the rig’s edge", "mm", 0.0, -1e6, 1e6, "is taken off"
    )
    min_cm: float = number("Nearest the sensor can tell", "cm", 2.0, -1e6, 1e6)
    max_cm: float = number("Farthest it is stated to reach", "cm", 400.0, -1e6, 1e6)
    timeout_us: float = number(
        "Echo length that means nothing was heard", "µs", 38_000.0, -1e9, 1e9
    )

    def reading(self) -> OneReading:
        """The echo's chain, and the speed of sound beside the distance."""
        if self.us is None:
            raise ValueError("there is no echo time to turn; give --us")
        self._only_one_way()
        air, parameters = self._air(), self._parameters()
        chain = ranger_chain(parameters, air)
        sound = sound_speed(parameters, air)
        return OneReading(
            chain,
            {"echo": Signal.of([0.0], [self.us], ECHO_TIME)},
            ("distance",),
            {"speed_of_sound": Beside(sound.value, "m/s", sound.u)},
        )

    def _only_one_way(self) -> None:
        fixed = {"--rule": self.rule or None, "--speed": self.speed}
        airy = {
            "--air-c": self.air_c,
            "--rh": self.rh,
            "--kpa": self.kpa,
            "--model": self.model or None,
        }
        given_fixed = [name for name, value in fixed.items() if value is not None]
        given_airy = [name for name, value in airy.items() if value is not None]
        if len(given_fixed) > 1 or (given_fixed and given_airy):
            raise ValueError(
                f"{' and '.join(given_fixed + given_airy)} exclude each other; the speed of sound "
                "comes from the air, from a rule or from a fixed speed"
            )

    def _air(self) -> AirConditions:
        if self.air_c is None and self.rh is None and self.kpa is None:
            return ASSUMED_AIR
        usual, assumed = AirConditions(20.0), ASSUMED_AIR
        return AirConditions(
            temperature_c=assumed.temperature_c if self.air_c is None else self.air_c,
            relative_humidity=assumed.relative_humidity if self.rh is None else self.rh / 100.0,
            pressure_pa=assumed.pressure_pa if self.kpa is None else self.kpa * 1000.0,
            temperature_tolerance_c=(
                assumed if self.air_c is None else usual
            ).temperature_tolerance_c,
            humidity_tolerance=(assumed if self.rh is None else usual).humidity_tolerance,
            pressure_tolerance_pa=(assumed if self.kpa is None else usual).pressure_tolerance_pa,
        )

    def _parameters(self) -> RangerParameters:
        if self.rule and self.rule not in FIXED_RULES:
            raise ValueError(f"there is no rule “{self.rule}”; known are {', '.join(FIXED_RULES)}")
        if self.model and self.model not in AIR_MODELS:
            raise ValueError(f"there is no model “{self.model}”; known are {', '.join(AIR_MODELS)}")
        fixed = FIXED_SPEED if self.speed is not None else self.model or "cramer"
        return RangerParameters(
            air_model=self.rule or fixed,
            baseline_m=self.baseline_mm / 1000.0,
            mount_m=self.offset_mm / 1000.0,
            mount_tolerance_m=0.001 if self.offset_mm else 0.0,
            min_m=self.min_cm / 100.0,
            max_m=self.max_cm / 100.0,
            timeout_us=self.timeout_us,
            median_n=1,
            fixed_speed_m_per_s=343.0 if self.speed is None else self.speed,
        )
