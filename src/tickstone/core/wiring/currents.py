"""Who draws how much from where: pins, their ports, rails. Sums, with what they are made of."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.families.board_family import Rail, RailKind
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Spot


@dataclass(frozen=True, slots=True)
class Draw:
    """One consumer. usual_a: in work. peak_a: for a moment. spot: its lead, if it is one."""

    name: str
    usual_a: float
    peak_a: float
    spot: Spot | None = None


@dataclass(frozen=True, slots=True)
class Budget:
    """What a rail gives and who takes it. limit_a: None when not known."""

    name: str
    limit_a: float | None
    draws: tuple[Draw, ...]

    @property
    def usual_a(self) -> float:
        """All of it in work, A."""
        return math.fsum(draw.usual_a for draw in self.draws)

    @property
    def peak_a(self) -> float:
        """The largest moment: all in work, and the one with the greatest step at its peak, A."""
        step = max((draw.peak_a - draw.usual_a for draw in self.draws), default=0.0)
        return self.usual_a + step


def led_volts(circuit: Circuit, thread: Thread) -> float | None:
    """What feeds an LED's anode, V: its rail, or a pin that is high."""
    if thread.rail is not None:
        return circuit.rail_volts(thread.rail)
    return circuit.board.logic_v.value if thread.pin is not None else None


def led_current(circuit: Circuit, thread: Thread) -> float | None:
    """The current of an LED with its resistor, A; None when it has none or no light."""
    volts, emitter = led_volts(circuit, thread), thread.lead.emitter
    if volts is None or emitter is None or thread.series_ohm <= 0.0:
        return None
    return max(0.0, volts - emitter.forward_v.value) / thread.series_ohm


def pin_current(circuit: Circuit, thread: Thread) -> float | None:
    """What a lead takes from its pin when high, A; None when it takes next to nothing."""
    if thread.pin is None:
        return None
    if thread.lead.role is Role.ANODE:
        current = led_current(circuit, thread)
        return current
    if thread.lead.input is not None and thread.lead.input.current_a is not None:
        return thread.lead.input.current_a.value
    if thread.lead.role is Role.SUPPLY and thread.device.family.supply is not None:
        return thread.device.family.supply.typical_a.value
    return None


def rail_budgets(circuit: Circuit) -> tuple[Budget, ...]:
    """Every supply rail. The lower regulated rails are fed from the highest one."""
    regulated = [rail for rail in circuit.board.rails if rail.kind is RailKind.REGULATED]
    highest = max(regulated, key=lambda rail: rail.volts.value)
    budgets = {
        rail.name: _draws(circuit, rail)
        for rail in circuit.board.rails
        if rail.kind is not RailKind.GROUND
    }
    for rail in regulated:
        drawn = budgets[rail.name]
        if rail is not highest and drawn:
            usual = math.fsum(draw.usual_a for draw in drawn)
            peak = math.fsum(draw.peak_a for draw in drawn)
            budgets[highest.name] = (
                *budgets[highest.name],
                Draw(f"what {rail.name} feeds", usual, peak),
            )
    from_pins = [pin_current(circuit, thread) or 0.0 for thread in circuit.threads]
    if sum(from_pins) > 0.0:
        name = circuit.board.logic_rail.name
        budgets[name] = (*budgets[name], Draw("the board’s pins", sum(from_pins), sum(from_pins)))
    return tuple(
        Budget(
            rail.name,
            rail.limit_a.value if rail.limit_a else None,
            budgets[rail.name],
        )
        for rail in circuit.board.rails
        if rail.name in budgets
    )


def _draws(circuit: Circuit, rail: Rail) -> tuple[Draw, ...]:
    draws = []
    for thread in circuit.threads:
        if thread.rail is None or thread.rail.name != rail.name:
            continue
        supply = thread.device.family.supply
        if thread.lead.role is Role.SUPPLY and supply is not None:
            usual = supply.typical_a.value
            peak = supply.peak_a.value if supply.peak_a else usual
            draws.append(Draw(thread.device.name, usual, peak, thread.spot))
        elif thread.lead.role is Role.ANODE and led_volts(circuit, thread) is not None:
            current = led_current(circuit, thread)
            if current is not None:
                draws.append(Draw(thread.device.name, current, current, thread.spot))
    return tuple(draws)
