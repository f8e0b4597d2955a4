"""Which rail suits a device."""

from __future__ import annotations

from tickstone.core.families.board_family import Rail, RailKind
from tickstone.core.families.device_family import Lead, Supply
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Device

SLACK = 0.03
"""A rail’s nominal has to fit; its corners may only touch what a family states (our choice)."""


def feeds_well(circuit: Circuit, rail: Rail, wants: Supply) -> bool:
    """Whether a rail has the volts a device wants, and current enough for it alone."""
    volts, spread = circuit.rail_volts(rail), circuit.rail_tolerance(rail)
    slack = SLACK * volts
    return (
        rail.kind is not RailKind.GROUND
        and wants.min_v.value - slack <= volts * (1 - spread)
        and volts * (1 + spread) <= wants.max_v.value + slack
        and (rail.limit_a is None or wants.typical_a.value <= rail.limit_a.value)
    )


def suitable_rail(circuit: Circuit, device: Device, lead: Lead | None = None) -> Rail | None:
    """The rail that suits a device: of those within its range, the one nearest the logic level."""
    wants = device.family.supply_of(lead) if lead is not None else device.family.supply
    if wants is None:
        return circuit.board.logic_rail
    logic = circuit.board.logic_v.value
    return min(
        (rail for rail in circuit.board.rails if feeds_well(circuit, rail, wants)),
        key=lambda rail: (
            rail.kind is RailKind.INPUT,
            abs(circuit.rail_volts(rail) - logic),
        ),
        default=None,
    )
