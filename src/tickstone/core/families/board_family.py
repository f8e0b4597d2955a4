"""A kind of board: its pins and what they can do and bear, its rails, its converter."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any, ClassVar

from tickstone.core.families.figure import (
    STRICT,
    Figure,
    check_above_zero,
    check_label,
    check_name,
    check_unlike,
)

MOST_PINS = 200


class Ability(StrEnum):
    """What a pin can do."""

    DIGITAL_IN = "digital_in"
    DIGITAL_OUT = "digital_out"
    ANALOGUE = "analogue"
    PWM = "pwm"
    INTERRUPT = "interrupt"
    PIN_CHANGE = "pin_change"
    SDA = "sda"
    SCL = "scl"

    @property
    def words(self) -> str:
        """As a person says it."""
        return _ABILITY_WORDS[self]


BUS_LINES = (Ability.SDA, Ability.SCL)
_ABILITY_WORDS = {
    Ability.DIGITAL_IN: "digital input",
    Ability.DIGITAL_OUT: "digital output",
    Ability.ANALOGUE: "analogue input",
    Ability.PWM: "PWM output",
    Ability.INTERRUPT: "external interrupt",
    Ability.PIN_CHANGE: "pin-change interrupt",
    Ability.SDA: "I²C data (SDA)",
    Ability.SCL: "I²C clock (SCL)",
}


class PinUse(StrEnum):
    """A job of the board's own that a pin has besides."""

    NONE = "none"
    SERIAL = "serial"
    BOOT = "boot"
    LAMP = "lamp"


class TimerUse(StrEnum):
    """What a program does with a timer besides PWM."""

    SERVO = "servo"
    TONE = "tone"

    @property
    def words(self) -> str:
        """As a person says it."""
        return {TimerUse.SERVO: "servo pulses", TimerUse.TONE: "tones"}[self]


class RailKind(StrEnum):
    """GROUND; REGULATED: the board gives it; INPUT: the person feeds it, such as a battery."""

    GROUND = "ground"
    REGULATED = "regulated"
    INPUT = "input"


@dataclass(frozen=True, slots=True)
class PinClass:
    """What pins of one make can bear. V and A; a figure left out is not known.

    drive_a: current the pin is meant for. absolute_a: beyond it the pin is destroyed.
    high_min_v: a reliable high at the input (V_IH). low_max_v: a reliable low (V_IL).
    absolute_max_v: beyond it the input is destroyed; for a pin that bears 5 V it says 5.5.
    output_high_v, output_low_v: what it drives at `drive_a`. pull_up_ohm: its own, when it has one.
    leak_a: what an input takes or gives at most.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    high_min_v: Figure
    low_max_v: Figure
    absolute_max_v: Figure
    drive_a: Figure | None = None
    absolute_a: Figure | None = None
    output_high_v: Figure | None = None
    output_low_v: Figure | None = None
    pull_up_ohm: Figure | None = None
    leak_a: Figure | None = None

    def __post_init__(self) -> None:
        for what in (
            *("high_min_v", "absolute_max_v", "drive_a", "absolute_a", "pull_up_ohm", "leak_a"),
        ):
            check_above_zero(what, getattr(self, what))
        if self.low_max_v.value >= self.high_min_v.value:
            raise ValueError("low_max_v has to be below high_min_v")
        if self.high_min_v.value >= self.absolute_max_v.value:
            raise ValueError("high_min_v has to be below absolute_max_v")


@dataclass(frozen=True, slots=True)
class Pin:
    """One pin. name: as printed. use: a job of the board's own; caution: what that means."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    pin_class: str
    abilities: tuple[Ability, ...]
    port: str = ""
    use: PinUse = PinUse.NONE
    caution: str = ""

    def __post_init__(self) -> None:
        check_label("a pin’s name", self.name)
        if self.use is not PinUse.NONE and not self.caution.strip():
            raise ValueError(f"pin {self.name} has a use of the board’s own; say the caution")


@dataclass(frozen=True, slots=True)
class Port:
    """Pins that share one limit. limit_a: of all of them together, A."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    limit_a: Figure


@dataclass(frozen=True, slots=True)
class Bus:
    """An I²C controller, and the pins its data and clock may be led to, the usual first."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    sda: tuple[str, ...]
    scl: tuple[str, ...]
    source: str = ""

    def pins(self, ability: Ability) -> tuple[str, ...]:
        """Its pins for data, or for the clock."""
        return self.sda if ability is Ability.SDA else self.scl


@dataclass(frozen=True, slots=True)
class Timer:
    """A timer and the pins it gives PWM on. taken_by: what it is needed for instead, when asked."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    pins: tuple[str, ...]
    source: str
    taken_by: tuple[TimerUse, ...] = ()


@dataclass(frozen=True, slots=True)
class Rail:
    """A supply or ground. volts: nominal, for an INPUT the usual. tolerance: as a fraction.

    limit_a: what may be drawn from it, A; none for ground. fed_from: the rail its regulator stands
    on, if it has one; dropout_v: what that wants above its output; heat_w: what it bears.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    kind: RailKind
    volts: Figure
    tolerance: float = 0.0
    limit_a: Figure | None = None
    fed_from: str = ""
    dropout_v: Figure | None = None
    heat_w: Figure | None = None

    def __post_init__(self) -> None:
        check_label("a rail’s name", self.name)
        if not 0.0 <= self.tolerance < 1.0:
            raise ValueError(f"rail {self.name}: the tolerance is a fraction from 0 to 1")
        if self.kind is RailKind.GROUND:
            if self.volts.value != 0.0:
                raise ValueError(f"rail {self.name} is ground; its volts are 0")
        elif self.volts.value <= 0.0:
            raise ValueError(f"rail {self.name} needs volts above 0")
        check_above_zero(f"rail {self.name}: limit_a", self.limit_a)


@dataclass(frozen=True, slots=True)
class Reference:
    """What full scale is compared with. follows_supply: it is the board's own supply.

    rail: one that a wire brings to the board's reference pin; empty when none has to.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    volts: Figure
    follows_supply: bool = False
    rail: str = ""

    def __post_init__(self) -> None:
        check_label("a reference’s name", self.name)
        check_above_zero(f"reference {self.name}", self.volts)
        if self.rail and self.follows_supply:
            raise ValueError(f"reference {self.name} is the supply or a rail on a wire, not both")


@dataclass(frozen=True, slots=True)
class Converter:
    """Volts to counts. conversion_s: one reading, s. source_ohm: what it wants to be fed from."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    bits: int
    references: tuple[Reference, ...]
    conversion_s: Figure
    source_ohm: Figure

    def __post_init__(self) -> None:
        if not 4 <= self.bits <= 32:
            raise ValueError(f"a converter of {self.bits} bits cannot be; 4 to 32")
        if not self.references:
            raise ValueError("a converter needs a reference")
        check_unlike("reference", [one.name for one in self.references])
        check_above_zero("conversion_s", self.conversion_s)
        check_above_zero("source_ohm", self.source_ohm)


@dataclass(frozen=True, slots=True)
class BoardFamily:
    """A kind of board.

    name: for files, a–z, 0–9, _. label: for people. what: one or two sentences.
    recognise: how to tell that this is the one. total_a: all pins together, A. draw_a: what the
    board itself takes from its logic rail, A. buses: its I²C controllers; left out, there is one,
    on all pins that can do it. timers: those whose PWM something else may take.

    Raises ValueError naming the first thing that does not fit.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    label: str
    what: str
    recognise: str
    logic_v: Figure
    clock_hz: Figure
    pin_classes: tuple[PinClass, ...]
    pins: tuple[Pin, ...]
    rails: tuple[Rail, ...]
    converter: Converter | None = None
    ports: tuple[Port, ...] = ()
    total_a: Figure | None = None
    draw_a: Figure | None = None
    buses: tuple[Bus, ...] = ()
    timers: tuple[Timer, ...] = ()

    def __post_init__(self) -> None:
        check_name(self.name)
        check_label("label", self.label)
        check_above_zero("logic_v", self.logic_v)
        check_above_zero("clock_hz", self.clock_hz)
        if not 1 <= len(self.pins) <= MOST_PINS:
            raise ValueError(f"a board has 1 to {MOST_PINS} pins")
        names = [pin.name for pin in self.pins] + [rail.name for rail in self.rails]
        check_unlike("pin or rail", names)
        check_unlike("pin class", [one.name for one in self.pin_classes])
        classes = {one.name for one in self.pin_classes}
        ports = {one.name for one in self.ports}
        for pin in self.pins:
            if pin.pin_class not in classes:
                raise ValueError(
                    f"pin {pin.name} is of the class “{pin.pin_class}”, which is not described"
                )
            if pin.port and pin.port not in ports:
                raise ValueError(f"pin {pin.name} is on port “{pin.port}”, which is not described")
            if Ability.ANALOGUE in pin.abilities and self.converter is None:
                raise ValueError(f"pin {pin.name} is analogue, but the board has no converter")
        for one in self.converter.references if self.converter else ():
            if one.rail and self.rail(one.rail) is None:
                raise ValueError(f"reference {one.name} needs the rail “{one.rail}”; there is none")
        for rail in self.rails:
            if rail.fed_from and (rail.fed_from == rail.name or self.rail(rail.fed_from) is None):
                raise ValueError(f"rail {rail.name} is fed from “{rail.fed_from}”; there is none")
        self._check_groups()
        if not any(rail.kind is RailKind.GROUND for rail in self.rails):
            raise ValueError("a board needs a ground rail")
        if not any(rail.kind is RailKind.REGULATED for rail in self.rails):
            raise ValueError("a board needs a regulated rail")

    def _check_groups(self) -> None:
        """Raises ValueError where a bus or a timer names a pin that cannot do it."""
        check_unlike("bus", [one.name for one in self.buses])
        check_unlike("timer", [one.name for one in self.timers])
        groups = [
            *((bus.name, bus.pins(line), line) for bus in self.buses for line in BUS_LINES),
            *((timer.name, timer.pins, Ability.PWM) for timer in self.timers),
        ]
        for name, pins, ability in groups:
            for each in pins:
                pin = self.pin(each)
                if pin is None or ability not in pin.abilities:
                    raise ValueError(f"{name}: there is no pin “{each}” with {ability.words}")

    @property
    def controllers(self) -> tuple[Bus, ...]:
        """Its I²C controllers: those described, or the one its pins make."""
        if self.buses:
            return self.buses
        sda, scl = (
            tuple(pin.name for pin in self.pins if line in pin.abilities) for line in BUS_LINES
        )
        return (Bus("I²C", sda, scl),) if sda and scl else ()

    def pin(self, name: str) -> Pin | None:
        """The pin of that name, or None."""
        return next((pin for pin in self.pins if pin.name == name), None)

    def rail(self, name: str) -> Rail | None:
        """The rail of that name, or None."""
        return next((rail for rail in self.rails if rail.name == name), None)

    def class_of(self, pin: Pin) -> PinClass:
        """What a pin can bear."""
        return next(one for one in self.pin_classes if one.name == pin.pin_class)

    @property
    def ground(self) -> Rail:
        """The first ground rail."""
        return next(rail for rail in self.rails if rail.kind is RailKind.GROUND)

    @property
    def logic_rail(self) -> Rail:
        """The regulated rail nearest the logic level: where pull-ups go."""
        regulated = [rail for rail in self.rails if rail.kind is RailKind.REGULATED]
        return min(regulated, key=lambda rail: abs(rail.volts.value - self.logic_v.value))
