"""Volts through the board's converter, channel by channel."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Lead
from tickstone.core.listening.reading import CannotReadError, Part, PinInUse, Reading, pin_of
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.thread import Thread

SETTLE_US = 10
"""From one channel to the next, for a source as stiff as the converter wants (from memory)."""
MOST_SETTLE_US = 2_000


@dataclass(frozen=True, slots=True)
class Channel:
    """One pin read. settle_us: between choosing it and the reading that counts."""

    column: str
    lead: str
    pin: PinInUse
    settle_us: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ConverterReading(Reading):
    """channels: in the order of the columns."""

    way: ClassVar[str] = "converter"

    channels: tuple[Channel, ...]


class ConverterWay:
    """Whatever comes as a voltage."""

    def reading(self, part: Part) -> ConverterReading | None:
        """For devices with a lead that wants an analogue pin."""
        family = part.device.family
        wanting = [one for one in family.leads if one.wants is Ability.ANALOGUE]
        if not wanting:
            return None
        threads = [one for one in part.threads if one.lead.wants is Ability.ANALOGUE]
        if not threads:
            if any(one.lead.wants is Ability.DIGITAL_IN for one in part.threads):
                return None
            raise _nowhere(part, wanting[0])
        for one in threads:
            if one.pin is not None and Ability.ANALOGUE not in one.pin.abilities:
                able = [p.name for p in part.board.pins if Ability.ANALOGUE in p.abilities]
                raise CannotReadError(
                    f"{one.pin.name} does not reach the converter",
                    f"Move {one.lead.name} to one that does: {', '.join(able[:8])}."
                    if able
                    else "Put a converter of its own on the bus, or take a board with one.",
                )
        suffixes = _suffixes(part, threads)
        columns = tuple(part.column(one, "counts", "converter counts", 5) for one in suffixes)
        channels = tuple(
            Channel(column.name, one.lead.name, pin_of(one), _settle_us(one))
            for one, column in zip(threads, columns, strict=True)
        )
        converter = part.board.converter
        each_s = converter.conversion_s.value if converter else 1e-4
        seconds = sum(2.0 * each_s + one.settle_us / 1e6 for one in channels)
        return ConverterReading(**part.common(columns, seconds), channels=channels)


def _nowhere(part: Part, lead: Lead) -> CannotReadError:
    if part.board.converter is None:
        return CannotReadError(
            f"a {part.board.label} has no converter, and {lead.name} gives volts",
            "Put a converter of its own on the bus, or take a board with one.",
        )
    return CannotReadError(f"{lead.name} comes to no pin", "Lead it to an analogue pin.")


def _suffixes(part: Part, threads: list[Thread]) -> list[str]:
    """What tells its columns apart: nothing for one, the names of axes, or numbers."""
    leads = [one for one in part.device.family.leads if one.wants is Ability.ANALOGUE]
    if len(leads) == 1:
        return [""]
    for words in part.device.family.columns.values():
        if len(words) >= len(leads) and len({len(one) for one in words[: len(leads)]}) == 1:
            named = dict(zip((one.name for one in leads), words, strict=False))
            return [named[one.lead.name] for one in threads]
    return [str(leads.index(one.lead) + 1) for one in threads]


def _settle_us(thread: Thread) -> int:
    """A source behind much resistance fills the converter's capacitor slowly, unless a capacitor
    at the pin does it at once.
    """
    ohm = thread.series_ohm
    has_capacitor = any(one.kind is BeadKind.CAPACITOR for one in thread.beads)
    if ohm <= 10_000.0 or has_capacitor:
        return SETTLE_US
    # 20 pF of pin and converter, eleven time constants to settle within half of 1/1024; from memory
    return min(MOST_SETTLE_US, max(SETTLE_US, round(11.0 * ohm * 20e-12 * 1e6)))
