"""Measuring: where to hold the meter after power, and which volts are right there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from tickstone.core.display import prefixed
from tickstone.core.electric.ladder import Source, along, corners
from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.bus_lines import bus_lines
from tickstone.core.wiring.circuit import Circuit, Thread

METER_SHARE, METER_V = 0.01, 0.02
"""What a handheld meter may be off: 1 % and two counts of 10 mV (from memory)."""
LOWEST_CHARGE = 0.6
"""A battery below this share of its full volts is flat, or not there (our choice)."""


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
    """Where volts can be known beforehand: rails in use, lifted leads, dividers, lit emitters."""
    used = {one.rail.name for one in circuit.threads if one.rail is not None}
    for rail in circuit.board.rails:
        if rail.kind is RailKind.GROUND or rail.name not in used:
            continue
        volts, spread = circuit.rail_volts(rail), circuit.rail_tolerance(rail) or 0.05
        yield MeasuringPoint(
            _around(rail.name, volts * (1 - spread), volts * (1 + spread)),
            f"Between {rail.name} and ground, about {prefixed(volts, 'V')}.",
        )
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
    output = thread.lead.output
    if output is not None and output.drive is Drive.OPEN_DRAIN:
        lifted = circuit.high_source(thread)
        if lifted is None:
            return None
        return _Resting("at rest", *corners(*lifted), along(*lifted).volts)
    if thread.lead.role is Role.BATTERY and thread.device.full_charge_v is not None:
        full = thread.device.full_charge_v
        rungs = circuit.rungs(thread)
        low, _ = corners(Source(LOWEST_CHARGE * full, 0.0), rungs)
        _, high = corners(Source(full, 0.0), rungs)
        return _Resting("by how full the battery is", low, high)
    if thread.lead.emitter is not None and thread.rail is not None and thread.series_ohm > 0.0:
        forward = thread.lead.emitter.forward_v.value
        when = "lit, at the leg after its resistor"
        return _Resting(when, 0.75 * forward, 1.3 * forward, forward)
    if thread.lead.role is Role.COLLECTOR and any(rung.to_volts for rung in circuit.rungs(thread)):
        volts = circuit.board.logic_v.value
        return _Resting("over something dark", 0.6 * volts, 1.05 * volts)
    if thread.lead.role in (Role.SDA, Role.SCL):
        for line in bus_lines(circuit):
            if thread.spot in [one.spot for one in line.threads[:1]] and line.ohm < 1e9:
                return _Resting(
                    "with the bus at rest", 0.9 * line.volts, 1.06 * line.volts, line.volts
                )
    return None


def _around(point: str, low: float, high: float) -> Expected:
    return Expected(
        point,
        round(low * (1 - METER_SHARE) - METER_V, 3),
        round(high * (1 + METER_SHARE) + METER_V, 3),
    )
