"""A unit on the I²C bus, read by its registers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal

from tickstone.core.families.device_family import Role
from tickstone.core.families.protocols import Registers
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of
from tickstone.core.wiring.bus_lines import address_of

QUANTITY_OF_UNIT = {"mm": "distance", "degC": "temperature", "%": "humidity"}


@dataclass(frozen=True, slots=True)
class Write:
    """One register as it is set."""

    register: int
    value: int
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RegistersReading(Reading):
    """setup: what is written once. registers: what is read each time, and where it comes from.

    wake: the pin that lets it on the bus, when there is one.
    """

    way: ClassVar[str] = "registers"

    address: int
    bus: str
    sda: PinInUse
    scl: PinInUse
    setup: tuple[Write, ...]
    registers: Registers
    wake: PinInUse | None = None

    def block(self, values: Sequence[float]) -> bytes:
        """The bytes in which the unit says these values, in the order of the columns."""
        told = bytearray(self.registers.count)
        for one, said in zip(self.registers.values, values, strict=True):
            order: Literal["little", "big"] = "little" if self.registers.low_byte_first else "big"
            piece = round(said).to_bytes(one.bytes, order, signed=one.is_signed)
            told[one.at : one.at + one.bytes] = piece
        return bytes(told)


class RegistersWay:
    """Whatever sits on the bus and has its registers in its family."""

    def reading(self, part: Part) -> RegistersReading | None:
        """For devices on the bus."""
        family = part.device.family
        if family.i2c is None:
            return None
        if family.registers is None:
            raise CannotReadError(
                "its family does not say which registers to read",
                "Add “registers” to its family, from its datasheet.",
            )
        data, clock = (
            next((one for one in part.threads if one.lead.role is role), None)
            for role in (Role.SDA, Role.SCL)
        )
        if data is None or clock is None:
            raise CannotReadError("it is not on the bus", "Lead SDA and SCL to the bus pins.")
        address, _ = address_of(part.circuit, data)
        setup = []
        for one in family.registers.setup:
            value = one.value_for(part.parameters)
            if value is None:
                said = f"{float(part.parameters[one.by]):g}"
                raise CannotReadError(
                    f"{one.by} is set to {said}, which the unit cannot be set to; it knows "
                    f"{', '.join(one.values)}",
                    f"Set {one.by} to one of these, and take it anew.",
                )
            setup.append(Write(one.register, value, one.why))
        wake = next((one for one in part.threads if one.lead.is_shutdown), None)
        columns = tuple(
            part.column(one.name, one.unit, _quantity(part, one.name, one.unit))
            for one in family.registers.values
        )
        assert data.pin is not None
        assert clock.pin is not None
        pins = (data.pin.name, clock.pin.name)
        bus = next(
            (
                one.name
                for one in part.board.controllers
                if pins[0] in one.sda and pins[1] in one.scl
            ),
            "",
        )
        return RegistersReading(
            **part.common(columns),
            address=address,
            bus=bus,
            sda=pin_of(data),
            scl=pin_of(clock),
            setup=tuple(setup),
            registers=family.registers,
            wake=pin_of(wake) if wake else None,
        )


def _quantity(part: Part, name: str, unit: str) -> str:
    for quantity, words in part.device.family.columns.items():
        if name in words:
            return quantity
    return QUANTITY_OF_UNIT.get(unit, "number")
