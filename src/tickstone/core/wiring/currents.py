"""Who draws how much from where: pins, rails and supplies. Sums, with what they are made of."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass

from tickstone.core.electric.network import Span
from tickstone.core.families.board_family import Rail, RailKind
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Spot
from tickstone.core.wiring.lamps import Lamp, lamps_of
from tickstone.core.wiring.origins import is_beside
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.pin_look import PinLook


@dataclass(frozen=True, slots=True)
class Draw:
    """One consumer. usual_a: in work. peak_a: for a moment. spot: its lead, if it is one."""

    name: str
    usual_a: float
    peak_a: float
    spot: Spot | None = None


@dataclass(frozen=True, slots=True)
class Budget:
    """What a rail or a supply gives and who takes it. limit_a: None when not known."""

    name: str
    limit_a: float | None
    draws: tuple[Draw, ...]
    source: str = "as stated"

    @property
    def usual_a(self) -> float:
        """All of it in work, A."""
        return math.fsum(draw.usual_a for draw in self.draws)

    @property
    def peak_a(self) -> float:
        """The largest moment there can be: all peaks at once, A."""
        return math.fsum(draw.peak_a for draw in self.draws)


def pin_amps(circuit: Circuit, look: PinLook) -> Span:
    """What a pin drives or sinks at most over all states, A; nothing where it only listens."""
    low = usual = high = 0.0
    for island, piece in circuit.solved.pieces_of(Owner("pin", pin=look.pin.name)):
        if circuit.fights(island):
            continue
        amps = island.amps(piece)
        if amps is not None and math.isfinite(amps.high):
            low, usual, high = max(low, amps.low), max(usual, amps.usual), max(high, amps.high)
    return Span(low, usual, high)


def rail_budgets(circuit: Circuit) -> tuple[Budget, ...]:
    """Every supply rail that anything hangs on, and every supply of the person's.

    What a rail feeds, it draws from the rail that it is fed from.
    """
    draws: dict[str, list[Draw]] = defaultdict(list)
    holders = _holders(circuit)
    for thread in circuit.threads:
        wants = thread.device.family.supply_of(thread.lead)
        if thread.lead.role is not Role.SUPPLY or wants is None:
            continue
        holder = _holder(circuit, holders, thread.place)
        if holder is not None:
            usual = wants.typical_a.value
            peak = wants.peak_a.value if wants.peak_a else usual
            draws[holder].append(Draw(thread.device.name, usual, peak, thread.spot))
    for lamp in lamps_of(circuit):
        holder = None if lamp.is_on_pin or lamp.is_shorted else _lamp_holder(circuit, holders, lamp)
        if holder is not None and lamp.amps.usual > 0.0:
            name = lamp.thread.device.name if lamp.thread else lamp.name
            # One that nothing limits is told of as that; what else hangs there is looked at as if
            # it were mended.
            amps = min(lamp.amps.usual, lamp.max_a)
            draws[holder].append(Draw(name, amps, amps, lamp.spots[0]))
    logic = circuit.board.logic_rail.name
    from_pins = math.fsum(pin_amps(circuit, look).usual for look in circuit.pin_looks)
    if from_pins > 1e-6:
        draws[logic].append(Draw("the board’s pins", from_pins, from_pins))
    if circuit.board.draw_a is not None:
        own = circuit.board.draw_a.value
        draws[logic].append(Draw("the board itself", own, own))
    for rail in _upwards(circuit):
        above = _above(circuit, rail)
        if above is not None and draws[rail.name]:
            own_draws = draws[rail.name]
            draws[above].append(
                Draw(
                    f"what {rail.name} feeds",
                    math.fsum(one.usual_a for one in own_draws),
                    math.fsum(one.peak_a for one in own_draws),
                )
            )
    budgets = [
        Budget(
            rail.name,
            rail.limit_a.value if rail.limit_a else None,
            tuple(draws[rail.name]),
            rail.limit_a.source if rail.limit_a else "",
        )
        for rail in circuit.board.rails
        if rail.kind is not RailKind.GROUND
    ]
    budgets += [
        Budget(one.words, one.limit_a, tuple(draws[one.plus])) for one in circuit.wiring.supplies
    ]
    return tuple(budgets)


def _holders(circuit: Circuit) -> dict[str, str]:
    """Rails and supplies by the net they hold; a supply before the rail it feeds."""
    found = {circuit.nets.of(one.plus): one.plus for one in circuit.wiring.supplies}
    for rail in circuit.board.rails:
        if rail.kind is not RailKind.GROUND:
            found[circuit.nets.of(rail.name)] = rail.name
    return found


def _holder(circuit: Circuit, holders: dict[str, str], place: str) -> str | None:
    """What feeds a place: what holds its net, or what holds one that parts lead to."""
    net = circuit.nets.of(place)
    if net in holders:
        return holders[net]
    return next(
        (
            holders[other]
            for island in [circuit.solved.at(place).island]
            if island is not None
            for other in island.held
            if other in holders
        ),
        None,
    )


def _lamp_holder(circuit: Circuit, holders: dict[str, str], lamp: Lamp) -> str | None:
    return next(
        (holder for net in lamp.nets if (holder := _holder(circuit, holders, net)) is not None),
        None,
    )


def _upwards(circuit: Circuit) -> list[Rail]:
    """Regulated rails, those that others feed before those that feed them."""
    regulated = [rail for rail in circuit.board.rails if rail.kind is RailKind.REGULATED]
    return sorted(regulated, key=lambda rail: rail.volts.value)


def _above(circuit: Circuit, rail: Rail) -> str | None:
    """What a regulated rail is fed from: the rail stated, or the highest regulated one."""
    if rail.fed_from:
        above = circuit.board.rail(rail.fed_from)
        if above is not None and above.kind is RailKind.INPUT:
            if not circuit.is_fed_by_person(above):
                return _highest_but(circuit, rail)
            if is_beside(circuit.origins.by_net[circuit.nets.of(above.name)].volts, rail):
                return None
            net = circuit.nets.of(above.name)
            fed = [s.plus for s in circuit.wiring.supplies if circuit.nets.of(s.plus) == net]
            return fed[0] if fed else above.name
        return rail.fed_from
    return _highest_but(circuit, rail)


def _highest_but(circuit: Circuit, rail: Rail) -> str | None:
    """The highest regulated rail, which is what USB feeds; None for that one itself."""
    regulated = [one for one in circuit.board.rails if one.kind is RailKind.REGULATED]
    highest = max(regulated, key=lambda one: one.volts.value)
    return None if rail is highest else highest.name
