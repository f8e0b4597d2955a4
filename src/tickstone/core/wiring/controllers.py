"""The board's I²C controllers: whose line a pin is, and which of them a new device is put on."""

from __future__ import annotations

from collections.abc import Collection

from tickstone.core.families.board_family import Ability, Bus
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Spot
from tickstone.core.wiring.netlist import Device
from tickstone.core.wiring.thread import Thread

BUS_ROLES = (Role.SDA, Role.SCL)


def line_pins(
    circuit: Circuit, device: Device, without: Collection[Spot] = ()
) -> dict[Ability, str]:
    """The pins a device's bus leads end on, by line. without: leads that are about to move."""
    return {
        one.lead.wants: one.pin.name
        for one in circuit.of(device)
        if one.lead.role in BUS_ROLES
        and one.pin is not None
        and one.lead.wants is not None
        and one.spot not in without
    }


def controllers_of(circuit: Circuit, without: Collection[Spot] = ()) -> dict[str, Bus]:
    """By device key, the controller that drives its bus leads; left out where none can."""
    found: dict[str, Bus] = {}
    claimed: dict[tuple[str, Ability], str] = {}
    for device in circuit.wiring.devices:
        pins = line_pins(circuit, device, without)
        if not pins:
            continue
        able = [
            bus
            for bus in circuit.board.controllers
            if all(pin in bus.pins(line) for line, pin in pins.items())
        ]
        free = [
            bus
            for bus in able
            if all(claimed.get((bus.name, line), pin) == pin for line, pin in pins.items())
        ]
        # On the bus its pins have already, before one that is not in use yet.
        free.sort(key=lambda bus: not any((bus.name, line) in claimed for line in pins))
        if not free:
            continue
        found[device.key] = free[0]
        claimed |= {(free[0].name, line): pin for line, pin in pins.items()}
    return found


def shared_out(circuit: Circuit, threads: Collection[Thread]) -> dict[str, Bus]:
    """By device key, the controller each of these bus leads is put on, wherever it is now.

    A device goes where its other line is, or on the first bus where an address of its is free; on
    the first of all where none is.
    """
    buses = circuit.board.controllers
    found = controllers_of(circuit, [one.spot for one in threads])
    taken: dict[str, set[int]] = {bus.name: set() for bus in buses}
    for device in circuit.wiring.devices:
        if device.key in found:
            _take(taken[found[device.key].name], device)
    for thread in threads:
        device = thread.device
        if not buses or thread.lead.role not in BUS_ROLES or device.key in found:
            continue
        free = [bus for bus in buses if _possible(device) - taken[bus.name]]
        found[device.key] = (free or buses)[0]
        _take(taken[found[device.key].name], device)
    return found


def _possible(device: Device) -> set[int]:
    if device.address is not None:
        return {device.address}
    return {*device.family.i2c.addresses} if device.family.i2c else set()


def _take(taken: set[int], device: Device) -> None:
    """Note the address a device will have: its own, or the first that is free."""
    free = sorted(_possible(device) - taken) or sorted(_possible(device))
    bus = device.family.i2c
    if bus is not None and device.address is None:
        free = [one for one in bus.addresses if one in free]
    taken.update(free[:1])
