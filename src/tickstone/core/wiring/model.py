"""The wiring as pieces between nets: what every wire, part, device and pin is, electrically."""

from __future__ import annotations

from dataclasses import dataclass, field

from tickstone.core.electric.network import Junction, Span, exact, within
from tickstone.core.families.board_family import Pin, PinClass
from tickstone.core.families.device_family import (
    DeviceFamily,
    Drive,
    Emitter,
    Lead,
    Role,
)
from tickstone.core.families.part import Part, PartKind
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.netlist import Connection, Device, Wiring, place_of
from tickstone.core.wiring.nets import Nets, strung
from tickstone.core.wiring.pieces import (
    LED_EMISSION_V,
    Capacitance,
    Driver,
    Origin,
    Owner,
    Piece,
)
from tickstone.core.wiring.pin_jobs import PinJob

WIRE_F_PER_M = 60e-12
"""Capacitance of hook-up wire beside others, F/m (from memory: 50 to 100 pF/m)."""
PIN_F = 10e-12
"""Capacitance of a pin, F; UM10204 table 10 allows 10 pF."""
LEAK_A = 1e-6
"""What an input takes or gives at most where nobody stated it (from memory)."""
OUTPUT_A = 0.004
"""The current at which an output's low is stated where nobody said (from memory)."""
BUS_LOW_OHM = 0.4 / 0.003
"""What a device pulls a bus down with: 0.4 V at 3 mA (UM10204 rev. 7, table 9)."""
BRIGHT_OHM, DARK_OHM = 100.0, 1e9
"""A phototransistor under strong light and in the dark (from memory)."""
CLOSED_OHM, FUSE_OHM, WIPER_OHM = 0.05, 0.05, 1.0
"""A closed contact, a small fuse, and what is left at the end of a track (from memory)."""
NOTHING_OHM = 1e15
"""As good as nothing in between."""
CLAMP = Junction(0.7, 0.005, 1.0, 10.0)
"""The protection between a pin and its supply: 0.7 V at 5 mA (from memory)."""
BIPOLAR_A, REVERSE_GAIN, USUAL_GAIN = 1e-14, 4.0, 100.0
"""A small-signal transistor: saturation current, reverse and least forward gain (from memory)."""
MOSFET_STEEPNESS, USUAL_THRESHOLD_V = 0.5, 2.0
"""A small logic-level MOSFET: about 2 Ω with 2 V over its threshold (from memory)."""


@dataclass(slots=True)
class Model:
    """Everything there is to solve. off: `board`, or keys of supplies, that are switched off."""

    wiring: Wiring
    nets: Nets
    jobs: dict[str, PinJob]
    origins: dict[str, Origin]
    unpowered: frozenset[str] = frozenset()
    is_board_off: bool = False
    pieces: list[Piece] = field(default_factory=list)
    clamps: list[Piece] = field(default_factory=list)
    drivers: list[Driver] = field(default_factory=list)
    capacitances: list[Capacitance] = field(default_factory=list)
    _touched: frozenset[str] = frozenset()
    _pins: frozenset[str] = frozenset()

    def __post_init__(self) -> None:
        self._pins = frozenset(pin.name for pin in self.wiring.board.pins)
        for connection in self.wiring.connections:
            self._wire(connection)
        for part in self.wiring.parts:
            ends = {leg: self.nets.of(place) for leg, place in part.ends.items()}
            self._part(part, ends, Owner("part", key=part.key))
        between = (net for piece in self.pieces for net in piece.nets)
        self._touched = frozenset(between)
        for device in self.wiring.devices:
            self._device(device)
        for pin in self.wiring.board.pins:
            job = self.jobs.get(pin.name)
            if job is not None:
                self._pin(pin, job)

    @property
    def ground(self) -> str:
        """The net everything is measured against."""
        return self.nets.of(self.nets.ground)

    def net(self, device: Device, lead: Lead) -> str:
        """The net of a lead."""
        return self.nets.of(place_of(device.key, lead.name))

    def ground_of(self, device: Device) -> str:
        """The net a device has for its ground; the common one where it has none that will do.

        What is wrong with its ground is told once, by its own check; all else is looked at as if it
        were mended.
        """
        for lead in device.family.leads:
            if lead.role is Role.GROUND:
                net = self.net(device, lead)
                places = tuple(self.nets.places(net))
                is_board = not self._pins.isdisjoint(places)
                if net in self.origins or is_board or (len(places) < 2 and not self._has_part(net)):
                    return self.ground
                return net
        return self.ground

    def feed_of(self, device: Device, lead: Lead | None = None) -> str | None:
        """The net a device is fed from; None when it is off, or wants no feed.

        One that nobody feeds is looked at as if it were fed as its family wants: what is wrong with
        its supply is told once, by its own check.
        """
        if device.key in self.unpowered:
            return None
        for one in (lead,) if lead else device.family.leads:
            if one.role is Role.SUPPLY:
                return self.fed_net(device, one) or self._as_it_wants(device, one)
        return None

    def fed_net(self, device: Device, lead: Lead) -> str | None:
        """The net a supply lead is on, where anything feeds it there."""
        net = self.net(device, lead)
        if net == self.ground:
            return None
        if net in self.origins or len(tuple(self.nets.places(net))) > 1:
            return net
        return net if self._has_part(net) else None

    def _as_it_wants(self, device: Device, lead: Lead) -> str:
        """A net with volts that suit a device: the logic supply's, or those nearest within."""
        wants = device.family.supply_of(lead)
        logic = self.logic()
        if wants is None or self.is_board_off or logic not in self.origins:
            return logic
        volts = self.origins[logic].volts
        if wants.min_v.value <= volts.usual <= wants.max_v.value:
            return logic
        middle = min(max(volts.usual, wants.min_v.value), wants.max_v.value)
        return self.held(f"{device.key} as it wants", exact(middle))

    def _has_part(self, net: str) -> bool:
        """Whether a part on a wire or on the bench leads on from a net."""
        return net in self._touched

    def logic(self) -> str:
        """The net of the board's logic supply."""
        return self.nets.of(self.wiring.board.logic_rail.name)

    def held(self, name: str, volts: Span) -> str:
        """A net of its own that is held at given volts."""
        net = f"={name}:{volts.low:.9g}:{volts.usual:.9g}:{volts.high:.9g}"
        self.origins.setdefault(net, Origin(name, volts))
        return net

    def _resistor(self, a: str, b: str, ohm: Span, owner: Owner, **when: int) -> None:
        if a != b:
            self.pieces.append(Piece("resistors", (a, b), ohm, owner, (), **when))

    def _diode(self, junction: Junction, anode: str, cathode: str, owner: Owner) -> None:
        if anode != cathode:
            one = junction.between(0, 1)
            rest = (one.emission, one.ohm)
            self.pieces.append(Piece("diodes", (anode, cathode), one.saturation_a, owner, rest))

    def _drive(self, driver: Driver) -> int:
        self.drivers.append(driver)
        return len(self.drivers) - 1

    def _clamp(self, anode: str, cathode: str, owner: Owner) -> None:
        if anode != cathode:
            one = CLAMP.between(0, 1)
            rest = (one.emission, one.ohm)
            self.clamps.append(Piece("diodes", (anode, cathode), one.saturation_a, owner, rest))

    # Wires and the parts on them.

    def _wire(self, one: Connection) -> None:
        for place, (bead, start, end) in enumerate(strung(one)):
            owner = Owner("bead", one.device, one.lead, key=str(place))
            self._bead(bead, self.nets.of(start), self.nets.of(end) if end else "", owner, one)
        farad = self.wiring.settings.wire_m * WIRE_F_PER_M
        owner = Owner("wire", one.device, one.lead)
        net = self.nets.of(one.to)
        self.capacitances.append(Capacitance((net, self.ground), farad, owner))

    def _bead(self, bead: Bead, net: str, onward: str, owner: Owner, one: Connection) -> None:
        if bead.kind is BeadKind.SERIES and bead.ohm is not None:
            self._resistor(net, onward, within(bead.ohm, bead.tolerance), owner)
        elif bead.kind is BeadKind.PULL_DOWN and bead.ohm is not None:
            self._resistor(net, self.ground, within(bead.ohm, bead.tolerance), owner)
        elif bead.kind is BeadKind.PULL_UP and bead.ohm is not None:
            rail = self.nets.of(bead.rail) if bead.rail else self.logic()
            self._resistor(net, rail, within(bead.ohm, bead.tolerance), owner)
        elif bead.kind is BeadKind.CAPACITOR and bead.farad is not None:
            farad = bead.farad * (1.0 + bead.tolerance)
            self.capacitances.append(Capacitance((net, self.ground), farad, owner, is_part=True))
        elif bead.kind is BeadKind.PIN_PULL_UP and not self.is_board_off:
            pin = self.wiring.board.pin(one.to)
            own = self.wiring.board.class_of(pin).pull_up_ohm if pin else None
            if own is not None:
                self._resistor(net, self.logic(), within(own.value, 0.5), owner)

    # Parts with legs, on the bench or inside a device.

    def _part(self, part: Part, at: dict[str, str], owner: Owner) -> None:
        match part.kind:
            case PartKind.RESISTOR if part.ohm is not None:
                self._resistor(at["a"], at["b"], within(part.ohm, part.tolerance), owner)
            case PartKind.FUSE:
                self._resistor(at["a"], at["b"], exact(FUSE_OHM), owner)
            case PartKind.CAPACITOR if part.farad is not None:
                farad = part.farad * (1.0 + part.tolerance)
                self.capacitances.append(
                    Capacitance((at["a"], at["b"]), farad, owner, is_part=True)
                )
            case PartKind.DIODE:
                forward = part.forward_v or 0.7
                self._diode(
                    Junction(forward, 0.01, forward / LED_EMISSION_V, 0.5, 0.1),
                    at["anode"],
                    at["cathode"],
                    owner,
                )
            case PartKind.LED if part.forward_v and part.max_a:
                self._diode(
                    lamp_junction(part.forward_v, part.max_a / 2), at["anode"], at["cathode"], owner
                )
            case PartKind.TRANSISTOR:
                gain = part.gain or USUAL_GAIN
                nets = (at["base"], at["collector"], at["emitter"])
                self.pieces.append(
                    Piece(
                        "bipolars",
                        nets,
                        Span(gain, 2.0 * gain, 4.0 * gain),
                        owner,
                        (BIPOLAR_A, REVERSE_GAIN),
                    )
                )
            case PartKind.MOSFET:
                opens = part.threshold_v or USUAL_THRESHOLD_V
                nets = (at["gate"], at["drain"], at["source"])
                span = Span(0.6 * opens, 0.8 * opens, opens)
                self.pieces.append(Piece("mosfets", nets, span, owner, (MOSFET_STEEPNESS,)))
                body = Owner("body", owner.device, owner.lead, owner.pin, owner.key)
                self._diode(Junction(0.7, 0.1, 1.0, 0.5), at["source"], at["drain"], body)
            case PartKind.SWITCH:
                closed = self._drive(Driver(owner, ("open", "closed")))
                self._resistor(
                    at["a"], at["b"], exact(CLOSED_OHM), owner, driver=closed, position=1
                )
            case PartKind.POTENTIOMETER if part.ohm is not None:
                self._track(part.ohm, part.tolerance, at, owner)
            case PartKind.VARYING if part.least_ohm and part.most_ohm:
                moved = self._drive(Driver(owner, ("least", "most")))
                for position, ohm in enumerate((part.least_ohm, part.most_ohm)):
                    span = within(ohm, part.tolerance)
                    self._resistor(at["a"], at["b"], span, owner, driver=moved, position=position)
            case _:  # a regulator holds its output's net; a wire has made one net of two
                return

    def _track(self, ohm: float, tolerance: float, at: dict[str, str], owner: Owner) -> None:
        """A potentiometer with its wiper at one end, in the middle, and at the other."""
        moved = self._drive(Driver(owner, ("at a", "in the middle", "at b")))
        for position, share in enumerate((0.0, 0.5, 1.0)):
            for leg, part in (("a", share), ("b", 1.0 - share)):
                span = within(max(ohm * part, WIPER_OHM), tolerance)
                self._resistor(at[leg], at["wiper"], span, owner, driver=moved, position=position)

    # Devices.

    def _device(self, device: Device) -> None:
        family = device.family
        for part in family.inside:
            names = {leg: self._inner(device, end) for leg, end in part.ends.items()}
            owner = Owner("inside", device.key, key=part.key)
            self._part(part, names, owner)
        emitters = [one for one in family.leads if one.role is Role.ANODE]
        cathodes = [one for one in family.leads if one.role is Role.CATHODE]
        for number, anode in enumerate(emitters):
            if anode.emitter is not None and cathodes:
                cathode = cathodes[min(number, len(cathodes) - 1)]
                self._lamp(device, anode, cathode, anode.emitter)
        self._photo(device, family)
        is_off = self.feed_of(device) is None and family.supply is not None
        for lead in family.leads:
            if is_off:
                self._dead_lead(device, lead)
            else:
                self._lead(device, lead)

    def _inner(self, device: Device, end: str) -> str:
        if device.family.lead(end) is not None:
            return self.nets.of(place_of(device.key, end))
        return f"{device.key}/{end}"

    def _lamp(self, device: Device, anode: Lead, cathode: Lead, one: Emitter) -> None:
        owner = Owner("lamp", device.key, anode.name)
        junction = lamp_junction(one.forward_v.value, one.good_a.value)
        self._diode(junction, self.net(device, anode), self.net(device, cathode), owner)

    def _photo(self, device: Device, family: DeviceFamily) -> None:
        collector = next((one for one in family.leads if one.role is Role.COLLECTOR), None)
        emitter = next((one for one in family.leads if one.role is Role.EMITTER), None)
        if collector is None or emitter is None:
            return
        owner = Owner("photo", device.key, collector.name)
        light = self._drive(Driver(owner, ("dark", "bright")))
        a, b = self.net(device, collector), self.net(device, emitter)
        for position, ohm in enumerate((DARK_OHM, BRIGHT_OHM)):
            self._resistor(a, b, exact(ohm), owner, driver=light, position=position)

    def _lead(self, device: Device, lead: Lead) -> None:
        net, ground, feed = self.net(device, lead), self.ground_of(device), self.feed_of(device)
        output = lead.output
        if output is not None:
            self._output(device, lead, net, ground, feed)
        elif lead.analogue is not None:
            self._analogue(device, lead, net, feed)
        elif lead.role in (Role.SDA, Role.SCL):
            self._bus_lead(device, lead, net, ground, feed)
        elif lead.input is not None and lead.input.current_a is not None:
            full = lead.input.current_a.value
            owner = Owner("input", device.key, lead.name)
            span = Span(0.5 * full, full, full)
            if net != ground:
                rest = (lead.input.high_min_v.value,)
                self.pieces.append(Piece("loads", (net, ground), span, owner, rest))
        elif lead.role is Role.SUPPLY:
            self._draw(device, lead, net, ground)

    def _draw(self, device: Device, lead: Lead, net: str, ground: str) -> None:
        """What a supply lead takes, where that moves any volts."""
        wants = device.family.supply_of(lead)
        is_stiff = net in self.origins and ground == self.ground
        if wants is None or net == ground or is_stiff or self.fed_net(device, lead) is None:
            return
        full = wants.typical_a.value
        owner = Owner("draw", device.key, lead.name)
        span = Span(0.1 * full, full, full)
        self.pieces.append(Piece("loads", (net, ground), span, owner, (wants.min_v.value,)))

    def _output(self, device: Device, lead: Lead, net: str, ground: str, feed: str | None) -> None:
        output = lead.output
        assert output is not None
        owner = Owner("output", device.key, lead.name)
        sink = output.sink_a.value if output.sink_a else OUTPUT_A
        most = max(output.low_v.value / sink, 1.0)
        ohm = Span(most / 4.0, most / 2.0, most)
        if output.drive is Drive.OPEN_DRAIN:
            pulled = self._drive(Driver(owner, ("released", "low"), 0, frozenset({1})))
            self._resistor(net, ground, ohm, owner, driver=pulled, position=1)
        else:
            positions: tuple[str, ...] = ("low", "high")
            rest, pulls = 0, frozenset({0, 1})
            if lead.role is Role.TWO_WAY:
                positions, rest, pulls = ("released", "low", "high"), 0, frozenset({1, 2})
            driven = self._drive(Driver(owner, positions, rest, pulls))
            low, high = positions.index("low"), positions.index("high")
            self._resistor(net, ground, ohm, owner, driver=driven, position=low)
            up = (
                self.held(f"{device.key}.{lead.name} high", exact(output.high_v.value))
                if (output.high_v is not None)
                else feed
            )
            if up is not None:
                self._resistor(net, up, ohm, owner, driver=driven, position=high)
        if output.own_pull_up_ohm is not None and feed is not None:
            own = Owner("own pull-up", device.key, lead.name)
            self._resistor(net, feed, within(output.own_pull_up_ohm.value, 0.05), own)

    def _analogue(self, device: Device, lead: Lead, net: str, feed: str | None) -> None:
        analogue = lead.analogue
        assert analogue is not None
        owner = Owner("output", device.key, lead.name)
        positions = ("low", "high")
        driven = self._drive(Driver(owner, positions, 0, frozenset({0, 1})))
        scale = exact(1.0)
        if analogue.ratiometric and feed is not None and feed in self.origins:
            volts = self.origins[feed].volts
            scale = Span(*(one / analogue.at_supply_v for one in volts))
        behind = exact(analogue.source_ohm.value if analogue.source_ohm else 1.0)
        for position, figure in enumerate((analogue.low_v, analogue.high_v)):
            span = Span(*(figure.value * one for one in scale))
            up = self.held(f"{device.key}.{lead.name} {positions[position]}", span)
            self._resistor(net, up, behind, owner, driver=driven, position=position)

    def _bus_lead(
        self, device: Device, lead: Lead, net: str, ground: str, feed: str | None
    ) -> None:
        bus = device.family.i2c
        assert bus is not None
        owner = Owner("output", device.key, lead.name)
        pulled = self._drive(Driver(owner, ("released", "low"), 0, frozenset({1})))
        ohm = Span(BUS_LOW_OHM / 4.0, BUS_LOW_OHM / 2.0, BUS_LOW_OHM)
        self._resistor(net, ground, ohm, owner, driver=pulled, position=1)
        self.capacitances.append(Capacitance((net, self.ground), bus.capacitance_f.value, owner))
        if bus.own_pull_up_ohm is not None:
            up = feed
            if bus.pulls_to_v is not None:
                up = self.held(f"{device.key} regulator", exact(bus.pulls_to_v.value))
            if up is not None:
                own = Owner("own pull-up", device.key, lead.name)
                self._resistor(net, up, within(bus.own_pull_up_ohm.value, 0.05), own)

    def _dead_lead(self, device: Device, lead: Lead) -> None:
        """A lead of a device that is off: its protection and its pull-up lead to a dead rail."""
        if device.key not in self.unpowered or lead.role is Role.SUPPLY:
            return
        net, owner = self.net(device, lead), Owner("dead", device.key, lead.name)
        is_push = lead.output is not None and lead.output.drive is Drive.PUSH_PULL
        is_bus = lead.role in (Role.SDA, Role.SCL)
        if is_push or lead.input is not None or is_bus or lead.analogue is not None:
            self._clamp(net, self.ground, owner)
        own = lead.output.own_pull_up_ohm if lead.output else None
        if is_bus and device.family.i2c is not None:
            own = device.family.i2c.own_pull_up_ohm
        if own is not None:
            self._resistor(net, self.ground, within(own.value, 0.05), owner)

    # The board.

    def _leak(self, pin: Pin, limits: PinClass, net: str) -> None:
        """What an input takes from its net or gives to it: nothing as usual, at worst all of it.

        As much as stated when the pin is at the other end of its supply, and never beyond it.
        """
        leak = limits.leak_a.value if limits.leak_a else LEAK_A
        logic = self.wiring.board.logic_v.value
        inside = self.held(f"{pin.name} leak", Span(0.0, logic / 2.0, logic))
        self._resistor(
            net, inside, Span(logic / leak, NOTHING_OHM, NOTHING_OHM), Owner("leak", pin=pin.name)
        )

    def _pin(self, pin: Pin, job: PinJob) -> None:
        net, limits = self.nets.of(pin.name), self.wiring.board.class_of(pin)
        owner = Owner("pin", pin=pin.name)
        self.capacitances.append(Capacitance((net, self.ground), PIN_F, owner))
        clamp = Owner("clamp", pin=pin.name)
        self._clamp(self.ground, net, clamp)
        if self.is_board_off:
            self._clamp(net, self.ground, clamp)
            return
        logic = self.logic()
        if has_upper_clamp(limits, self.wiring.board.logic_v.value):
            self._clamp(net, logic, clamp)
        if net not in self.origins and net != self.ground:
            self._leak(pin, limits, net)
        if job is PinJob.LISTENS:
            return
        down, up = pin_ohms(limits, self.wiring.board.logic_v.value)
        positions: tuple[str, ...] = ("low", "high")
        pulls, rest = frozenset({0, 1}), 0
        if job is PinJob.FEEDS:
            rest = 1
        elif job is PinJob.BUS:
            positions, pulls = ("released", "low"), frozenset({1})
        elif job is PinJob.BOTH:
            positions, pulls = ("released", "low", "high"), frozenset({1, 2})
        driven = self._drive(Driver(owner, positions, rest, pulls))
        self._resistor(
            net, self.ground, down, owner, driver=driven, position=positions.index("low")
        )
        if "high" in positions:
            self._resistor(net, logic, up, owner, driver=driven, position=positions.index("high"))


def pin_ohms(limits: PinClass, logic_v: float) -> tuple[Span, Span]:
    """What a pin drives low and high through, from the volts it is stated to have at its current.

    Stated are the worst; a usual one has half of that, a strong one a quarter (from memory).
    """
    amps = limits.drive_a.value if limits.drive_a else 0.02
    low = limits.output_low_v.value if limits.output_low_v else 0.4
    high = limits.output_high_v.value if limits.output_high_v else logic_v - 0.4
    down, up = max(low / amps, 1.0), max((logic_v - high) / amps, 1.0)
    return Span(down / 4.0, down / 2.0, down), Span(up / 4.0, up / 2.0, up)


def has_upper_clamp(limits: PinClass, logic_v: float) -> bool:
    """Whether a pin leads what is above its supply into it; one that bears 5 V does not."""
    return limits.absolute_max_v.value <= logic_v + 0.6


def lamp_junction(forward_v: float, at_a: float) -> Junction:
    """An LED from its forward volts, ± 10 % (common practice)."""
    return Junction(forward_v, at_a, forward_v / LED_EMISSION_V, 2.0, 0.1)
