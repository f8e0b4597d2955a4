"""How a unit with a protocol of its own is talked to: registers on a bus, commands on one lead."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar

from tickstone.core.families.figure import STRICT, Figure, check_label, check_unlike

MOST_BYTES = 32
"""As many as the common I²C buffers of small boards take in one go; common practice."""
_BYTE = 256


@dataclass(frozen=True, slots=True)
class RegisterWrite:
    """One register set at the start. why: what that does. by: a parameter of the sensor's chain
    that decides the value, and `values` what it is for each of its values, as text.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    register: int
    value: int
    why: str
    by: str = ""
    values: dict[str, int] = field(default_factory=dict, hash=False)

    def __post_init__(self) -> None:
        check_label("why", self.why)
        for what, one in (
            ("register", self.register),
            ("value", self.value),
            *((f"values: {name}", one) for name, one in self.values.items()),
        ):
            _check_byte(what, one)
        if bool(self.by) != bool(self.values):
            raise ValueError("by: a parameter that decides needs “values”, and they need it")

    def value_for(self, parameters: Mapping[str, Any]) -> int | None:
        """The value with a sensor set so; None when its parameter has none that the unit knows."""
        if not self.by or self.by not in parameters:
            return self.value
        return self.values.get(f"{float(parameters[self.by]):g}")


@dataclass(frozen=True, slots=True)
class RegisterValue:
    """A number in the bytes read. at: of its first byte. unit: as printed, ASCII."""

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    name: str
    at: int
    bytes: int = 2
    is_signed: bool = True
    unit: str = "LSB"

    def __post_init__(self) -> None:
        check_label("a value’s name", self.name)
        if self.bytes not in (1, 2):
            raise ValueError(f"{self.name}: a value has 1 or 2 bytes, not {self.bytes}")


@dataclass(frozen=True, slots=True)
class Registers:
    """A unit on the I²C bus: what is written once, and what is read each time.

    first: the register the reading begins at. count: of bytes. source: of all these numbers.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    first: int
    count: int
    values: tuple[RegisterValue, ...]
    source: str
    setup: tuple[RegisterWrite, ...] = ()
    low_byte_first: bool = False

    def __post_init__(self) -> None:
        _check_byte("first", self.first)
        if not 1 <= self.count <= MOST_BYTES:
            raise ValueError(f"count: 1 to {MOST_BYTES} bytes are read in one go")
        if not self.values:
            raise ValueError("values: nothing would be read")
        check_unlike("value", [one.name for one in self.values])
        for one in self.values:
            if not 0 <= one.at <= self.count - one.bytes:
                raise ValueError(f"{one.name}: it lies outside the {self.count} bytes read")
        if not self.source.strip():
            raise ValueError("registers need the source of their numbers")


@dataclass(frozen=True, slots=True)
class OneWire:
    """A thermometer that takes commands on one lead which every side only pulls down.

    skip: addresses whatever is there. convert, read: its commands. convert_s: how long it takes.
    lsb_c: °C of one code. source: of the commands.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    skip: int
    convert: int
    read: int
    convert_s: Figure
    lsb_c: Figure
    source: str

    def __post_init__(self) -> None:
        if not self.source.strip():
            raise ValueError("commands need the source of their numbers")
        for what in ("skip", "convert", "read"):
            _check_byte(what, getattr(self, what))
        if not 0.0 < self.convert_s.value <= 60.0:
            raise ValueError("convert_s: above 0 s, 60 s at most")


@dataclass(frozen=True, slots=True)
class OneWord:
    """A unit that answers a long low with one word of 40 bits: humidity, temperature and their sum.

    start_s: how long the lead is held low. Bits are told apart by how long they are high:
    `split_s`.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    start_s: Figure
    split_s: Figure


def _check_byte(what: str, value: int) -> None:
    if not 0 <= value < _BYTE:
        raise ValueError(f"{what}: {value} is no byte")
