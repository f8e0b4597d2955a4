"""A thermometer on one lead, bit by bit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.families.device_family import Role
from tickstone.core.families.protocols import OneWire
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of

READING_S = 0.006
"""Reset, skip, read, two bytes, and the next conversion begun: bits of about 70 µs."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OneWireReading(Reading):
    """commands: as the family has them."""

    way: ClassVar[str] = "one_wire"

    pin: PinInUse
    commands: OneWire


class OneWireWay:
    """Thermometers whose family has the commands."""

    def reading(self, part: Part) -> OneWireReading | None:
        """For devices with commands on one lead. A conversion is begun, and fetched when done."""
        commands = part.device.family.one_wire
        if commands is None:
            return None
        thread = next((one for one in part.threads if one.lead.role is Role.TWO_WAY), None)
        if thread is None or thread.pin is None:
            raise CannotReadError("its data lead comes to no pin", "Lead it to a pin.")
        shared = [
            one for one in part.circuit.on(thread.pin.name) if one.device.key != part.device.key
        ]
        if shared:
            raise CannotReadError(
                f"it shares {thread.pin.name} with {shared[0].device.name}, and the program does "
                "not call such parts by their own numbers",
                "Give each a pin of its own.",
            )
        return OneWireReading(
            **part.common((part.column("", "degC", "temperature", 7),), READING_S),
            pin=pin_of(thread),
            commands=commands,
        )
