"""Which rail suits a device."""

from __future__ import annotations

from tickstone.core.families.board_family import Rail, RailKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Device


def suitable_rail(circuit: Circuit, device: Device) -> Rail | None:
    """The rail that suits a device: of those within its range, the one nearest the logic level."""
    supply = device.family.supply
    if supply is None:
        return circuit.board.logic_rail
    fitting = []
    for rail in circuit.board.rails:
        volts, spread = circuit.rail_volts(rail), circuit.rail_tolerance(rail)
        slack = 0.03 * volts
        if (
            rail.kind is not RailKind.GROUND
            and supply.min_v.value - slack <= volts * (1 - spread)
            and volts * (1 + spread) <= supply.max_v.value + slack
            and (rail.limit_a is None or supply.typical_a.value <= rail.limit_a.value)
        ):
            fitting.append(rail)
    logic = circuit.board.logic_v.value
    return min(
        fitting,
        key=lambda rail: (
            rail.kind is RailKind.INPUT,
            abs(circuit.rail_volts(rail) - logic),
        ),
        default=None,
    )
