"""The plan of a listening program: everything a target has to write down, in no language."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field, replace
from itertools import count
from typing import Any, TypeVar

from tickstone.core.families.board_family import BoardFamily, Reference
from tickstone.core.families.device_family import DeviceKind, Role
from tickstone.core.listening.names import identifier
from tickstone.core.listening.pace import SPEEDS, Pace, pace_of
from tickstone.core.listening.reading import (
    CannotReadError,
    Part,
    PinInUse,
    PrintedColumn,
    Reading,
    as_used,
    pin_of,
)
from tickstone.core.listening.ways import WAYS
from tickstone.core.listening.ways.echo import EchoReading
from tickstone.core.listening.ways.registers import RegistersReading
from tickstone.core.timing.firing_order import firing_order
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Device, Wiring

AnyReading = TypeVar("AnyReading", bound=Reading)
USUAL_HZ = 20.0
"""About as many as a ranger gives; common practice."""
USUAL_BAUD = 9_600
TIME = PrintedColumn("t", "us", "time", "", 10)


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A device that is not read. next_best: what to do about it."""

    device: str
    label: str
    why: str
    next_best: str


@dataclass(frozen=True, slots=True)
class HeldPin:
    """A pin set at the start and left so: it feeds something, or lights a lamp."""

    pin: PinInUse
    is_high: bool
    why: str


@dataclass(frozen=True, slots=True)
class Listening:
    """What is wanted of the program. rate_hz: lines a second. baud: the least of the line.

    fastest_baud: the most that may be taken instead. cannot: ways of reading that the target does
    not have: why, and the next best.
    """

    rate_hz: float = USUAL_HZ
    baud: int = USUAL_BAUD
    fastest_baud: int = SPEEDS[-1]
    cannot: Mapping[str, tuple[str, str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class ListeningPlan:
    """readings: in the order they are taken. held: pins set once. notes: what a person should know.

    reference: of the converter; None where nothing is converted.
    """

    rig: str
    board: BoardFamily
    readings: tuple[Reading, ...]
    left_out: tuple[LeftOut, ...]
    held: tuple[HeldPin, ...]
    pace: Pace
    bus_hz: int
    reference: Reference | None
    notes: tuple[str, ...]

    @property
    def columns(self) -> tuple[PrintedColumn, ...]:
        """What a line holds, the board's time first."""
        return (TIME, *(column for one in self.readings for column in one.columns))

    @property
    def header(self) -> str:
        """The line that names them."""
        return ",".join(one.header for one in self.columns)

    @property
    def characters(self) -> int:
        """Of a line at most, its end included."""
        return _characters(self.columns[1:])

    def of(self, kind: type[AnyReading]) -> tuple[AnyReading, ...]:
        """The readings taken one way."""
        return tuple(one for one in self.readings if isinstance(one, kind))

    @property
    def ways(self) -> tuple[str, ...]:
        """The ways it reads, each once, in order."""
        return tuple(dict.fromkeys(one.way for one in self.readings))

    @property
    def bus(self) -> RegistersReading | None:
        """A reading on the bus, for its pins; None when nothing is on it."""
        return next(iter(self.of(RegistersReading)), None)

    @property
    def slots(self) -> int:
        """How many times rangers ping one after the other."""
        return max((one.slot + 1 for one in self.of(EchoReading)), default=0)


def listening_plan(
    rig: str,
    wiring: Wiring,
    wanted: Listening | None = None,
    parameters: Mapping[str, Mapping[str, Any]] | None = None,
) -> ListeningPlan:
    """What a program that listens to a wiring does.

    parameters: of the chains, by device, as far as they are not the usual.

    Raises ValueError when nothing on the rig can be read.
    """
    wanted = wanted or Listening()
    circuit = Circuit(wiring)
    sensors = [one for one in wiring.devices if _is_read(one)]
    readings, left_out = [], []
    taken: set[str] = {TIME.name}
    for device in sensors:
        try:
            one = _named(circuit, device, (parameters or {}).get(device.key, {}), taken)
            if one.way in wanted.cannot:
                raise CannotReadError(*wanted.cannot[one.way])
            taken |= one.words
            readings.append(one)
        except CannotReadError as error:
            left_out.append(LeftOut(device.key, device.name, str(error), error.next_best))
    if not readings:
        why = "; ".join(f"{one.label}: {one.why}" for one in left_out)
        raise ValueError(
            f"nothing on this rig can be read: {why}" if why else "there is no sensor on this rig"
        )
    readings = _on_one_bus(readings, left_out)
    ordered, quiet_s = _in_order(readings, wiring.devices)
    characters = _characters([column for one in ordered for column in one.columns])
    pace = pace_of(
        wanted.rate_hz,
        wanted.baud,
        characters,
        [(one.label, one.seconds) for one in ordered],
        quiet_s,
        wanted.fastest_baud,
    )
    converts = any(one.way == "converter" for one in ordered)
    return ListeningPlan(
        rig,
        wiring.board,
        tuple(ordered),
        tuple(left_out),
        tuple(_held(circuit)),
        pace,
        round(wiring.settings.bus_hz),
        circuit.reference if converts else None,
        (*pace.notes, *_counted_by_change(ordered)),
    )


def _characters(columns: Sequence[PrintedColumn]) -> int:
    """Of a line with these behind the time, at most, its end included."""
    return TIME.characters + sum(one.characters + 1 for one in columns) + 2


def _is_read(device: Device) -> bool:
    return device.family.kind is DeviceKind.SENSOR and device.family.is_wired


def _named(
    circuit: Circuit, device: Device, parameters: Mapping[str, Any], taken: Set[str]
) -> Reading:
    """How a device is read, under a name of which a program can make nothing that is taken."""
    base = identifier(device.name) or "sensor"
    for number in count(1):
        name = base if number == 1 else f"{base}{number}"
        found = _reading(Part(circuit, device, name, parameters))
        if taken.isdisjoint(found.words):
            return found
    raise AssertionError("numbers have no end")


def _reading(part: Part) -> Reading:
    for way in WAYS:
        found = way.reading(part)
        if found is not None:
            return found
    raise CannotReadError(
        "its family does not say how a program reads it",
        "Read it in a program of your own, in a column of the same line.",
    )


def _on_one_bus(readings: Sequence[Reading], left_out: list[LeftOut]) -> list[Reading]:
    """The readings without what is on a second bus, which the program does not open, and what
    answers to an address that is taken.
    """
    kept: list[Reading] = []
    on_bus: list[RegistersReading] = []
    for one in readings:
        if isinstance(one, RegistersReading):
            why = next_best = ""
            twin = next((two for two in on_bus if two.address == one.address), None)
            if on_bus and (one.sda, one.scl) != (on_bus[0].sda, on_bus[0].scl):
                why = f"it is on another bus than {on_bus[0].label}, and the program opens one"
                next_best = "Lead both to the same two pins, unless their addresses are the same."
            elif twin is not None:
                why = f"it answers to {one.address:#04x}, as {twin.label} does"
                next_best = "Give it another address, or take one of the two off."
            if why:
                left_out.append(LeftOut(one.device, one.label, why, next_best))
                continue
            on_bus.append(one)
        kept.append(one)
    return kept


def _in_order(
    readings: Sequence[Reading], devices: Sequence[Device]
) -> tuple[list[Reading], float]:
    """Rangers slot by slot in their firing order, the rest after the first slot, so that reading it
    fills the time in which it has to be quiet. Also the least time of a line for all of them, s.
    """
    slots = firing_order(devices)
    place = {device.key: n for n, slot in enumerate(slots) for device in slot}
    rangers = [
        replace(one, slot=place.get(one.device, len(slots)))
        for one in readings
        if isinstance(one, EchoReading)
    ]
    numbers = {slot: n for n, slot in enumerate(sorted({one.slot for one in rangers}))}
    rangers = [replace(one, slot=numbers[one.slot]) for one in rangers]
    rest = [one for one in readings if not isinstance(one, EchoReading)]
    first = [one for one in rangers if one.slot == 0]
    later = sorted((one for one in rangers if one.slot > 0), key=lambda one: one.slot)
    quiet_s = max((one.quiet_us for one in rangers), default=0) / 1e6
    return [*first, *rest, *later], quiet_s * max(1, len(numbers)) if rangers else 0.0


def _held(circuit: Circuit) -> list[HeldPin]:
    """Pins that feed a sensor or light its lamp; nothing that moves is touched."""
    found = {}
    for thread in circuit.threads:
        if thread.pin is None or not _is_read(thread.device):
            continue
        if thread.lead.role is Role.SUPPLY:
            why = f"feeds {thread.device.name}"
        elif thread.lead.role is Role.ANODE:
            why = f"lights {thread.device.name}"
        elif thread.lead.is_shutdown:
            why = f"lets {thread.device.name} on the bus"
        elif thread.lead.role is Role.CATHODE:
            found[thread.pin.name] = HeldPin(
                pin_of(thread), False, f"lights {thread.device.name}, by sinking it"
            )
            continue
        else:
            continue
        found.setdefault(thread.pin.name, HeldPin(as_used(thread.pin), True, why))
    return [*found.values()]


def _counted_by_change(readings: Sequence[Reading]) -> list[str]:
    return [
        f"{one.label} is counted by the interrupt that any pin of its port shares; one of its own "
        "would be later by less."
        for one in readings
        if getattr(one, "by", "") == "pin change"
    ]
