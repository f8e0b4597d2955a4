"""Logic levels: a high that the input takes for one and survives, in both directions."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from tickstone.core.display import prefixed
from tickstone.core.electric.divider import DividerPair, choose_divider
from tickstone.core.electric.ladder import Rung, Source, along, corners
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import Bead, pull_down, pull_up, series
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.repairing import restrung, without_resistors


def output_too_high(circuit: Circuit) -> Iterator[WiringFinding]:
    """A device's high against what the pin bears, with tolerances."""
    for thread, source, rungs in _highs(circuit):
        assert thread.pin is not None
        limits = circuit.board.class_of(thread.pin)
        nominal = along(source, rungs).volts
        _, high = corners(source, rungs)
        logic = circuit.board.logic_v.value
        most = limits.absolute_max_v.value
        kills = high > most + 1e-9
        if not kills and nominal <= max(logic * 1.01, logic + 0.05):
            continue
        yield WiringFinding(
            "output-too-high",
            "error" if kills else "warning",
            thread.where,
            f"{thread.name} puts {prefixed(nominal, 'V')} on {thread.pin.name}, "
            + (
                f"up to {prefixed(high, 'V')} with tolerances; the pin bears {most:g} V."
                if kills
                else f"over the board’s own {logic:g} V."
            ),
            "Above its supply a pin feeds current into the chip through its protection; beyond the "
            "absolute maximum it is destroyed, now or in a month.",
            limits.absolute_max_v.source,
            (thread.spot,),
            (
                Number("nominal", nominal, "V"),
                Number("worst case", high, "V"),
                Number("pin bears", most, "V"),
                Number("logic supply", logic, "V"),
            ),
            _divide(circuit, thread, source, rungs),
        )


def output_too_low(circuit: Circuit) -> Iterator[WiringFinding]:
    """A device's high against what the pin takes for a high, with tolerances."""
    for thread, source, rungs in _highs(circuit):
        assert thread.pin is not None
        limits = circuit.board.class_of(thread.pin)
        nominal = along(source, rungs).volts
        low, _ = corners(source, rungs)
        needed = limits.high_min_v.value
        if low >= needed - 1e-9:
            continue
        yield WiringFinding(
            "output-too-low",
            "error",
            thread.where,
            f"{thread.name} puts {prefixed(nominal, 'V')} on {thread.pin.name}, as little as "
            f"{prefixed(low, 'V')} with tolerances; a reliable high needs {needed:g} V.",
            "Between low and high the pin reads what it likes, differently when it is warm.",
            limits.high_min_v.source,
            (thread.spot,),
            (
                Number("nominal", nominal, "V"),
                Number("worst case", low, "V"),
                Number("reliable high", needed, "V"),
            ),
            _divide(circuit, thread, source, rungs),
        )


def input_levels(circuit: Circuit) -> Iterator[WiringFinding]:
    """What the pin puts on a device's input, against what the device needs and bears."""
    for thread in circuit.threads:
        limits = thread.lead.input
        if limits is None or thread.pin is None:
            continue
        logic = circuit.board.logic_v.value
        rungs = list(reversed(circuit.rungs(thread)))
        rail = circuit.board.logic_rail
        source = Source(logic, 0.0, circuit.rail_tolerance(rail))
        low, high = corners(source, rungs)
        nominal = along(source, rungs).volts
        most = limits.absolute_max_v
        if low < limits.high_min_v.value - 1e-9:
            yield WiringFinding(
                "input-too-low",
                "error",
                thread.where,
                f"{thread.pin.name} gives {thread.name} {prefixed(nominal, 'V')}, as little as "
                f"{prefixed(low, 'V')}; it needs {limits.high_min_v.value:g} V for a high.",
                "It may work on the bench and stop when the supply sags.",
                limits.high_min_v.source,
                (thread.spot,),
                (
                    Number("worst case", low, "V"),
                    Number("reliable high", limits.high_min_v.value, "V"),
                ),
                restrung(
                    thread, without_resistors(thread), f"Take the resistors off {thread.name}."
                )
                if thread.beads and logic * (1 - source.volts_tolerance) >= limits.high_min_v.value
                else None,
            )
        elif most is not None and high > most.value + 1e-9:
            pair = choose_divider(
                logic, most.value, most.value, limits.high_min_v.value, source.volts_tolerance
            )
            beads = _strung(thread, pair, reverse=True)
            yield WiringFinding(
                "input-too-high",
                "error",
                thread.where,
                f"{thread.pin.name} gives {thread.name} up to {prefixed(high, 'V')}; it bears "
                f"{most.value:g} V.",
                "Its input protection carries the rest into its own supply, until it does not.",
                most.source,
                (thread.spot,),
                (Number("worst case", high, "V"), Number("input bears", most.value, "V")),
                restrung(thread, beads, _say(thread, pair)) if pair else None,
            )


def bus_level(circuit: Circuit) -> Iterator[WiringFinding]:
    """An I²C module that lifts the bus higher than the pins bear."""
    for thread in circuit.threads:
        bus = thread.device.family.i2c
        if thread.lead.role not in (Role.SDA, Role.SCL) or bus is None or thread.pin is None:
            continue
        supply = circuit.supply(thread.device)
        if bus.own_pull_up_ohm is None or (bus.pulls_to_v is None and supply is None):
            continue
        if bus.pulls_to_v is not None:
            volts = bus.pulls_to_v.value
        else:
            assert supply is not None
            volts = supply.volts
        most = circuit.board.class_of(thread.pin).absolute_max_v
        if volts <= most.value:
            continue
        rail = circuit.board.logic_rail
        feed = next(
            (one for one in circuit.of(thread.device) if one.lead.role is Role.SUPPLY), None
        )
        fits = thread.device.family.supply
        repair = None
        if (
            feed is not None
            and feed.connection is not None
            and fits is not None
            and fits.min_v.value <= circuit.rail_volts(rail) * (1 - rail.tolerance)
        ):
            repair = Repair(
                f"Feed {thread.device.name} from {rail.name} instead.",
                (replace(feed.connection, to=rail.name),),
            )
        yield WiringFinding(
            "bus-too-high",
            "error",
            thread.where,
            f"{thread.device.name} lifts the bus to {volts:g} V; {thread.pin.name} bears "
            f"{most.value:g} V.",
            "Its own pull-up resistors go to its own supply, and with them the whole bus.",
            most.source,
            (thread.spot,),
            (Number("bus high", volts, "V"), Number("pin bears", most.value, "V")),
            repair,
        )


def _highs(circuit: Circuit) -> Iterator[tuple[Thread, Source, list[Rung]]]:
    """Digital outputs that end on a pin and whose high is known."""
    for thread in circuit.threads:
        if thread.pin is None or thread.lead.output is None:
            continue
        high = circuit.high_source(thread)
        if high is not None:
            yield thread, *high


def _divide(circuit: Circuit, thread: Thread, source: Source, rungs: list[Rung]) -> Repair | None:
    """A divider in the wire; for a lead that only pulls down, the pull-up to the logic rail."""
    assert thread.pin is not None
    limits = circuit.board.class_of(thread.pin)
    logic = circuit.board.logic_v.value
    if source.ohm > 1e12:
        output = thread.lead.output
        if output is None or output.own_pull_up_ohm is not None:
            return None
        good = output.good_pull_up_ohm.value if output.good_pull_up_ohm else 10_000.0
        return restrung(
            thread,
            (*without_resistors(thread), pull_up(good)),
            f"Lift {thread.name} with {prefixed(good, 'Ω')} to {circuit.board.logic_rail.name} "
            "and nothing else.",
        )
    if source.volts <= logic:
        nothing = corners(source, [])[0] >= limits.high_min_v.value
        return (
            restrung(thread, without_resistors(thread), f"Take the resistors off {thread.name}.")
            if nothing and thread.beads
            else None
        )
    pair = choose_divider(
        source.volts,
        logic,
        limits.absolute_max_v.value,
        limits.high_min_v.value,
        source.volts_tolerance,
    )
    if pair is None:
        return None
    return restrung(thread, _strung(thread, pair), _say(thread, pair))


def _strung(thread: Thread, pair: DividerPair | None, reverse: bool = False) -> tuple[Bead, ...]:
    if pair is None:
        return thread.beads
    parts = (series(pair.top_ohm), pull_down(pair.bottom_ohm))
    return (*without_resistors(thread), *(reversed(parts) if reverse else parts))


def _say(thread: Thread, pair: DividerPair | None) -> str:
    if pair is None:
        return ""
    return (
        f"Put {prefixed(pair.top_ohm, 'Ω')} over {prefixed(pair.bottom_ohm, 'Ω')} on "
        f"{thread.name}: {pair.nominal_v:.2f} V, and {pair.low_v:.2f} to {pair.high_v:.2f} V "
        "with both resistors’ tolerances against you."
    )
