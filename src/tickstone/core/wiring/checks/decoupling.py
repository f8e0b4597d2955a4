"""A capacitor close to each part that switches fast."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.families.device_family import Role
from tickstone.core.wiring.bead import BeadKind, capacitor
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, WiringFinding, offered
from tickstone.core.wiring.repairing import restrung

USUAL_F = 100e-9


def decoupling(circuit: Circuit) -> Iterator[WiringFinding]:
    """A bare part, fed over a wire, without a capacitor across its supply."""
    across = {net for one in circuit.solved.model.capacitances if one.is_part for net in one.nets}
    for thread in circuit.threads:
        supply = thread.device.family.supply
        if thread.lead.role is not Role.SUPPLY or supply is None or not supply.wants_decoupling:
            continue
        if circuit.is_grounded(thread.place):
            continue
        if any(bead.kind is BeadKind.CAPACITOR for bead in thread.beads):
            continue
        net = circuit.nets.of(thread.place)
        if net in across and not circuit.is_held(thread.place):
            continue
        yield WiringFinding(
            "missing-decoupling",
            Happens.BETTER,
            thread.where,
            f"{thread.device.name} has no capacitor across its supply.",
            "The wire holds back short gulps of current; the part’s own supply dips and it "
            "misreads or makes edges of its own.",
            "common practice: 100 nF within a few centimetres",
            (thread.spot,),
            repairs=offered(
                restrung(
                    thread,
                    (*thread.beads, capacitor(USUAL_F)),
                    f"Put 100 nF across the supply of {thread.device.name}, close to it.",
                )
            ),
        )
