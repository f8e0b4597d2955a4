"""A wiring as a model: wires and parts first, then devices and pins, which ask what is on them."""

from __future__ import annotations

from collections.abc import Mapping

from tickstone.core.wiring.modelling.devices import add_device
from tickstone.core.wiring.modelling.model import Model
from tickstone.core.wiring.modelling.parts import add_part, add_wire
from tickstone.core.wiring.modelling.pins import add_pin
from tickstone.core.wiring.netlist import Wiring
from tickstone.core.wiring.nets import Nets
from tickstone.core.wiring.pieces import Origin, Owner
from tickstone.core.wiring.pin_jobs import PinJob


def model_of(
    wiring: Wiring,
    nets: Nets,
    jobs: Mapping[str, PinJob],
    origins: Mapping[str, Origin],
    unpowered: frozenset[str] = frozenset(),
    is_board_off: bool = False,
) -> Model:
    """Everything there is to solve. jobs: of the pins in use; unpowered: devices nobody feeds."""
    model = Model(wiring, nets, dict(origins), unpowered, is_board_off)
    for connection in wiring.connections:
        add_wire(model, connection)
    for part in wiring.parts:
        ends = {leg: nets.of(place) for leg, place in part.ends.items()}
        add_part(model, part, ends, Owner("part", key=part.key))
    model.has_part = frozenset(net for piece in model.pieces for net in piece.nets)
    for device in wiring.devices:
        add_device(model, device)
    for pin in wiring.board.pins:
        if pin.name in jobs:
            add_pin(model, pin, jobs[pin.name])
    return model
