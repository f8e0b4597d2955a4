"""Pulses counted by an interrupt, and the time from one to the next."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Drive
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of

CHANGE_PORTS = ("B", "C", "D")
"""Ports of which it is known which interrupt a change raises (from memory)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgesReading(Reading):
    """edge: which one is counted. by: an external interrupt, or one on any change of the port."""

    way: ClassVar[str] = "edges"

    pin: PinInUse
    edge: Literal["falling", "rising"]
    by: Literal["interrupt", "pin change"]


class EdgesWay:
    """Hall switches and encoders of one channel."""

    def reading(self, part: Part) -> EdgesReading | None:
        """For what the chain of pulses takes in."""
        if part.device.family.chain != "pulses":
            return None
        thread = next((one for one in part.threads if one.lead.output is not None), None)
        if thread is None or thread.pin is None or thread.lead.output is None:
            raise CannotReadError(
                "its output comes to no pin", "Lead it to a pin that takes an interrupt."
            )
        if not {Ability.INTERRUPT, Ability.PIN_CHANGE} & {*thread.pin.abilities}:
            able = [p.name for p in part.board.pins if Ability.INTERRUPT in p.abilities]
            raise CannotReadError(
                f"{thread.pin.name} cannot interrupt the program, and looking once a line would "
                "miss pulses",
                f"Move it to one that can: {', '.join(able[:6])}.",
            )
        is_own = Ability.INTERRUPT in thread.pin.abilities
        if not is_own and thread.pin.port not in CHANGE_PORTS:
            raise CannotReadError(
                f"{thread.pin.name} shares its interrupt, and which one is not known here",
                "Move it to one of the board’s external interrupts.",
            )
        pulls_down = thread.lead.output.drive is Drive.OPEN_DRAIN
        return EdgesReading(
            **part.common(
                (
                    part.column("count", "", "pulse count", 5),
                    part.column("gap", "us", "pulse gap", 10),
                )
            ),
            pin=pin_of(thread),
            edge="falling" if pulls_down else "rising",
            by="interrupt" if is_own else "pin change",
        )
