"""A pulse out, an echo in: the time a lead stays high."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.families.device_family import Role
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of

QUIET_US = 60_000
"""Between two pings, so that the first has died away (from memory)."""
USUAL_MAX_M = 4.0
SLOW_AIR_M_S = 319.0
"""The speed of sound at −20 °C, ideal gas: the longest an echo takes."""
STARTS_WITHIN_US = 2_000
"""How long such a ranger takes from its trigger to the start of its answer (from memory)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EchoReading(Reading):
    """trigger, echo: the pins; the same for a ranger on one lead. timeout_us: longer is no echo.

    slot: rangers of one slot may follow each other at once; between slots it has to be quiet.
    """

    way: ClassVar[str] = "echo"

    trigger: PinInUse
    echo: PinInUse
    timeout_us: int
    quiet_us: int
    slot: int = 0

    @property
    def is_one_lead(self) -> bool:
        """Whether trigger and echo share a lead."""
        return self.trigger == self.echo


class EchoWay:
    """Ultrasonic rangers, of two signal leads or one."""

    def reading(self, part: Part) -> EchoReading | None:
        """For what the chain of echoes takes in."""
        family = part.device.family
        if family.chain != "echo":
            return None
        out = next((one for one in part.threads if one.lead.role is Role.INPUT), None)
        back = next((one for one in part.threads if one.lead.role is Role.OUTPUT), None)
        both = next((one for one in part.threads if one.lead.role is Role.TWO_WAY), None)
        out, back = out or both, back or both
        if out is None or back is None:
            missing = "trigger" if out is None else "echo"
            raise CannotReadError(
                f"its {missing} lead comes to no pin", "Lead it to a pin, and it is read."
            )
        farthest_m = float(part.parameters.get("max_m", USUAL_MAX_M))
        timeout_us = round(2e6 * farthest_m / SLOW_AIR_M_S / 100.0) * 100 + 500
        quiet = family.reading.quiet_s if family.reading else None
        return EchoReading(
            **part.common(
                (part.column("", "us", "echo time", 5),), (timeout_us + STARTS_WITHIN_US) / 1e6
            ),
            trigger=pin_of(out),
            echo=pin_of(back),
            timeout_us=timeout_us,
            quiet_us=round(1e6 * quiet.value) if quiet else QUIET_US,
        )
