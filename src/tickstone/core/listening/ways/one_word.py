"""Temperature and humidity as one word of 40 bits on a data lead."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.families.device_family import Role
from tickstone.core.families.protocols import OneWord
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of


@dataclass(frozen=True, slots=True, kw_only=True)
class OneWordReading(Reading):
    """word: how its bits are told apart. quiet_us: between two readings."""

    way: ClassVar[str] = "one_word"

    pin: PinInUse
    word: OneWord
    quiet_us: int


class OneWordWay:
    """Hygrometers whose family says how the word comes."""

    def reading(self, part: Part) -> OneWordReading | None:
        """For devices that answer with one word."""
        family = part.device.family
        if family.one_word is None:
            return None
        thread = next((one for one in part.threads if one.lead.role is Role.TWO_WAY), None)
        if thread is None:
            raise CannotReadError("its data lead comes to no pin", "Lead it to a pin.")
        quiet = family.reading.quiet_s if family.reading else None
        return OneWordReading(
            **part.common(
                (
                    part.column("temp", "degC", "temperature", 5),
                    part.column("rh", "%", "humidity", 5),
                )
            ),
            pin=pin_of(thread),
            word=family.one_word,
            quiet_us=round(1e6 * (quiet.value if quiet else 2.0)),
        )
