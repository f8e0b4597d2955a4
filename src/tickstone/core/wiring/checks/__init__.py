"""The checks: pure rules, a file for each subject, each rule registered here."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from tickstone.core.wiring.checks import (
    analogue,
    battery,
    bears,
    bus,
    current,
    decoupling,
    edges,
    fights,
    grounds,
    levels,
    light,
    pins,
    pull_ups,
    rangers,
    reference,
    supply,
)
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import WiringFinding

Check = Callable[[Circuit], Iterator[WiringFinding]]

CHECKS: tuple[Check, ...] = (
    grounds.shorted_source,
    grounds.two_sources,
    grounds.no_common_ground,
    supply.reversed_supply,
    fights.output_on_rail,
    supply.missing_ground,
    supply.missing_supply,
    grounds.headroom,
    supply.supply_range,
    supply.gulp,
    fights.two_outputs,
    grounds.both_on_one_net,
    pins.pin_twice,
    pins.counted_together,
    pins.pin_ability,
    pins.pulse_interrupt,
    pins.timer_taken,
    pins.special_pin,
    bears.pins_bear,
    bears.leads_bear,
    bears.unpowered,
    levels.pin_levels,
    levels.input_levels,
    levels.bus_lows,
    levels.floating,
    light.led_current,
    light.shared_resistor,
    current.resistor_power,
    current.part_currents,
    light.photo_load,
    light.emitter_swapped,
    pull_ups.missing_pull_up,
    pull_ups.output_sinks,
    edges.slow_edges,
    edges.capacitor_on_output,
    bus.lines_apart,
    bus.address_clash,
    bus.address_as_wired,
    bus.bus_pull_up,
    bus.bus_capacitance,
    bus.bus_speed,
    current.fed_from_pin,
    current.pin_currents,
    current.port_currents,
    current.rail_currents,
    current.regulator_heat,
    analogue.analogue_range,
    analogue.analogue_small,
    reference.ratiometric,
    battery.battery_range,
    battery.source_stiffness,
    rangers.ranger_cross_talk,
    decoupling.decoupling,
    pins.unconnected,
    grounds.unsolved,
)


def found_in(circuit: Circuit) -> tuple[WiringFinding, ...]:
    """Everything the checks find, worst first, with repairs as they come to mind."""
    found = [finding for check in CHECKS for finding in check(circuit)]
    return tuple(sorted(found, key=lambda finding: finding.happens.rank))
