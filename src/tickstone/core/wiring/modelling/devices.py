"""What a device is between its leads: outputs, bus, lamps, light, and what it takes."""

from __future__ import annotations

from tickstone.core.electric.network import Span, exact, within
from tickstone.core.families.device_family import DeviceFamily, Drive, Emitter, Lead, Role
from tickstone.core.wiring.modelling.model import Model
from tickstone.core.wiring.modelling.parts import add_part, lamp_junction
from tickstone.core.wiring.netlist import Device, place_of
from tickstone.core.wiring.pieces import Capacitance, Driver, Owner, Piece

OUTPUT_A = 0.004
"""The current at which an output's low is stated where nobody said (from memory)."""
BUS_LOW_OHM = 0.4 / 0.003
"""What a device pulls a bus down with: 0.4 V at 3 mA (UM10204 rev. 7, table 9)."""
BRIGHT_OHM, DARK_OHM = 100.0, 1e9
"""A phototransistor under strong light and in the dark (from memory)."""


def add_device(model: Model, device: Device) -> None:
    """What is between its leads; of one that is off, its protection alone."""
    family = device.family
    for part in family.inside:
        names = {leg: _inner(model, device, end) for leg, end in part.ends.items()}
        owner = Owner("inside", device.key, key=part.key)
        add_part(model, part, names, owner)
    emitters = [one for one in family.leads if one.role is Role.ANODE]
    cathodes = [one for one in family.leads if one.role is Role.CATHODE]
    for number, anode in enumerate(emitters):
        if anode.emitter is not None and cathodes:
            cathode = cathodes[min(number, len(cathodes) - 1)]
            _add_lamp(model, device, anode, cathode, anode.emitter)
    _add_photo(model, device, family)
    is_off = model.feed_of(device) is None and family.supply is not None
    for lead in family.leads:
        if is_off:
            _add_dead_lead(model, device, lead)
        else:
            _add_lead(model, device, lead)


def _inner(model: Model, device: Device, end: str) -> str:
    if device.family.lead(end) is not None:
        return model.nets.of(place_of(device.key, end))
    return f"{device.key}/{end}"


def _add_lamp(model: Model, device: Device, anode: Lead, cathode: Lead, one: Emitter) -> None:
    owner = Owner("lamp", device.key, anode.name)
    junction = lamp_junction(one.forward_v.value, one.good_a.value)
    model.diode(junction, model.net(device, anode), model.net(device, cathode), owner)


def _add_photo(model: Model, device: Device, family: DeviceFamily) -> None:
    collector = next((one for one in family.leads if one.role is Role.COLLECTOR), None)
    emitter = next((one for one in family.leads if one.role is Role.EMITTER), None)
    if collector is None or emitter is None:
        return
    owner = Owner("photo", device.key, collector.name)
    light = model.drive(Driver(owner, ("dark", "bright")))
    a, b = model.net(device, collector), model.net(device, emitter)
    for position, ohm in enumerate((DARK_OHM, BRIGHT_OHM)):
        model.resistor(a, b, exact(ohm), owner, driver=light, position=position)


def _add_lead(model: Model, device: Device, lead: Lead) -> None:
    net, ground, feed = model.net(device, lead), model.ground_of(device), model.feed_of(device)
    output = lead.output
    if output is not None:
        _add_output(model, device, lead, net, ground, feed)
    elif lead.analogue is not None:
        _add_analogue(model, device, lead, net, feed)
    elif lead.role in (Role.SDA, Role.SCL):
        _add_bus_lead(model, device, lead, net, ground, feed)
    elif lead.input is not None and lead.input.current_a is not None:
        full = lead.input.current_a.value
        owner = Owner("input", device.key, lead.name)
        span = Span(0.5 * full, full, full)
        if net != ground:
            rest = (lead.input.high_min_v.value,)
            model.pieces.append(Piece("loads", (net, ground), span, owner, rest))
    elif lead.role is Role.SUPPLY:
        _add_draw(model, device, lead, net, ground)


def _add_draw(model: Model, device: Device, lead: Lead, net: str, ground: str) -> None:
    """What a supply lead takes, where that moves any volts."""
    wants = device.family.supply_of(lead)
    is_stiff = net in model.origins and ground == model.ground
    if wants is None or net == ground or is_stiff or model.fed_net(device, lead) is None:
        return
    full = wants.typical_a.value
    owner = Owner("draw", device.key, lead.name)
    span = Span(0.1 * full, full, full)
    model.pieces.append(Piece("loads", (net, ground), span, owner, (wants.min_v.value,)))


def _add_output(
    model: Model, device: Device, lead: Lead, net: str, ground: str, feed: str | None
) -> None:
    output = lead.output
    assert output is not None
    owner = Owner("output", device.key, lead.name)
    sink = output.sink_a.value if output.sink_a else OUTPUT_A
    most = max(output.low_v.value / sink, 1.0)
    ohm = Span(most / 4.0, most / 2.0, most)
    if output.drive is Drive.OPEN_DRAIN:
        pulled = model.drive(Driver(owner, ("released", "low"), 0, frozenset({1})))
        model.resistor(net, ground, ohm, owner, driver=pulled, position=1)
    else:
        positions: tuple[str, ...] = ("low", "high")
        rest, pulls = 0, frozenset({0, 1})
        if lead.role is Role.TWO_WAY:
            positions, rest, pulls = ("released", "low", "high"), 0, frozenset({1, 2})
        driven = model.drive(Driver(owner, positions, rest, pulls))
        low, high = positions.index("low"), positions.index("high")
        model.resistor(net, ground, ohm, owner, driver=driven, position=low)
        up = (
            model.held(f"{device.key}.{lead.name} high", exact(output.high_v.value))
            if (output.high_v is not None)
            else feed
        )
        if up is not None:
            model.resistor(net, up, ohm, owner, driver=driven, position=high)
    if output.own_pull_up_ohm is not None and feed is not None:
        own = Owner("own pull-up", device.key, lead.name)
        model.resistor(net, feed, within(output.own_pull_up_ohm.value, 0.05), own)


def _add_analogue(model: Model, device: Device, lead: Lead, net: str, feed: str | None) -> None:
    analogue = lead.analogue
    assert analogue is not None
    owner = Owner("output", device.key, lead.name)
    positions = ("low", "high")
    driven = model.drive(Driver(owner, positions, 0, frozenset({0, 1})))
    scale = exact(1.0)
    if analogue.ratiometric and feed is not None and feed in model.origins:
        volts = model.origins[feed].volts
        scale = Span(*(one / analogue.at_supply_v for one in volts))
    behind = exact(analogue.source_ohm.value if analogue.source_ohm else 1.0)
    for position, figure in enumerate((analogue.low_v, analogue.high_v)):
        span = Span(*(figure.value * one for one in scale))
        up = model.held(f"{device.key}.{lead.name} {positions[position]}", span)
        model.resistor(net, up, behind, owner, driver=driven, position=position)


def _add_bus_lead(
    model: Model, device: Device, lead: Lead, net: str, ground: str, feed: str | None
) -> None:
    bus = device.family.i2c
    assert bus is not None
    owner = Owner("output", device.key, lead.name)
    pulled = model.drive(Driver(owner, ("released", "low"), 0, frozenset({1})))
    ohm = Span(BUS_LOW_OHM / 4.0, BUS_LOW_OHM / 2.0, BUS_LOW_OHM)
    model.resistor(net, ground, ohm, owner, driver=pulled, position=1)
    model.capacitances.append(Capacitance((net, model.ground), bus.capacitance_f.value, owner))
    if bus.own_pull_up_ohm is not None:
        up = feed
        if bus.pulls_to_v is not None:
            up = model.held(f"{device.key} regulator", exact(bus.pulls_to_v.value))
        if up is not None:
            own = Owner("own pull-up", device.key, lead.name)
            model.resistor(net, up, within(bus.own_pull_up_ohm.value, 0.05), own)


def _add_dead_lead(model: Model, device: Device, lead: Lead) -> None:
    """A lead of a device that is off: its protection and its pull-up lead to a dead rail."""
    if device.key not in model.unpowered or lead.role is Role.SUPPLY:
        return
    net, owner = model.net(device, lead), Owner("dead", device.key, lead.name)
    is_push = lead.output is not None and lead.output.drive is Drive.PUSH_PULL
    is_bus = lead.role in (Role.SDA, Role.SCL)
    if is_push or lead.input is not None or is_bus or lead.analogue is not None:
        model.clamp(net, model.ground, owner)
    own = lead.output.own_pull_up_ohm if lead.output else None
    if is_bus and device.family.i2c is not None:
        own = device.family.i2c.own_pull_up_ohm
    if own is not None:
        model.resistor(net, model.ground, within(own.value, 0.05), owner)
