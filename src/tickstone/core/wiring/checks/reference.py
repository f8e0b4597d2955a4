"""Parts whose output scales with their supply, against the converter's reference."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import grouped
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, WiringFinding, offered
from tickstone.core.wiring.netlist import Device
from tickstone.core.wiring.references import (
    analogue_span,
    is_supply,
    matching_reference,
    scales_with,
)
from tickstone.core.wiring.thread import Thread, names_of


def ratiometric(circuit: Circuit) -> Iterator[WiringFinding]:
    """A part whose output scales with its supply, read against another reference.

    A note where the board has no reference that is the part's supply: no wire mends it then.
    """
    reference, converter = circuit.reference, circuit.board.converter
    if reference is None or converter is None:
        return
    for device in circuit.wiring.devices:
        rail, spans = circuit.supply_rail(device), _scaling(circuit, device)
        if rail is None or not spans or is_supply(circuit, reference, rail.name):
            continue
        threads, highest = [thread for thread, _ in spans], max(high for _, high in spans)
        codes, volts = 2**converter.bits, reference.volts.value
        apart = circuit.rail_tolerance(rail)
        if reference.follows_supply:
            apart += circuit.rail_tolerance(circuit.board.logic_rail)
        drift = apart * highest / volts * codes
        lost = codes * (1.0 - min(1.0, circuit.rail_volts(rail) / volts))
        can_match = any(is_supply(circuit, one, rail.name) for one in converter.references)
        yield WiringFinding(
            "ratiometric-reference",
            Happens.LUCK if can_match else Happens.BETTER,
            ", ".join(thread.where for thread in threads),
            f"{names_of(threads)} {'scales' if len(threads) == 1 else 'scale'} with {rail.name}, "
            f"but {'is' if len(threads) == 1 else 'are'} read against {reference.name}: up to "
            f"{grouped(drift, 0)} codes of drift"
            + (
                f", and {grouped(lost, 0)} of {grouped(codes, 0)} codes never used."
                if lost >= 1
                else "."
            ),
            "A ratiometric part wants the converter’s reference to be its own supply; then both "
            "drift together and it cancels."
            + (
                ""
                if can_match
                else " This board has none: calibrate with the supply it will run on."
            ),
            "common practice",
            tuple(thread.spot for thread in threads),
            (
                Number("supply", circuit.rail_volts(rail), "V"),
                Number("reference", volts, "V"),
                Number("codes of drift", round(drift), ""),
                Number("codes never used", round(lost), ""),
            ),
            offered(matching_reference(circuit, rail.name)),
        )


def _scaling(circuit: Circuit, device: Device) -> list[tuple[Thread, float]]:
    """The leads of a device that scale with its supply, each with its highest volts."""
    return [
        (thread, span[1])
        for thread in circuit.of(device)
        if scales_with(circuit, thread) is not None
        and (span := analogue_span(circuit, thread)) is not None
    ]
