"""What each reading, print and delay costs per turn of the program."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

from tickstone.core.families.figure import STRICT
from tickstone.core.timing.firing_order import firing_order
from tickstone.core.wiring.netlist import Device

BITS_PER_CHARACTER = 10
"""One start bit, eight of data, one stop bit: 9 600 baud are 960 characters a second."""
BUFFERED_CHARACTER_S = 8e-6
"""Putting a character into the send buffer, s (from memory); the line works on by itself."""


@dataclass(frozen=True, slots=True)
class Program:
    """What the program does besides reading.

    baud: of the serial line. characters: printed per turn. delay_s: spent waiting on purpose.
    other_s: its own arithmetic and outputs. is_interleaved: readings are started and fetched later
    instead of waited for.

    Raises ValueError naming the field that does not do.
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    baud: int = 9_600
    characters: int = 20
    delay_s: float = 0.0
    other_s: float = 0.001
    is_interleaved: bool = False

    def __post_init__(self) -> None:
        for name, value, low, high in (
            ("baud", self.baud, 300, 4_000_000),
            ("characters", self.characters, 0, 10_000),
            ("delay_s", self.delay_s, 0.0, 60.0),
            ("other_s", self.other_s, 0.0, 60.0),
        ):
            if not (math.isfinite(value) and low <= value <= high):
                raise ValueError(f"{name}: {value:g} is outside {low:g} to {high:g}")

    @property
    def printing_s(self) -> float:
        """How long the line is busy with one turn's characters, s.

        >>> round(Program(characters=40).printing_s * 1000, 1)
        41.7
        """
        return self.characters * BITS_PER_CHARACTER / self.baud


@dataclass(frozen=True, slots=True)
class Cost:
    """One line of the sum. seconds: in this way of working. other_way_s: in the other."""

    name: str
    what: str
    seconds: float
    other_way_s: float
    source: str


@dataclass(frozen=True, slots=True)
class Period:
    """How long a sensor goes unread: from one reading to the next, s."""

    device: str
    seconds: float
    why: str


@dataclass(frozen=True, slots=True)
class LoopBudget:
    """The sum. loop_s: one turn. blind_s: the longest any sensor goes unread."""

    costs: tuple[Cost, ...]
    loop_s: float
    other_way_s: float
    periods: tuple[Period, ...]
    slots: tuple[tuple[str, ...], ...]

    @property
    def rate_hz(self) -> float:
        """Turns a second; 0 for a program that does nothing."""
        return 1.0 / self.loop_s if self.loop_s > 0.0 else 0.0

    @property
    def bottleneck(self) -> Cost | None:
        """What costs most."""
        return max(self.costs, key=lambda cost: cost.seconds, default=None)

    @property
    def blind_s(self) -> float:
        """The longest any sensor goes unread, s."""
        return max((period.seconds for period in self.periods), default=self.loop_s)


def loop_budget(devices: Sequence[Device], program: Program) -> LoopBudget:
    """Add it up, for waiting and for interleaving.

    Waiting: T = Σ readings + characters × 10/baud + delays + the rest. Interleaved: only what keeps
    the processor busy, but no faster than the line can print. Rangers are read slot by slot.
    """
    costs = [
        _cost(
            device.name,
            "reading",
            reading.blocking_s.value,
            reading.interleaved_s.value,
            reading.blocking_s.source,
            program,
        )
        for device in devices
        if (reading := device.family.reading) is not None
    ]
    printing = program.printing_s
    busy = math.fsum(_ways(cost, program)[1] for cost in costs) + program.other_s
    costs += [
        _cost(
            "printing",
            f"{program.characters} characters at {program.baud} baud",
            printing,
            max(min(printing, program.characters * BUFFERED_CHARACTER_S), printing - busy),
            "10 bits a character; the line sets the pace when nothing else does",
            program,
        ),
        _cost("delays", "waiting on purpose", program.delay_s, 0.0, "stated", program),
        _cost(
            "the rest", "arithmetic, outputs", program.other_s, program.other_s, "stated", program
        ),
    ]
    waiting = math.fsum(_ways(cost, program)[0] for cost in costs)
    busy = math.fsum(_ways(cost, program)[1] for cost in costs)
    loop, other = (busy, waiting) if program.is_interleaved else (waiting, busy)
    slots = firing_order(devices)
    return LoopBudget(
        tuple(cost for cost in costs if cost.seconds > 0.0 or cost.other_way_s > 0.0),
        loop,
        other,
        tuple(_period(device, loop, slots, program) for device in devices if device.family.reading),
        tuple(tuple(device.name for device in slot) for slot in slots),
    )


def _cost(
    name: str, what: str, waiting_s: float, busy_s: float, source: str, program: Program
) -> Cost:
    now, other = (busy_s, waiting_s) if program.is_interleaved else (waiting_s, busy_s)
    return Cost(name, what, now, other, source)


def _ways(cost: Cost, program: Program) -> tuple[float, float]:
    """Waiting, interleaved."""
    if program.is_interleaved:
        return cost.other_way_s, cost.seconds
    return cost.seconds, cost.other_way_s


def _period(
    device: Device, loop_s: float, slots: Sequence[Sequence[Device]], program: Program
) -> Period:
    reading = device.family.reading
    assert reading is not None
    quiet = reading.quiet_s.value if reading.quiet_s else 0.0
    turns = 1
    if device.family.beam_rad is not None and program.is_interleaved:
        # Interleaved, rangers take turns by slots; waiting, each is read in every turn anyway.
        turns = max(1, len(slots))
        quiet *= turns
    if quiet > loop_s:
        return Period(
            device.name, quiet, f"{turns} × its quiet time" if turns > 1 else "its quiet time"
        )
    return Period(device.name, loop_s, "one turn of the program")
