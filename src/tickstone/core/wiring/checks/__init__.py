"""The checks: pure rules, a file for each subject, each rule registered here."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from tickstone.core.finding import SEVERITIES
from tickstone.core.wiring.checks import (
    analogue,
    battery,
    bus,
    current,
    decoupling,
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
from tickstone.core.wiring.netlist import Wiring

Check = Callable[[Circuit], Iterator[WiringFinding]]

CHECKS: tuple[Check, ...] = (
    supply.reversed_supply,
    supply.output_on_rail,
    supply.missing_ground,
    supply.missing_supply,
    supply.supply_range,
    pins.pin_twice,
    pins.pin_ability,
    pins.pulse_interrupt,
    pins.special_pin,
    levels.output_too_high,
    levels.output_too_low,
    levels.input_levels,
    levels.bus_level,
    light.led_resistor,
    light.resistor_power,
    light.photo_load,
    light.emitter_swapped,
    pull_ups.missing_pull_up,
    pull_ups.pull_up_value,
    bus.address_clash,
    bus.bus_pull_up,
    bus.bus_capacitance,
    bus.bus_speed,
    current.pin_currents,
    current.port_currents,
    current.rail_currents,
    analogue.analogue_range,
    analogue.analogue_small,
    reference.ratiometric,
    battery.battery_divider,
    battery.source_stiffness,
    rangers.ranger_cross_talk,
    decoupling.decoupling,
    pins.unconnected,
)


def check_wiring(wiring: Wiring) -> tuple[WiringFinding, ...]:
    """Everything the checks find, worst first; what can destroy comes before what misreads."""
    circuit = Circuit(wiring)
    found = [finding for check in CHECKS for finding in check(circuit)]
    return tuple(sorted(found, key=lambda finding: SEVERITIES.index(finding.severity)))
