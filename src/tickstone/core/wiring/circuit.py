"""The netlist looked at as a circuit: who feeds whom, what meets on a pin, and which volts."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from tickstone.core.electric.network import Span, exact
from tickstone.core.families.board_family import Ability, Rail, RailKind, Reference
from tickstone.core.families.device_family import Lead, Role
from tickstone.core.wiring.colours import usual_colour
from tickstone.core.wiring.fighting import Fight, fight_in
from tickstone.core.wiring.modelling.of_wiring import model_of
from tickstone.core.wiring.netlist import END, Connection, Device, Wiring, place_of
from tickstone.core.wiring.nets import Nets
from tickstone.core.wiring.origins import Origins, is_fed_by_person, origins_of
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.pin_jobs import PinJob, Reach, pin_jobs
from tickstone.core.wiring.pin_look import PinLook
from tickstone.core.wiring.power_supply import PowerSupply
from tickstone.core.wiring.solved import Island, Solved
from tickstone.core.wiring.thread import Thread


class Circuit:
    """Looks things up for the checks. Nothing here judges."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self.board = wiring.board
        self.settings = wiring.settings
        self._fights: dict[int, Fight | None] = {}

    @cached_property
    def threads(self) -> tuple[Thread, ...]:
        """Every lead of every device."""
        ends = {one.end: one for one in self.wiring.connections}
        return tuple(
            self._thread(device, lead, ends.get((device.key, lead.name)))
            for device in self.wiring.devices
            for lead in device.family.leads
        )

    def _thread(self, device: Device, lead: Lead, connection: Connection | None) -> Thread:
        end = (device.key, lead.name)
        is_open = end in self.wiring.left_open
        pin = rail = supply = None
        places = [connection.to] if connection else []
        if connection and not self._is_board(connection.to):
            places = list(self.nets.places(connection.to))
        elif connection is None:
            others = list(self.nets.places(place_of(*end)))
            places = others if len(others) > 1 else []
        for place in places:
            pin = pin or self.board.pin(place)
            rail = rail or self.board.rail(place)
            supply = supply or self._supplies.get(place)
        return Thread(device, lead, connection, pin, rail, supply, is_open)

    def _is_board(self, place: str) -> bool:
        return self.board.pin(place) is not None or self.board.rail(place) is not None

    @cached_property
    def _supplies(self) -> dict[str, PowerSupply]:
        """Supplies by the places of their ends."""
        return {place: one for one in self.wiring.supplies for place in (one.plus, one.minus)}

    @cached_property
    def nets_as_wired(self) -> Nets:
        """Which places are one point, just as it is wired."""
        return Nets(self.wiring)

    @cached_property
    def nets(self) -> Nets:
        """Which places are one point, with all grounds joined.

        That a supply lacks the common ground is told once; all else is looked at as if it had it.
        """
        found = Nets(self.wiring)
        for supply in self.wiring.supplies:
            found.join(supply.minus, found.ground)
        return found

    @cached_property
    def origins(self) -> Origins:
        """What holds which net at which volts."""
        return origins_of(self.wiring, self.nets)

    @cached_property
    def reach(self) -> Reach:
        """What signals get to."""
        held = {self.nets.of(self.nets.ground), *self.origins.by_net}
        return Reach(self.wiring, self.nets, held)

    @cached_property
    def jobs(self) -> dict[str, PinJob]:
        """What the program does with each pin in use."""
        return pin_jobs(self.wiring, self.reach)

    @cached_property
    def solved(self) -> Solved:
        """Volts and amps with everything switched on."""
        return Solved(model_of(self.wiring, self.nets, self.jobs, self.origins.by_net))

    def is_fed_by_person(self, rail: Rail) -> bool:
        """Whether the person says what feeds a rail."""
        return is_fed_by_person(self.wiring, self.nets, rail)

    def of(self, device: Device) -> tuple[Thread, ...]:
        """The threads of one device."""
        return self._by_device.get(device.key, ())

    @cached_property
    def _by_device(self) -> dict[str, tuple[Thread, ...]]:
        found: dict[str, list[Thread]] = {}
        for one in self.threads:
            found.setdefault(one.device.key, []).append(one)
        return {key: tuple(threads) for key, threads in found.items()}

    def on(self, pin: str) -> tuple[Thread, ...]:
        """The threads that end on a pin."""
        return self._by_pin.get(pin, ())

    @cached_property
    def _by_pin(self) -> dict[str, tuple[Thread, ...]]:
        found: dict[str, list[Thread]] = {}
        for one in self.threads:
            if one.pin is not None:
                found.setdefault(one.pin.name, []).append(one)
        return {pin: tuple(threads) for pin, threads in found.items()}

    @cached_property
    def used_pins(self) -> frozenset[str]:
        """Names of the pins anything ends on."""
        return frozenset(one.pin.name for one in self.threads if one.pin is not None)

    def supply_rail(self, device: Device) -> Rail | None:
        """The rail that feeds a device, or None."""
        for thread in self.of(device):
            if thread.lead.role is Role.SUPPLY and thread.rail is not None:
                return thread.rail
        return None

    def rail_volts(self, rail: Rail) -> float:
        """V; for the rail the person feeds, what they said."""
        if rail.kind is RailKind.INPUT and self.settings.vin_v is not None:
            return self.settings.vin_v
        return rail.volts.value

    def rail_tolerance(self, rail: Rail) -> float:
        """As a fraction; what the person states of their own supply counts as it stands."""
        if rail.kind is RailKind.INPUT and self.settings.vin_v is not None:
            return 0.0
        return rail.tolerance

    def is_fed(self, device: Device) -> bool:
        """Whether a device that wants a supply has one."""
        return device.family.supply is None or any(
            self.solved.model.fed_net(device, lead) is not None
            for lead in device.family.leads
            if lead.role is Role.SUPPLY
        )

    def feed_volts(self, device: Device, lead: Lead | None = None) -> Span | None:
        """The volts a device is fed with; None when it is not fed."""
        net = self.solved.model.feed_of(device, lead)
        if net is None or net not in (*self.solved.model.origins, *self.solved.nets):
            return None
        point = self.solved.at(net)
        if point.island is None:
            return point.volts(0)
        return point.volts(point.island.rest_state)

    def is_held(self, place: str) -> bool:
        """Whether a source or ground holds a place."""
        return self.solved.at(place).is_held and self.is_known(place)

    def is_known(self, place: str) -> bool:
        """Whether a place's net is one that something holds."""
        net = self.nets.of(place)
        return net == self.solved.model.ground or net in self.origins.by_net

    def is_grounded(self, place: str) -> bool:
        """Whether a place is the board's ground."""
        return self.nets.of(place) == self.solved.model.ground

    def parts_words(self, place: str) -> str:
        """The parts whose legs are on a place or lead on from it, by their keys."""
        nets = {*self.reach.nets_from(self.nets.of(place))}
        keys = [
            part.key
            for part in self.wiring.parts
            if any(self.nets.of(end) in nets for end in part.ends.values())
        ]
        return " and ".join(keys) or f"What is on {place}"

    def place_words(self, place: str) -> str:
        """A place as a person calls it: a lead by its device's name, an end of a supply in full."""
        for supply in self.wiring.supplies:
            if place in (supply.plus, supply.minus):
                return f"{supply.words} {'+' if place == supply.plus else '−'}"
        thread = next((one for one in self.threads if one.place == place), None)
        if thread is not None:
            return thread.name
        return f"joint {place}" if place in self.wiring.joints else place

    def leads_on(self, place: str) -> bool:
        """Whether a wire or a part leads on from a place, if only inside the device itself."""
        net = self.nets.of(place)
        return len(tuple(self.nets.places(net))) > 1 or self.reach.has_part(net)

    def is_joined(self, place: str) -> bool:
        """Whether a wire, or a part that stands by itself, is on a place."""
        return self.nets.of(place) in self._joined

    @cached_property
    def _joined(self) -> frozenset[str]:
        ends = [end for part in self.wiring.parts for end in part.ends.values()]
        ends += [one.to for one in self.wiring.connections]
        ends += [place_of(*one.end) for one in self.wiring.connections]
        return frozenset(self.nets.of(end) for end in ends)

    def inner_ohm(self, place: str) -> float:
        """The inner resistance of what holds a place, Ω."""
        origin = self.origins.by_net.get(self.nets.of(place))
        return origin.inner_ohm if origin else 0.0

    def feeds_board(self, supply: PowerSupply) -> bool:
        """Whether a supply is on one of the board's own rails."""
        return any(
            self.nets.of(supply.plus) == self.nets.of(rail.name)
            for rail in self.board.rails
            if rail.kind is not RailKind.GROUND
        )

    @property
    def drive_a(self) -> float | None:
        """The least current any of the board's output pins is meant for, A."""
        figures = [one.drive_a.value for one in self.board.pin_classes if one.drive_a]
        return min(figures, default=None)

    def fights(self, island: Island) -> Fight | None:
        """Outputs of an island that work against each other, with more than they bear."""
        if id(island) not in self._fights:
            self._fights[id(island)] = fight_in(self, island)
        return self._fights[id(island)]

    def fights_on(self, thread: Thread) -> bool:
        """Whether outputs fight on the net of a lead."""
        island = self.solved.at(thread.place).island
        return island is not None and self.fights(island) is not None

    def bare_high(self, thread: Thread) -> Span | None:
        """The highest a lead gives of itself, before any part on its wire; None if unknown."""
        lead, feed = thread.lead, self.feed_volts(thread.device)
        if lead.output is not None:
            return exact(lead.output.high_v.value) if lead.output.high_v else feed
        if lead.analogue is not None:
            high = lead.analogue.high_v.value
            if not lead.analogue.ratiometric:
                return exact(high)
            return feed and Span(*(high * one / lead.analogue.at_supply_v for one in feed))
        if lead.role is Role.BATTERY and thread.device.full_charge_v is not None:
            return exact(thread.device.full_charge_v)
        return None

    @property
    def reference(self) -> Reference | None:
        """The converter's reference in use."""
        if self.board.converter is None:
            return None
        references = self.board.converter.references
        name = self.settings.reference
        return next((one for one in references if one.name == name), references[0])

    @property
    def wired_reference(self) -> Reference | None:
        """The reference in use when it comes by a wire and something is read against it."""
        reference = self.reference
        if reference is None or not reference.rail:
            return None
        return reference if any(self.is_converted(one) for one in self.threads) else None

    def is_converted(self, thread: Thread) -> bool:
        """Whether a lead is read by the converter."""
        return thread.pin is not None and thread.lead.wants is Ability.ANALOGUE

    @cached_property
    def pin_looks(self) -> tuple[PinLook, ...]:
        """All pins in use, each with all a question needs."""
        found = []
        by_end = {thread.end: thread for thread in self.threads}
        for pin in self.board.pins:
            job = self.jobs.get(pin.name)
            if job is None:
                continue
            leads = self.reach.leads_from(self.nets.of(pin.name))
            threads = [by_end[device.key, lead.name] for device, lead in leads]
            threads.sort(key=lambda one: (one.pin is not pin, one.end))
            point = self.solved.at(pin.name)
            found.append(PinLook(pin, job, self.board.class_of(pin), point, tuple(threads)))
        return tuple(found)

    def thread_of(self, owner: Owner) -> Thread | None:
        """The lead a piece or a driver belongs to, if it is a lead's."""
        return self._by_end.get((owner.device, owner.lead))

    @cached_property
    def _by_end(self) -> dict[END, Thread]:
        return {thread.end: thread for thread in self.threads}

    def name_of(self, owner: Owner) -> str:
        """As a person calls the lead, pin or part something belongs to."""
        thread = self.thread_of(owner)
        if thread is not None:
            return thread.name
        device = next((one.name for one in self.wiring.devices if one.key == owner.device), "")
        return owner.pin or device or owner.key

    @property
    def switched_off(self) -> Iterator[tuple[str, Solved]]:
        """What can be off while something else is on, by its name, solved so.

        The board, while a battery or a supply that does not feed it is on; and each supply.
        """
        feeds_board = {one.key for one in self.wiring.supplies if self.feeds_board(one)}
        others = {supply.key for supply in self.wiring.supplies} - feeds_board
        measured = any(
            one.lead.role is Role.BATTERY and one.connection and one.device.full_charge_v
            for one in self.threads
        )
        if others or measured:
            yield "board", self._without({"board", *feeds_board})
        for key in sorted(others):
            yield key, self._without({key})

    def _without(self, off: set[str]) -> Solved:
        origins = origins_of(self.wiring, self.nets, frozenset(off))
        live = {net for net, one in origins.by_net.items() if one.volts.high > 0.0}
        unpowered = frozenset(
            device.key
            for device in self.wiring.devices
            if device.family.supply is not None and self.solved.model.feed_of(device) not in live
        )
        return Solved(
            model_of(self.wiring, self.nets, self.jobs, origins.by_net, unpowered, "board" in off)
        )

    def colour(self, thread: Thread) -> str:
        """The colour of its wire: the person's, or the usual one."""
        if thread.connection is not None and thread.connection.colour:
            return thread.connection.colour
        signals = [one for one in self.of(thread.device) if one.rail is None]
        place = next((n for n, one in enumerate(signals) if one.lead is thread.lead), 0)
        rail = thread.rail
        is_ground = rail is not None and rail.kind is RailKind.GROUND
        return usual_colour(is_ground, rail is not None and not is_ground, place)
