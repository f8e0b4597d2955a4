"""Levels, high or low, looked at once for each line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.families.board_family import Ability
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelsReading(Reading):
    """pins: by column, in order."""

    way: ClassVar[str] = "levels"

    pins: tuple[tuple[str, PinInUse], ...]


class LevelsWay:
    """Buttons, touch keys, comparators and what else is high or low."""

    def reading(self, part: Part) -> LevelsReading | None:
        """For devices with a lead that a program looks at."""
        wanting = [
            one
            for one in part.device.family.leads
            if one.wants is Ability.DIGITAL_IN and not one.is_optional
        ]
        if not wanting:
            return None
        names = [one.name for one in wanting]
        threads = [one for one in part.threads if one.lead.name in names]
        if not threads:
            raise CannotReadError(f"{names[0]} comes to no pin", "Lead it to a pin.")
        suffixes = ["" if len(names) == 1 else one.lead.name.lower() for one in threads]
        columns = tuple(part.column(one, "", "pulse", 1) for one in suffixes)
        pins = [pin_of(one) for one in threads]
        return LevelsReading(
            **part.common(columns),
            pins=tuple((c.name, pin) for c, pin in zip(columns, pins, strict=True)),
        )
