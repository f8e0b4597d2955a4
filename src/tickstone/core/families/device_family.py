"""A kind of device that is wired to a board: a sensor, an indicator or an actuator."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, ClassVar, Literal

from tickstone.core.chains import CHAINS
from tickstone.core.families.board_family import Ability, TimerUse
from tickstone.core.families.figure import (
    STRICT,
    Figure,
    check_above_zero,
    check_label,
    check_name,
    check_unlike,
)
from tickstone.core.families.part import Part
from tickstone.core.families.protocols import OneWire, OneWord, Registers
from tickstone.core.lines.guess import QUANTITIES

MOST_LEADS = 40
MOST_INSIDE = 40
MOST_RECOGNISE = 300


class DeviceKind(StrEnum):
    """What it is for."""

    SENSOR = "sensor"
    INDICATOR = "indicator"
    ACTUATOR = "actuator"


_DRIVES = {
    DeviceKind.SENSOR: "Drive where it has something to tell. Did it say what you saw?",
    DeviceKind.INDICATOR: "Drive until it has something to show. Did it show it, and only then?",
    DeviceKind.ACTUATOR: "Drive slowly first. Did it do what it was told, and stop when told to?",
}


class Role(StrEnum):
    """What a lead is, seen from the device."""

    SUPPLY = "supply"
    GROUND = "ground"
    OUTPUT = "output"
    ANALOGUE = "analogue"
    INPUT = "input"
    TWO_WAY = "two_way"
    SDA = "sda"
    SCL = "scl"
    ANODE = "anode"
    CATHODE = "cathode"
    COLLECTOR = "collector"
    EMITTER = "emitter"
    BATTERY = "battery"
    LEG = "leg"

    @property
    def words(self) -> str:
        """As a person says it."""
        return _ROLE_WORDS[self]


_ROLE_WORDS = {
    Role.SUPPLY: "supply",
    Role.GROUND: "ground",
    Role.OUTPUT: "digital output",
    Role.ANALOGUE: "analogue output",
    Role.INPUT: "input",
    Role.TWO_WAY: "in and out on one lead",
    Role.SDA: "I²C data",
    Role.SCL: "I²C clock",
    Role.ANODE: "LED anode, the longer leg",
    Role.CATHODE: "LED cathode, the flat side",
    Role.COLLECTOR: "phototransistor collector",
    Role.EMITTER: "phototransistor emitter",
    Role.BATTERY: "battery to be measured",
    Role.LEG: "leg, either way round",
}


class Drive(StrEnum):
    """How an output drives: both ways, or only down to ground."""

    PUSH_PULL = "push_pull"
    OPEN_DRAIN = "open_drain"


@dataclass(frozen=True, slots=True)
class Output:
    """A digital output. high_v: its high; left out, that of its supply. sink_a: most it may sink.

    own_pull_up_ohm: the one on the module, to its supply, when there is one. good_pull_up_ohm: what
    is mostly put there when there is none.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    drive: Drive
    low_v: Figure
    high_v: Figure | None = None
    sink_a: Figure | None = None
    own_pull_up_ohm: Figure | None = None
    good_pull_up_ohm: Figure | None = None

    def __post_init__(self) -> None:
        for what in ("high_v", "sink_a", "own_pull_up_ohm", "good_pull_up_ohm"):
            check_above_zero(what, getattr(self, what))


@dataclass(frozen=True, slots=True)
class Analogue:
    """An analogue output's span, V; a ratiometric one has it at `at_supply_v` and scales so.

    source_ohm: behind it; left out, next to nothing.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    low_v: Figure
    high_v: Figure
    ratiometric: bool = False
    at_supply_v: float = 0.0
    source_ohm: Figure | None = None

    def __post_init__(self) -> None:
        check_above_zero("source_ohm", self.source_ohm)
        if self.high_v.value <= self.low_v.value:
            raise ValueError("high_v has to be above low_v")
        if self.ratiometric and self.at_supply_v <= 0.0:
            raise ValueError("a ratiometric output needs at_supply_v")


@dataclass(frozen=True, slots=True)
class Input:
    """A digital input of the device. high_min_v: a reliable high; low_max_v: a reliable low.

    current_a: what it takes.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    high_min_v: Figure
    absolute_max_v: Figure | None = None
    current_a: Figure | None = None
    low_max_v: Figure | None = None

    def __post_init__(self) -> None:
        check_above_zero("high_min_v", self.high_min_v)
        check_above_zero("absolute_max_v", self.absolute_max_v)


@dataclass(frozen=True, slots=True)
class Emitter:
    """A light-emitting diode. forward_v: at `good_a`. max_a: beyond it the LED ages or dies.

    is_infrared: cannot be judged by eye.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    forward_v: Figure
    good_a: Figure
    max_a: Figure
    is_infrared: bool = False

    def __post_init__(self) -> None:
        for what in ("forward_v", "good_a", "max_a"):
            check_above_zero(what, getattr(self, what))
        if self.good_a.value > self.max_a.value:
            raise ValueError("good_a has to be at most max_a")


@dataclass(frozen=True, slots=True)
class Supply:
    """What it is fed. V and A. typical_a: in work. peak_a: for a moment."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    min_v: Figure
    max_v: Figure
    typical_a: Figure
    peak_a: Figure | None = None
    wants_decoupling: bool = False

    def __post_init__(self) -> None:
        for what in ("min_v", "max_v"):
            check_above_zero(what, getattr(self, what))
        if self.max_v.value < self.min_v.value:
            raise ValueError("max_v has to be at least min_v")


@dataclass(frozen=True, slots=True)
class Lead:
    """One lead. labels: what is printed beside it, the usual first. needs: an ability of the pin.

    pulses_hz: for an output that gives pulses to be counted, the rate it is fit for. edge_s: how
    late an edge may come and still be of use. is_shared: several such leads may be on one pin, each
    answering to its own name. is_shutdown: held low it takes the device off its bus. rail: of a leg
    that mostly goes to a rail, `ground` or `supply`. supply: of a second supply lead, its volts and
    current. uses: what the program works it by, where that takes a timer of the board.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    role: Role
    labels: tuple[str, ...]
    needs: Ability | None = None
    is_optional: bool = False
    output: Output | None = None
    analogue: Analogue | None = None
    input: Input | None = None
    emitter: Emitter | None = None
    pulses_hz: Figure | None = None
    edge_s: Figure | None = None
    is_shared: bool = False
    is_shutdown: bool = False
    rail: Literal["", "ground", "supply"] = ""
    supply: Supply | None = None
    uses: TimerUse | None = None

    def __post_init__(self) -> None:
        check_label("a lead’s name", self.name)
        if not self.labels:
            raise ValueError(f"lead {self.name} needs the label printed beside it")
        for what, roles in (
            ("output", (Role.OUTPUT, Role.TWO_WAY)),
            ("analogue", (Role.ANALOGUE,)),
            ("input", (Role.INPUT,)),
            ("emitter", (Role.ANODE,)),
        ):
            if what == "input" and self.role is Role.TWO_WAY:
                continue  # it may say what it takes for a high, or leave that open
            if (getattr(self, what) is not None) != (self.role in roles):
                here = "needs" if self.role in roles else "cannot have"
                raise ValueError(f"lead {self.name} is {self.role.words}; it {here} “{what}”")

    @property
    def wants(self) -> Ability | None:
        """The ability its pin has to have; None for a lead that goes to a rail."""
        return self.needs or _WANTS.get(self.role)


_WANTS = {
    Role.OUTPUT: Ability.DIGITAL_IN,
    Role.TWO_WAY: Ability.DIGITAL_OUT,
    Role.ANALOGUE: Ability.ANALOGUE,
    Role.INPUT: Ability.DIGITAL_OUT,
    Role.SDA: Ability.SDA,
    Role.SCL: Ability.SCL,
    Role.BATTERY: Ability.ANALOGUE,
}


@dataclass(frozen=True, slots=True)
class I2c:
    """Its place on an I²C bus. own_pull_up_ohm: on the module. pulls_to_v: left out, its supply.

    address_lead: the lead that chooses the first address when low, the second when high.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    addresses: tuple[int, ...]
    max_hz: Figure
    capacitance_f: Figure
    own_pull_up_ohm: Figure | None = None
    pulls_to_v: Figure | None = None
    address_lead: str = ""

    def __post_init__(self) -> None:
        if not self.addresses:
            raise ValueError("an I²C device needs at least one address")
        for address in self.addresses:
            if not 0x08 <= address <= 0x77:
                raise ValueError(
                    f"address {address:#04x} is outside 0x08 to 0x77 (UM10204 §3.1.12)"
                )
        if self.address_lead and len(self.addresses) < 2:
            raise ValueError("address_lead chooses between two addresses; there is one")
        check_above_zero("own_pull_up_ohm", self.own_pull_up_ohm)


@dataclass(frozen=True, slots=True)
class ReadingCost:
    """What one reading costs the program, s.

    blocking_s: when the program waits for it. interleaved_s: when it is only started and fetched.
    quiet_s: the least time between two readings.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    blocking_s: Figure
    interleaved_s: Figure
    quiet_s: Figure | None = None

    def __post_init__(self) -> None:
        for what in ("blocking_s", "interleaved_s"):
            if getattr(self, what).value < 0.0:
                raise ValueError(f"{what} cannot be below 0")
        if self.interleaved_s.value > self.blocking_s.value:
            raise ValueError("interleaved_s has to be at most blocking_s")


@dataclass(frozen=True, slots=True)
class DeviceFamily:
    """A kind of sensor, indicator or actuator.

    name: for files. label: for people. what: one or two sentences. leads: none for a sensor that is
    worked out from what others say. chain: how its readings are
    worked out, empty when there is no bench for that yet. is_driven: whether a drive can try it.
    drive: what to try in that drive and what to ask of it; empty: the usual. cautions: shown while
    wiring it. beam_rad: full angle in which it hears others of its kind. columns: what columns of a
    line are usually called, by what they hold, beyond what its chain takes in. tells_air: whether
    its temperature is that of the air around. inside: parts between its leads, as far as the
    outside sees them; an end that is no lead is a place inside. recognise: what tells it apart,
    with the part in the hand, from those that have the same labels. registers, one_wire, one_word:
    how a program talks to it, where that takes more than a pin.

    Raises ValueError naming the first thing that does not fit.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    label: str
    kind: DeviceKind
    what: str
    leads: tuple[Lead, ...]
    supply: Supply | None = None
    i2c: I2c | None = None
    reading: ReadingCost | None = None
    beam_rad: Figure | None = None
    chain: str = ""
    is_driven: bool = True
    drive: str = ""
    cautions: tuple[str, ...] = ()
    columns: dict[str, tuple[str, ...]] = field(default_factory=dict, hash=False)
    tells_air: bool = False
    inside: tuple[Part, ...] = ()
    recognise: str = ""
    registers: Registers | None = None
    one_wire: OneWire | None = None
    one_word: OneWord | None = None

    def __post_init__(self) -> None:
        check_name(self.name)
        check_label("label", self.label)
        if len(self.recognise) > MOST_RECOGNISE:
            count = len(self.recognise)
            raise ValueError(f"recognise: {MOST_RECOGNISE} characters at most, not {count}")
        if len(self.inside) > MOST_INSIDE:
            raise ValueError(f"inside: a device has at most {MOST_INSIDE} parts inside")
        check_unlike("the part inside", [part.key for part in self.inside])
        for part in self.inside:
            if not part.source.strip():
                raise ValueError(f"inside: {part.key} needs the source of its figures")
        for quantity in self.columns:
            if quantity not in QUANTITIES:
                raise ValueError(
                    f"columns: nothing holds a “{quantity}”; known are: {', '.join(QUANTITIES)}"
                )
        if len(self.leads) > MOST_LEADS:
            raise ValueError(f"a device has at most {MOST_LEADS} leads")
        if not self.leads and not self.chain:
            raise ValueError("a device without leads is worked out from others; that needs “chain”")
        check_unlike("lead", [lead.name for lead in self.leads])
        if self.chain and self.chain not in CHAINS:
            raise ValueError(f"there is no chain “{self.chain}”; known are: {', '.join(CHAINS)}")
        roles = {lead.role for lead in self.leads}
        if (Role.SDA in roles or Role.SCL in roles) != (self.i2c is not None):
            raise ValueError("leads SDA and SCL go with “i2c”, and it with them")
        if self.registers is not None and self.i2c is None:
            raise ValueError("registers: only what is on an I²C bus has them here; add “i2c”")
        for lead in self.leads:
            if lead.role is Role.SUPPLY and self.supply_of(lead) is None:
                raise ValueError("a supply lead needs “supply”: volts and current")
        if self.i2c and self.i2c.address_lead and self.lead(self.i2c.address_lead) is None:
            raise ValueError(f"address_lead: there is no lead “{self.i2c.address_lead}”")

    def supply_of(self, lead: Lead) -> Supply | None:
        """What a supply lead wants: its own figures, or those of the device."""
        return lead.supply or self.supply

    @property
    def asks_of_a_drive(self) -> str:
        """What to try in a drive, and what to ask of it."""
        return self.drive or _DRIVES[self.kind]

    @property
    def is_wired(self) -> bool:
        """Whether there is anything to wire."""
        return bool(self.leads)

    @property
    def has_chain(self) -> bool:
        """Whether it can be heard, calibrated and tuned here."""
        return bool(self.chain)

    def lead(self, name: str) -> Lead | None:
        """The lead of that name, or None."""
        return next((lead for lead in self.leads if lead.name == name), None)
