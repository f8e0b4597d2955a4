"""Measuring: where to hold the meter after power, and which volts are right there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tickstone.core.display import prefixed
from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.bus_lines import bus_lines
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.controllers import BUS_ROLES
from tickstone.core.wiring.solved import FLOATING_OHM
from tickstone.core.wiring.thread import Thread

METER_SHARE, METER_V = 0.01, 0.02
"""What a handheld meter may be off: 1 % and two counts of 10 mV (from memory)."""


@dataclass(frozen=True, slots=True)
class Expected:
    """Volts to find between a test point and ground, meter's error included. point: its name."""

    point: str
    low_v: float
    high_v: float

    def passes(self, volts: float) -> bool:
        """Whether what was measured is what should be.

        >>> Expected("5V", 4.7, 5.3).passes(4.2)
        False
        """
        return self.low_v <= volts <= self.high_v


@dataclass(frozen=True, slots=True)
class MeasuringPoint:
    """Where to hold the meter, in words. device, lead: which it is about, if any."""

    expected: Expected
    text: str
    device: str = ""
    lead: str = ""


def measuring_points(circuit: Circuit) -> Iterator[MeasuringPoint]:
    """Where volts can be known beforehand: sources in use, lifted leads, dividers, lit emitters."""
    used = {circuit.nets.of(one.place) for one in circuit.threads if one.connection is not None}
    for rail in circuit.board.rails:
        if rail.kind is not RailKind.GROUND and circuit.nets.of(rail.name) in used:
            yield _at_source(circuit, rail.name, rail.name)
    for supply in circuit.wiring.supplies:
        if not circuit.feeds_board(supply) and circuit.nets.of(supply.plus) in used:
            yield _at_source(circuit, supply.plus, supply.words)
    for thread in circuit.threads:
        point = f"{thread.device.key}.{thread.lead.name}"
        if thread.pin is None and thread.lead.role is not Role.ANODE:
            continue
        found = _resting(circuit, thread)
        if found is not None:
            where = thread.pin.name if thread.pin is not None else f"the {thread.lead.name} leg"
            yield MeasuringPoint(
                _around(point, found.low_v, found.high_v),
                f"{thread.name} at {where}, {found.when}: {found.words}.",
                thread.device.key,
                thread.lead.name,
            )


def _at_source(circuit: Circuit, place: str, name: str) -> MeasuringPoint:
    """At a rail or a supply; where no tolerance is stated, 5 % either way."""
    low, usual, high = circuit.solved.at(place).volts(0)
    if low == high:
        low, high = 0.95 * usual, 1.05 * usual
    return MeasuringPoint(
        _around(place, low, high),
        f"Between {name} and ground, about {prefixed(usual, 'V')}.",
    )


@dataclass(frozen=True, slots=True)
class _Resting:
    """What a lead rests at. nominal_v: None where all between low and high is as usual."""

    when: str
    low_v: float
    high_v: float
    nominal_v: float | None = None

    @property
    def words(self) -> str:
        if self.nominal_v is not None:
            return f"about {prefixed(self.nominal_v, 'V')}"
        return f"between {prefixed(self.low_v, 'V')} and {prefixed(self.high_v, 'V')}"


def _resting(circuit: Circuit, thread: Thread) -> _Resting | None:
    output, role = thread.lead.output, thread.lead.role
    place = thread.pin.name if thread.pin is not None else thread.place
    point = circuit.solved.at(place)
    island = point.island
    if island is None or point.behind_ohm(island.rest_state) >= FLOATING_OHM:
        return None
    low, usual, high = point.volts(island.rest_state)
    if output is not None and output.drive is Drive.OPEN_DRAIN:
        return _Resting("at rest", low, high, usual)
    if role is Role.BATTERY and thread.device.full_charge_v is not None:
        return _Resting("by how full the battery is", low, high)
    if thread.lead.emitter is not None and thread.pin is None:
        if island.drivers or circuit.is_held(thread.place):
            return None
        when = "lit, at the leg after its resistor"
        return _Resting(when, 0.83 * low, 1.18 * high, usual)
    if role is Role.COLLECTOR:
        return _Resting("over something dark", 0.6 * usual, 1.05 * usual)
    if role in BUS_ROLES:
        for line in bus_lines(circuit):
            if thread.spot in [one.spot for one in line.threads[:1]]:
                return _Resting("with the bus at rest", 0.9 * usual, 1.06 * usual, usual)
    return None


def _around(point: str, low: float, high: float) -> Expected:
    return Expected(
        point,
        round(low * (1 - METER_SHARE) - METER_V, 3),
        round(high * (1 + METER_SHARE) + METER_V, 3),
    )
