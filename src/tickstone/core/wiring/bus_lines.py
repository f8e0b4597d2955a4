"""The lines of the I²C bus: who is on each, what lifts it, and its capacitance."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from tickstone.core.electric.pull_up import parallel
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.circuit import PIN_F, WIRE_F_PER_M, Circuit, Thread


@dataclass(frozen=True, slots=True)
class BusLine:
    """One of the two lines: who is on it, what lifts it, and its capacitance."""

    threads: tuple[Thread, ...]
    own_ohm: tuple[float, ...]
    added_ohm: tuple[float, ...]
    volts: float
    capacitance_f: float

    @property
    def ohm(self) -> float:
        """All pull-ups in parallel, Ω."""
        return parallel((*self.own_ohm, *self.added_ohm))


def bus_lines(circuit: Circuit) -> tuple[BusLine, ...]:
    """Every pin I²C leads end on."""
    by_pin: dict[str, list[Thread]] = defaultdict(list)
    for thread in circuit.threads:
        if thread.lead.role in (Role.SDA, Role.SCL) and thread.pin is not None:
            by_pin[thread.pin.name].append(thread)
    return tuple(line_of(circuit, threads) for threads in by_pin.values())


def line_of(circuit: Circuit, threads: list[Thread]) -> BusLine:
    """One line from the leads that are on it."""
    own, added, volts = [], [], circuit.board.logic_v.value
    farad = PIN_F
    for thread in threads:
        bus = thread.device.family.i2c
        assert bus is not None
        farad += bus.capacitance_f.value + circuit.settings.wire_m * WIRE_F_PER_M
        if bus.own_pull_up_ohm is not None:
            own.append(bus.own_pull_up_ohm.value)
            supply = circuit.supply(thread.device)
            if bus.pulls_to_v is not None:
                volts = bus.pulls_to_v.value
            elif supply is not None:
                volts = supply.volts
        added += [b.ohm for b in thread.beads if b.kind is BeadKind.PULL_UP and b.ohm is not None]
    return BusLine(tuple(threads), tuple(own), tuple(added), volts, farad)
