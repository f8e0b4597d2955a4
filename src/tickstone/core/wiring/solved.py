"""The wiring solved: volts and amps at every place, in every state, at the worst of tolerances."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from functools import cached_property
from itertools import combinations, pairwise
from typing import Any

import numpy as np
import numpy.typing as npt

from tickstone.core.electric.network import (
    ALWAYS,
    Bipolar,
    Diode,
    Load,
    Mosfet,
    Network,
    Resistor,
    Span,
)
from tickstone.core.electric.solver import Solution, solve
from tickstone.core.wiring.modelling.model import Model
from tickstone.core.wiring.pieces import Capacitance, Driver, Origin, Owner, Piece

Floats = npt.NDArray[np.float64]
OPENS_V = 0.2
"""A protection diode is left out while less than this drives it: no pin would notice."""
MOST_STATES, MOST_NUMBERS = 600, 60_000
FLOATING_OHM = 2e7
"""A net with more than this behind it is held by nothing: a hand nearby moves it (our choice)."""
SORTS = ("resistors", "diodes", "bipolars", "mosfets", "loads")


class Island:
    """Nets that hang together through parts, cut off at whatever holds its volts by itself."""

    def __init__(self, model: Model, pieces: list[Piece]) -> None:
        self.model, self.pieces = model, pieces
        ground = model.ground
        seen: dict[str, None] = {}
        for piece in pieces:
            seen.update(dict.fromkeys(piece.nets))
        self.free = [net for net in seen if not self._is_held(net)]
        self.held = [net for net in seen if self._is_held(net)]
        if ground not in self.held:
            self.held.append(ground)
        self._loose = frozenset(self.free)
        self.number = {net: place for place, net in enumerate((*self.free, *self.held))}
        self.drivers = sorted({piece.driver for piece in pieces if piece.driver >= 0})

    def _is_held(self, net: str) -> bool:
        return net == self.model.ground or net in self.model.origins

    def driver(self, place: int) -> Driver:
        """A driver by its place in a state."""
        return self.model.drivers[self.drivers[place]]

    def place_of(self, owner: Owner) -> int | None:
        """The place of an owner's driver in a state; None when it drives nothing here."""
        return next(
            (n for n, one in enumerate(self.drivers) if self.model.drivers[one].owner == owner),
            None,
        )

    @property
    def states(self) -> tuple[tuple[int, ...], ...]:
        """What is looked at: all at rest, each alone in each position, and pairs that may meet."""
        return self._looked_at[0]

    @property
    def leaves_pairs_out(self) -> bool:
        """Whether there are more pairs of outputs than were looked at."""
        return self._looked_at[1]

    @cached_property
    def _looked_at(self) -> tuple[tuple[tuple[int, ...], ...], bool]:
        drivers = [self.model.drivers[one] for one in self.drivers]
        rest = [one.rest for one in drivers]
        found = {tuple(rest): None}
        most = min(MOST_STATES, MOST_NUMBERS // len(self.pieces))
        left_out = False

        def add(changes: Mapping[int, int]) -> None:
            nonlocal left_out
            state = tuple(changes.get(n, at) for n, at in enumerate(rest))
            if len(changes) < 2 or len(found) < most:
                found[state] = None
            elif state not in found:
                left_out = True

        for place, one in enumerate(drivers):
            for position in range(len(one.positions)):
                add({place: position})
        for name in ("high", "low", "closed", "bright"):
            alike = {
                n: one.position(name)
                for n, one in enumerate(drivers)
                if name in one.positions and not _talks(one)
            }
            if len(alike) > 1:
                add(alike)
        for (m, one), (n, other) in combinations(enumerate(drivers), 2):
            if _take_turns(one, other):
                continue
            for p in range(len(one.positions)):
                for q in range(len(other.positions)):
                    if p == one.rest or q == other.rest:
                        if p in one.pulls and q in other.pulls:
                            add({m: p, n: q})
                    elif one.positions[p] != other.positions[q] or not (
                        p in one.pulls and q in other.pulls
                    ):
                        add({m: p, n: q})
        return tuple(found), left_out

    @property
    def rest_state(self) -> int:
        """The state in which all are at rest."""
        return 0

    def state(self, changes: Mapping[int, str]) -> int | None:
        """The number of the state in which some drivers, by place, are so and all others rest.

        None where that is not looked at, or a driver has no such position.
        """
        drivers = [self.model.drivers[one] for one in self.drivers]
        if any(name not in drivers[place].positions for place, name in changes.items()):
            return None
        wanted = tuple(
            one.position(changes[n]) if n in changes else one.rest for n, one in enumerate(drivers)
        )
        return next((n for n, one in enumerate(self.states) if one == wanted), None)

    def network(self, pieces: Iterable[Piece], tightened: float | None = None) -> Network:
        """The island as numbers. tightened: resistors people put there are that good at least."""
        local = {one: place for place, one in enumerate(self.drivers)}
        by_sort: dict[str, list[Any]] = {sort: [] for sort in SORTS}
        for piece in pieces:
            at = [self.number[net] for net in piece.nets]
            span = piece.span
            if tightened is not None and piece.owner.sort in ("bead", "part"):
                span = _tightened(span, tightened)
            by_sort[piece.sort].append(_numbered(piece, at, span, local))
        fixed = tuple(self._volts(net) for net in self.held)
        return Network(
            len(self.free), fixed, self.states, *(tuple(by_sort[sort]) for sort in SORTS)
        )

    def volts_held(self, net: str) -> Span:
        """The volts something holds a net at."""
        return self._volts(net)

    def _volts(self, net: str) -> Span:
        origin = self.model.origins.get(net)
        return origin.volts if origin is not None else Span(0.0, 0.0, 0.0)

    @cached_property
    def open(self) -> Solution:
        """Without the protection of pins: what would be there if nothing gave way."""
        return solve(self.network(self.pieces))

    def with_good_parts(self, tolerance: float) -> Solution:
        """As `open`, with the resistors people put there that good at least."""
        if tolerance not in self._with_good:
            self._with_good[tolerance] = solve(self.network(self.pieces, tolerance))
        return self._with_good[tolerance]

    @cached_property
    def _with_good(self) -> dict[float, Solution]:
        return {}

    @cached_property
    def clamping(self) -> list[Piece]:
        """The protections that conduct in some state."""
        if not np.isfinite(self.open.high_v).all():
            return []
        found = []
        for piece in self.model.clamps:
            if not any(net in self._loose for net in piece.nets):
                continue
            self._admit(piece)
            anode, cathode = (self.number[net] for net in piece.nets)
            # High against high and usual against usual: what lifts a net is mostly the rail itself,
            # which is low only when the net is.
            if any(
                (
                    self._column(volts, anode, which) - self._column(volts, cathode, which)
                    > OPENS_V
                ).any()
                for which, volts in ((1, self.open.usual_v), (2, self.open.high_v))
            ):
                found.append(piece)
        return found

    def _admit(self, piece: Piece) -> None:
        for net in piece.nets:
            if net not in self.number:
                self.held.append(net)
                self.number[net] = len(self.number)

    def _column(self, volts: Floats, number: int, which: int) -> Floats:
        """Volts of a node in every state; of one that is held, those of its source."""
        if number < volts.shape[1]:
            return volts[:, number]
        net = self.held[number - len(self.free)]
        return np.full(len(volts), self._volts(net)[which])

    @cached_property
    def clamped(self) -> Solution:
        """With the protection of pins where it conducts."""
        if not self.clamping:
            return self.open
        return solve(self.network([*self.pieces, *self.clamping]))

    def amps(self, piece: Piece, is_clamped: bool = False) -> Span | None:
        """The least, usual and greatest current of a piece over all states, by its size, A.

        None for a piece that is not here.
        """
        found = self.currents(piece, is_clamped)
        if found is None:
            return None
        low, usual, high = found
        most = np.maximum(np.abs(low), np.abs(high))
        worst = int(most.argmax())
        return Span(float(np.abs(usual).min()), float(np.abs(usual).max()), float(most[worst]))

    def currents(
        self, piece: Piece, is_clamped: bool = False
    ) -> tuple[Floats, Floats, Floats] | None:
        """Lowest, usual and highest current of a piece in each state, from its first net on."""
        pieces = [*self.pieces, *self.clamping] if is_clamped else self.pieces
        solution = self.clamped if is_clamped else self.open
        branch = 0
        for sort in SORTS:
            for one in pieces:
                if one.sort != sort:
                    continue
                if one is piece:
                    # Of a transistor's three currents the one from collector to emitter.
                    at = branch + 2 if sort == "bipolars" else branch
                    return solution.low_a[:, at], solution.usual_a[:, at], solution.high_a[:, at]
                branch += 3 if sort == "bipolars" else 1
        return None

    @property
    def is_solved(self) -> bool:
        """Whether every state came to rest."""
        return bool(self.open.is_solved.all() and self.clamped.is_solved.all())


def _numbered(piece: Piece, at: list[int], span: Span, local: Mapping[int, int]) -> Any:
    match piece.sort:
        case "resistors":
            switch = ALWAYS if piece.driver < 0 else local[piece.driver]
            return Resistor(at[0], at[1], span, switch, piece.position)
        case "diodes":
            return Diode(at[0], at[1], span, *piece.rest)
        case "bipolars":
            saturation, reverse = piece.rest
            return Bipolar(at[0], at[1], at[2], saturation, span, reverse)
        case "mosfets":
            return Mosfet(at[0], at[1], at[2], span, *piece.rest)
        case _:
            return Load(at[0], at[1], span, *piece.rest)


def _tightened(span: Span, tolerance: float) -> Span:
    return Span(
        max(span.low, span.usual * (1.0 - tolerance)),
        span.usual,
        min(span.high, span.usual * (1.0 + tolerance)),
    )


def _talks(driver: Driver) -> bool:
    """Whether a driver lets go in between, so that others can talk on its net."""
    return "released" in driver.positions


def _take_turns(one: Driver, other: Driver) -> bool:
    """Whether a pin and a lead agree who talks: they are one conversation."""
    sorts = {one.owner.sort, other.owner.sort}
    return sorts == {"pin", "output"} and _talks(one) and _talks(other)


class Point:
    """A net somebody asks about: in an island, or held by something."""

    def __init__(self, island: Island | None, number: int, origin: Origin | None, net: str) -> None:
        self.island, self.number, self.origin, self.net = island, number, origin, net

    @property
    def is_held(self) -> bool:
        """Whether a source or ground holds it."""
        return self.island is None

    def volts(self, state: int, is_clamped: bool = False) -> Span:
        """Lowest, usual and highest volts in a state."""
        if self.island is None:
            return self.origin.volts if self.origin is not None else Span(0.0, 0.0, 0.0)
        one = self.island.clamped if is_clamped else self.island.open
        n = self.number
        return Span(
            float(one.low_v[state, n]), float(one.usual_v[state, n]), float(one.high_v[state, n])
        )

    @property
    def is_floating(self) -> bool:
        """Whether nothing holds it while all that drives is at rest."""
        return self.island is not None and self.behind_ohm(self.island.rest_state) >= FLOATING_OHM

    @property
    def held_states(self) -> list[int]:
        """The states in which something holds it: only there its volts say anything."""
        if self.island is None:
            return [0]
        every = range(len(self.island.states))
        return [state for state in every if self.behind_ohm(state) < FLOATING_OHM]

    def highest(self) -> tuple[int, Span] | None:
        """The held state with the highest volts, and those; None where nothing ever holds it."""
        found = [(state, self.volts(state)) for state in self.held_states]
        return max(found, key=lambda one: one[1].high, default=None)

    def behind_ohm(self, state: int) -> float:
        """The resistance seen into the net in a state; 0 where a source holds it."""
        if self.island is None:
            return 0.0
        return float(self.island.open.impedance_ohm[state, self.number, self.number])


class Solved:
    """All islands of a model."""

    def __init__(self, model: Model) -> None:
        self.model = model
        held = {model.ground, *model.origins}
        groups: dict[str, list[Piece]] = defaultdict(list)
        parent: dict[str, str] = {}

        def root(net: str) -> str:
            while parent.get(net, net) != net:
                parent[net] = parent.get(parent[net], parent[net])
                net = parent[net]
            return net

        for piece in model.pieces:
            loose = [net for net in piece.nets if net not in held]
            for one, other in pairwise(loose):
                parent[root(one)] = root(other)
        for number, piece in enumerate(model.pieces):
            loose = [net for net in piece.nets if net not in held]
            groups[root(loose[0]) if loose else f"#{number}"].append(piece)
        self.islands = [Island(model, pieces) for pieces in groups.values()]
        self._by_net = {net: one for one in self.islands for net in one.free}

    def at(self, place: str) -> Point:
        """What is known of a place."""
        net = self.model.nets.of(place)
        island = self._by_net.get(net)
        if island is None:
            return Point(None, -1, self.model.origins.get(net), net)
        return Point(island, island.number[net], None, net)

    @property
    def nets(self) -> Iterable[str]:
        """All nets that no source holds."""
        return self._by_net.keys()

    def pieces_of(self, owner: Owner) -> list[tuple[Island, Piece]]:
        """Every piece of an owner, with its island."""
        return self._by_owner.get(owner, [])

    @cached_property
    def _by_owner(self) -> dict[Owner, list[tuple[Island, Piece]]]:
        found: dict[Owner, list[tuple[Island, Piece]]] = defaultdict(list)
        for island in self.islands:
            for piece in island.pieces:
                found[piece.owner].append((island, piece))
        return found

    @cached_property
    def _farads(self) -> dict[str, list[Capacitance]]:
        found: dict[str, list[Capacitance]] = defaultdict(list)
        for one in self.model.capacitances:
            for net in one.nets:
                found[net].append(one)
        return found

    def capacitor_f(self, point: Point) -> float:
        """Capacitors somebody put on a net, F."""
        return sum(one.farad for one in self._farads.get(point.net, ()) if one.is_part)

    def capacitance_f(self, point: Point) -> float:
        """All capacitance on a net and on those that hang together with it, F."""
        if point.island is None:
            return 0.0
        return sum(one.farad for net in point.island.free for one in self._farads.get(net, ()))

    def time_constant_s(self, point: Point) -> float | None:
        """The slowest a net follows whatever drives it, over all states; None where it is held.

        Elmore's: Σ R_ik·C_k, the volts at i for one ampere into k, for each capacitance.
        """
        island = point.island
        if island is None:
            return None
        total = np.zeros(len(island.states))
        impedance = island.open.impedance_ohm
        for place, net in enumerate(island.free):
            farad = sum(one.farad for one in self._farads.get(net, ()))
            total += impedance[:, point.number, place] * farad
        return float(np.nanmax(total)) if np.isfinite(total).any() else None
