"""Two outputs against each other, and outputs against a supply."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.families.device_family import Role
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Spot, WiringFinding, offered
from tickstone.core.wiring.repairing import moved


def two_outputs(circuit: Circuit) -> Iterator[WiringFinding]:
    """More than one that drives a net, with nothing in between that keeps them apart."""
    for island in circuit.solved.islands:
        fight = circuit.fights(island)
        if fight is None:
            continue
        owners, amps, limit = fight
        threads = [one for owner in owners if (one := circuit.thread_of(owner)) is not None]
        pins = [owner.pin for owner in owners if owner.pin]
        names = " and ".join([*(thread.name for thread in threads), *pins])
        end = threads[0].connection.to if threads and threads[0].connection else ""
        meeting = f"meet on {end}" if threads and end else "are joined"
        yield WiringFinding(
            "two-outputs",
            Happens.DESTROYS,
            f"{names} → {end}" if end else names,
            f"{names} {meeting}, and more than one of them drives: {prefixed(amps, 'A')} when one "
            "is high and the other low.",
            "When one output pulls up and the other down, both carry a short circuit current.",
            "common practice; the board family’s pin table",
            (*(thread.spot for thread in threads), *(Spot(pin=pin) for pin in pins)),
            (Number("between them", amps, "A"), Number("bearable", limit, "A")),
            offered(*(moved(circuit, thread) for thread in reversed(threads))),
        )


def output_on_rail(circuit: Circuit) -> Iterator[WiringFinding]:
    """An output or bus lead that ends straight on a supply or on ground."""
    signals = (Role.OUTPUT, Role.TWO_WAY, Role.ANALOGUE, Role.SDA, Role.SCL)
    for thread in circuit.threads:
        point = circuit.solved.at(thread.place)
        if thread.lead.role in (*signals, Role.BATTERY) and thread.connection is not None:
            is_battery = thread.lead.role is Role.BATTERY
            if is_battery and not (thread.rail is not None and not thread.series_ohm):
                continue
            if not is_battery and not point.is_held:
                continue
            end = thread.rail.name if thread.rail else thread.connection.to
            yield WiringFinding(
                "output-on-rail",
                Happens.DESTROYS,
                thread.where,
                f"{thread.name} gives a signal but ends on {end}: a short.",
                "When it drives the other way its output stage carries all the current there is.",
                "common practice",
                (thread.spot,),
                repairs=offered(moved(circuit, thread)),
            )
