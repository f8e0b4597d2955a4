"""Pins: each lead on one that can do its job, alone there, and not on one the board needs."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.families.board_family import Ability, PinUse
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.assignment import (
    BUS_ROLES,
    abilities_for,
    pulse_hz,
    pulses_too_fast_to_poll,
)
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import Number, WiringFinding
from tickstone.core.wiring.repairing import moved

SOURCE = "common practice; the board family’s pin table"


def unconnected(circuit: Circuit) -> Iterator[WiringFinding]:
    """Signal leads that go nowhere, one finding for each device."""
    for device in circuit.wiring.devices:
        loose = [
            thread
            for thread in circuit.of(device)
            if thread.connection is None
            and thread.lead.wants is not None
            and not thread.lead.is_optional
        ]
        if not loose:
            continue
        names = ", ".join(thread.lead.name for thread in loose)
        first = moved(circuit, loose[0]) if len(loose) == 1 else None
        yield WiringFinding(
            "unconnected",
            "error",
            f"{device.name} {names}",
            f"{device.name}: {names} {'has' if len(loose) == 1 else 'have'} no pin yet.",
            "Propose pins gives every loose lead a place, or choose one by hand.",
            SOURCE,
            tuple(thread.spot for thread in loose),
            repair=first,
        )


def pin_twice(circuit: Circuit) -> Iterator[WiringFinding]:
    """Two leads on one pin that are not a bus; two outputs among them fight."""
    for pin in circuit.board.pins:
        threads = circuit.on(pin.name)
        if len(threads) < 2:
            continue
        roles = {thread.lead.role for thread in threads}
        if len(roles) == 1 and roles <= set(BUS_ROLES):
            continue
        drivers = [thread for thread in threads if _drives(thread)]
        fight = len(drivers) > 1
        names = " and ".join(thread.name for thread in threads)
        # Whoever moves, a bus stays together.
        movable = [one for one in threads if one.lead.role not in BUS_ROLES] or list(threads)
        loser = drivers[-1] if fight else movable[-1]
        yield WiringFinding(
            "two-outputs" if fight else "pin-twice",
            "error",
            f"{names} → {pin.name}",
            f"{names} meet on {pin.name}"
            + (
                ", and more than one of them drives it."
                if fight
                else "; the program cannot tell them apart."
            ),
            "When one output pulls up and the other down, both carry a short circuit current."
            if fight
            else "A pin serves one lead, but for a bus.",
            SOURCE,
            tuple(thread.spot for thread in threads),
            (Number("leads on the pin", float(len(threads)), ""),),
            moved(circuit, loser),
        )


def pin_ability(circuit: Circuit) -> Iterator[WiringFinding]:
    """A lead on a pin that cannot do its job."""
    for thread in circuit.threads:
        if thread.pin is None or thread.lead.wants is None:
            continue
        needed = abilities_for(circuit, thread) - {Ability.INTERRUPT}
        lacking = needed - set(thread.pin.abilities)
        if not lacking:
            continue
        what = " and ".join(sorted(ability.words for ability in lacking))
        yield WiringFinding(
            "pin-ability",
            "error",
            thread.where,
            f"{thread.name} needs {what}, which {thread.pin.name} is not.",
            f"On a {circuit.board.label} that is a matter of the pin; no program changes it.",
            SOURCE,
            (thread.spot,),
            repair=moved(circuit, thread),
        )


def special_pin(circuit: Circuit) -> Iterator[WiringFinding]:
    """A lead on a pin with a job of the board's own: serial line, boot choice, lamp."""
    ids = {PinUse.SERIAL: "serial-pin", PinUse.BOOT: "boot-pin", PinUse.LAMP: "lamp-pin"}
    for thread in circuit.threads:
        if thread.pin is None or thread.pin.use is PinUse.NONE:
            continue
        yield WiringFinding(
            ids[thread.pin.use],
            "note" if thread.pin.use is PinUse.LAMP else "warning",
            thread.where,
            f"{thread.pin.name}, where {thread.name} ends, has a job of the board’s own.",
            thread.pin.caution,
            SOURCE,
            (thread.spot,),
            repair=moved(circuit, thread),
        )


def pulse_interrupt(circuit: Circuit) -> Iterator[WiringFinding]:
    """Pulses faster than the loop can see, on a pin that cannot interrupt it."""
    for thread in circuit.threads:
        rate = pulse_hz(thread)
        if thread.pin is None or rate is None or Ability.INTERRUPT in thread.pin.abilities:
            continue
        if not pulses_too_fast_to_poll(circuit, thread):
            continue
        limit = 0.25 / circuit.settings.loop_s
        yield WiringFinding(
            "pulse-interrupt",
            "error",
            thread.where,
            f"{thread.name} pulses up to {rate:g} times a second; a loop of "
            f"{circuit.settings.loop_s * 1000:g} ms sees {limit:.3g}, and {thread.pin.name} "
            "takes no interrupt.",
            "A program that looks once a turn needs a turn shorter than a quarter of a pulse, or "
            "it misses some and reads low.",
            "sampling: two looks for each half of a pulse",
            (thread.spot,),
            (
                Number("pulse rate", rate, "Hz"),
                Number("loop", circuit.settings.loop_s, "s"),
                Number("fastest seen", limit, "Hz"),
            ),
            moved(circuit, thread),
        )


def _drives(thread: Thread) -> bool:
    output = thread.lead.output
    if output is not None:
        return output.drive is Drive.PUSH_PULL
    return thread.lead.role is Role.ANALOGUE
