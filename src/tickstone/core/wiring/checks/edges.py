"""Edges fast enough for what they carry: every capacitance on a net against what drives it."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.electric.pull_up import RISE_10_90
from tickstone.core.families.board_family import Ability
from tickstone.core.families.device_family import Drive
from tickstone.core.wiring.assignment import pulse_hz
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import Happens, Number, Repair, Spot, WiringFinding, offered
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.repairing import RISE_SHARE, pulled, restrung, without
from tickstone.core.wiring.solved import FLOATING_OHM
from tickstone.core.wiring.thread import Thread

USUAL_EDGE_S = 1e-3
"""How late an edge may come where its family does not say (our choice)."""
BARE_OHM, LARGE_F = 200.0, 1e-9
"""A capacitor so large, behind so little, asks a gulp of the output at every edge (our choice)."""


def slow_edges(circuit: Circuit) -> Iterator[WiringFinding]:
    """Signals that come late to whoever listens."""
    for thread in circuit.threads:
        wanted = _wanted_s(thread)
        if wanted is None or thread.lead.wants is Ability.ANALOGUE:
            continue
        end = _listener(circuit, thread)
        if end is None:
            continue
        point = circuit.solved.at(end)
        island = point.island
        if island is None or circuit.fights(island):
            continue
        tau = circuit.solved.time_constant_s(point)
        if tau is None or point.behind_ohm(island.rest_state) >= FLOATING_OHM:
            continue
        rise = RISE_10_90 * tau
        if rise <= wanted:
            continue
        rate = pulse_hz(thread)
        is_lift = rate is not None and not any(
            one.kind is BeadKind.CAPACITOR for one in thread.beads
        )
        what = (
            f"slow for {rate:g} pulses a second"
            if rate
            else (f"where it has {prefixed(wanted, 's')}")
        )
        yield WiringFinding(
            "pull-up-weak" if is_lift else "edge-slow",
            Happens.LUCK if rise < 5.0 * wanted else Happens.FAILS,
            thread.where,
            f"{thread.name} rises in {prefixed(rise, 's')}, {what}.",
            "The edges come late by different amounts, and at last not at all.",
            "10–90 % rise, 2.2 times resistance times capacitance; Elmore 1948 for several",
            (thread.spot,),
            (
                Number("rise", rise, "s"),
                Number("allowed", wanted, "s"),
                *((Number("pulse rate", rate, "Hz"),) if rate else ()),
            ),
            offered(_off(thread), pulled(circuit, thread) if is_lift else None),
        )


def _wanted_s(thread: Thread) -> float | None:
    """How long an edge may take, s; None for what has none."""
    lead = thread.lead
    rate = pulse_hz(thread)
    if rate:
        return RISE_SHARE * 0.5 / rate
    if lead.edge_s is not None:
        return lead.edge_s.value
    if lead.output is not None or (lead.input is not None and lead.input.current_a is None):
        return USUAL_EDGE_S
    return None


def _listener(circuit: Circuit, thread: Thread) -> str | None:
    """Where an edge of a lead is waited for: at the lead itself, or at the pin that hears it."""
    if thread.lead.output is None:
        return thread.place
    for look in circuit.pin_looks:
        if thread in look.threads and look.job is not PinJob.DRIVES:
            return look.pin.name
    return None


def _off(thread: Thread) -> Repair | None:
    if not any(one.kind is BeadKind.CAPACITOR for one in thread.beads):
        return None
    return restrung(
        thread, without(thread, BeadKind.CAPACITOR), f"Take the capacitor off {thread.name}."
    )


def capacitor_on_output(circuit: Circuit) -> Iterator[WiringFinding]:
    """A capacitor straight on something that drives: a short at every edge."""
    told = set()
    for one in circuit.solved.model.capacitances:
        if not one.is_part or one.farad < LARGE_F or circuit.solved.model.ground not in one.nets:
            continue
        net = next((n for n in one.nets if n != circuit.solved.model.ground), "")
        point = circuit.solved.at(net)
        if point.island is None or net in told:
            continue
        for place in range(len(point.island.drivers)):
            driver = point.island.driver(place)
            state = point.island.state({place: "high"}) if "high" in driver.positions else None
            thread = circuit.thread_of(driver.owner)
            is_digital = driver.owner.sort == "pin" or (
                thread is not None
                and thread.lead.output is not None
                and thread.lead.output.drive is Drive.PUSH_PULL
            )
            if state is None or not is_digital or point.behind_ohm(state) > BARE_OHM:
                continue
            amps = point.volts(state).high / max(point.behind_ohm(state), 1.0)
            told.add(net)
            own = circuit.thread_of(one.owner)
            name = circuit.name_of(driver.owner)
            yield WiringFinding(
                "capacitor-on-output",
                Happens.LUCK,
                own.where if own else name,
                f"{prefixed(one.farad / 1.2, 'F')} sit straight on {name}: at every edge it has to "
                f"fill them, with {prefixed(amps, 'A')} at first.",
                "A capacitor belongs across a supply, or behind a resistor where a signal is to be "
                "smoothed. On an output it is a short circuit for a moment, at each edge.",
                "common practice",
                (own.spot if own else Spot(pin=driver.owner.pin, part=one.owner.key),),
                (Number("at first", amps, "A"), Number("capacitor", one.farad, "F")),
                offered(_off(own)) if own else (),
            )
            break
