"""Outputs that only pull down: something has to lift them, neither too hard nor too slowly."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.display import prefixed
from tickstone.core.electric.pull_up import RISE_10_90, Window, choose_pull_up, parallel
from tickstone.core.families.device_family import Drive
from tickstone.core.wiring.assignment import pulse_hz
from tickstone.core.wiring.bead import BeadKind, pull_up
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, Repair, WiringFinding
from tickstone.core.wiring.repairing import restrung, without

SOURCE = "common practice; V − V_low over the output’s stated sink current"
RISE_SHARE = 0.1
"""A rise may take a tenth of the shortest half of a pulse (common practice)."""


def missing_pull_up(circuit: Circuit) -> Iterator[WiringFinding]:
    """An open-drain lead nothing lifts."""
    for thread in _open_drains(circuit):
        if circuit.pull_ups(thread):
            continue
        yield WiringFinding(
            "missing-pull-up",
            "error",
            thread.where,
            f"{thread.name} only pulls down, and nothing lifts it.",
            "Left alone it floats: the pin reads noise, and pulses come and go with your hand.",
            "common practice",
            (thread.spot,),
            repair=_pulled(circuit, thread),
        )


def pull_up_value(circuit: Circuit) -> Iterator[WiringFinding]:
    """A pull-up that asks too much of the output, or lifts it too slowly for the pulses."""
    for thread in _open_drains(circuit):
        lifted = circuit.pull_ups(thread)
        output = thread.lead.output
        if not lifted or output is None or output.sink_a is None:
            continue
        ohm = parallel(rung.ohm for rung in lifted)
        volts = max(rung.to_volts or 0.0 for rung in lifted)
        current = (volts - output.low_v.value) / ohm
        rise = RISE_10_90 * ohm * circuit.wire_f
        rate = pulse_hz(thread)
        span = _window(circuit, thread, volts)
        if current > output.sink_a.value:
            yield WiringFinding(
                "pull-up-strong",
                "error",
                thread.where,
                f"{prefixed(ohm, 'Ω')} makes {thread.name} sink {prefixed(current, 'A')}; it is "
                f"made for {prefixed(output.sink_a.value, 'A')}.",
                "The low does not get low, and the output ages.",
                SOURCE,
                (thread.spot,),
                (
                    Number("pull-up", ohm, "Ω"),
                    Number("sinks", current, "A"),
                    Number("made for", output.sink_a.value, "A"),
                    Number("least pull-up", span.least_ohm, "Ω"),
                ),
                _pulled(circuit, thread),
            )
        elif rate and rise > RISE_SHARE * 0.5 / rate:
            yield WiringFinding(
                "pull-up-weak",
                "warning",
                thread.where,
                f"{prefixed(ohm, 'Ω')} lifts {thread.name} in {prefixed(rise, 's')}, slow for "
                f"{rate:g} pulses a second.",
                "The edges come late by different amounts, and at last not at all.",
                f"10–90 % rise 2.2·R·C with {prefixed(circuit.wire_f, 'F')} of wire and pin",
                (thread.spot,),
                (
                    Number("pull-up", ohm, "Ω"),
                    Number("rise", rise, "s"),
                    Number("pulse rate", rate, "Hz"),
                    Number("most pull-up", span.most_ohm, "Ω"),
                ),
                _pulled(circuit, thread),
            )


def _open_drains(circuit: Circuit) -> Iterator[Thread]:
    for thread in circuit.threads:
        output = thread.lead.output
        if output is not None and output.drive is Drive.OPEN_DRAIN and thread.pin is not None:
            yield thread


def _window(circuit: Circuit, thread: Thread, volts: float) -> Window:
    output = thread.lead.output
    assert output is not None
    sink = output.sink_a.value if output.sink_a else 0.004
    rate = pulse_hz(thread)
    rise = RISE_SHARE * 0.5 / rate if rate else 1e-4
    return Window((volts - output.low_v.value) / sink, rise / (RISE_10_90 * circuit.wire_f))


def _pulled(circuit: Circuit, thread: Thread) -> Repair | None:
    """One pull-up within the window, to the logic rail, in place of those on the wire."""
    output = thread.lead.output
    assert output is not None
    rail = circuit.board.logic_rail
    span = _window(circuit, thread, circuit.rail_volts(rail))
    liked = output.good_pull_up_ohm.value if output.good_pull_up_ohm else None
    ohm = choose_pull_up(Window(span.least_ohm * 1.1, span.most_ohm / 1.1), liked)
    if ohm is None:
        return None
    beads = without(thread, BeadKind.PULL_UP, BeadKind.PIN_PULL_UP)
    return restrung(
        thread,
        (*beads, pull_up(ohm)),
        f"Put {prefixed(ohm, 'Ω')} from {thread.name} up to {rail.name}.",
    )
