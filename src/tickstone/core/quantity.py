"""What a number is: its name, its unit inside, how people read it, and its lanes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from tickstone.core.reading_units import (
    CART_SPEED,
    GRAVITIES,
    MILLI_GRAVITIES,
    PERCENT_SHARE,
    SMALL_LENGTH,
    filed,
    said,
    said_as_typed,
)


@dataclass(frozen=True, slots=True)
class DecisionState:
    """What a decision can be. name: in files. is_alarm: whether it wants an eye kept on it."""

    name: str
    word: str
    is_alarm: bool = False


_SMALL = {"m": SMALL_LENGTH, GRAVITIES: MILLI_GRAVITIES}


@dataclass(frozen=True, slots=True)
class Quantity:
    """What the values of a signal are.

    unit: of the values, SI inside. shown_as: how a person reads them, a key of `reading_units`; the
    unit when empty. decimals: worth showing there when no uncertainty says it. lanes: names of what
    one reading has several of; one without a name for most. states: of a decision, whose values are
    their places here, the worst last. quiet: lanes that are worked with, and not shown.
    """

    name: str
    unit: str
    shown_as: str = ""
    decimals: int = 3
    lanes: tuple[str, ...] = ("",)
    states: tuple[DecisionState, ...] = ()
    quiet: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """How it is shown: a key of `reading_units`."""
        return self.shown_as or self.unit

    def look(self, place: int) -> Literal["calm", "alarm", "worst"]:
        """How the state at a place is to look: the last of several alarms is the worst."""
        alarms = [number for number, state in enumerate(self.states) if state.is_alarm]
        if place not in alarms:
            return "calm"
        return "worst" if len(alarms) > 1 and place == alarms[-1] else "alarm"

    @property
    def small_key(self) -> str:
        """How a small amount of it, such as a doubt, is shown."""
        return _SMALL.get(self.key, self.key)

    @property
    def is_decision(self) -> bool:
        """Whether its values are states and no amounts."""
        return bool(self.states)

    def filed(self, value: float) -> tuple[float, str]:
        """A value and its unit as files and commands have it.

        >>> FORCE.filed(9.80665), ANGLE.filed(0.5)
        ((1.0, 'g'), (0.5, 'rad'))
        """
        return filed(value, self.unit, self.key)

    def said(self, value: float, decimals: int | None = None) -> str:
        """A value as a person reads it.

        >>> DISTANCE.said(0.9954), TURN_RATE.said(3.9)
        ('0.995 m', '234 RPM')
        """
        return said(value, self.key, self.decimals if decimals is None else decimals)

    def typed(self, value: float) -> str:
        """A value somebody typed, without needless zeros.

        >>> DISTANCE.typed(0.42)
        '0.42 m'
        """
        return said_as_typed(value, self.key)

    def in_lanes(self, *lanes: str) -> Quantity:
        """The same with several lanes."""
        return replace(self, lanes=lanes)


ECHO_TIME = Quantity("echo time", "µs", decimals=0)
DISTANCE = Quantity("distance", "m")
TIME = Quantity("time", "s")
COUNTS = Quantity("counts", "", decimals=0)
FREQUENCY = Quantity("frequency", "Hz", decimals=2)
TURN_RATE = Quantity("turn rate", "turn/s", decimals=0)
SPEED = Quantity("speed", "m/s", shown_as="m/s on a road", decimals=2)
VOLTAGE = Quantity("voltage", "V")
SHARE = Quantity("share", "", decimals=2)
REFLECTED = Quantity("reflectance", "", shown_as="share as %", decimals=1)
"""As a sensor itself tells it."""
LEVEL = Quantity("level", "", decimals=0)
LIGHTNESS = Quantity("lightness", "", shown_as=PERCENT_SHARE, decimals=0)
"""0: as black as the black it was shown; 1: as white as the white."""
PLACE = Quantity("place", "m", shown_as=SMALL_LENGTH, decimals=1)
DRIFT = Quantity("drift", "m/s", shown_as=CART_SPEED, decimals=2)
ACCELERATION = Quantity("acceleration", "m/s²", decimals=2)
ANGLE = Quantity("angle", "rad", decimals=1)
ATTITUDE = Quantity("attitude", "rad", decimals=1, lanes=("roll", "pitch", "heading"))
FORCE = Quantity("specific force", "m/s²", shown_as=GRAVITIES, lanes=("x", "y", "z"))
"""What an accelerometer feels: at rest 1 g, upwards."""
ROTATION = Quantity("rotation rate", "rad/s", decimals=1, lanes=("x", "y", "z"))
TEMPERATURE = Quantity("temperature", "°C", decimals=1)
NUMBER = Quantity("number", "")
