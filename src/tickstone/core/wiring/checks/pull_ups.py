"""Outputs that only pull down: something has to lift them, and not too hard."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.families.device_family import Drive
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, WiringFinding, offered
from tickstone.core.wiring.pieces import Owner
from tickstone.core.wiring.repairing import pulled
from tickstone.core.wiring.solved import FLOATING_OHM
from tickstone.core.wiring.thread import Thread

SOURCE = "common practice; V − V_low over the output’s stated sink current"


def missing_pull_up(circuit: Circuit) -> Iterator[WiringFinding]:
    """An open-drain lead nothing lifts; of several on one net, the first is told of."""
    told = set()
    for thread in _open_drains(circuit):
        point = circuit.solved.at(thread.place)
        if point.island is None or point.net in told:
            continue
        if point.behind_ohm(point.island.rest_state) < FLOATING_OHM:
            continue
        told.add(point.net)
        yield WiringFinding(
            "missing-pull-up",
            Happens.FAILS,
            thread.where,
            f"{thread.name} only pulls down, and nothing lifts it.",
            "Left alone it floats: the pin reads noise, and pulses come and go with your hand.",
            "common practice",
            (thread.spot,),
            repairs=offered(pulled(circuit, thread)),
        )


def output_sinks(circuit: Circuit) -> Iterator[WiringFinding]:
    """More into an output than it is made for."""
    for thread in _open_drains(circuit):
        output = thread.lead.output
        if output is None or output.sink_a is None:
            continue
        owner = Owner("output", thread.device.key, thread.lead.name)
        most = 0.0
        for island, piece in circuit.solved.pieces_of(owner):
            if circuit.fights(island):
                continue
            amps = island.amps(piece)
            most = max(most, amps.high if amps else 0.0)
        limit = output.sink_a.value
        if most <= limit * (1 + 1e-9):
            continue
        yield WiringFinding(
            "pull-up-strong",
            Happens.DESTROYS if most > 2.0 * limit else Happens.LUCK,
            thread.where,
            f"{thread.name} has to sink {prefixed(most, 'A')}; it is made for "
            f"{prefixed(limit, 'A')}.",
            "The low does not get low, and the output ages.",
            SOURCE,
            (thread.spot,),
            (
                Number("sinks", most, "A"),
                Number("made for", limit, "A"),
            ),
            offered(pulled(circuit, thread)),
        )


def _open_drains(circuit: Circuit) -> Iterator[Thread]:
    for thread in circuit.threads:
        output = thread.lead.output
        if output is None or output.drive is not Drive.OPEN_DRAIN:
            continue
        if thread.connection is not None or thread.pin is not None:
            yield thread
