"""Pins: each lead on one that can do its job, alone there, and not on one the board needs."""

from __future__ import annotations

from collections.abc import Iterator

from tickstone.core.families.board_family import Ability, PinUse
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.assignment import (
    abilities_for,
    pulse_hz,
    pulses_too_fast_to_poll,
    taken_timer,
)
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.controllers import BUS_ROLES
from tickstone.core.wiring.finding import Happens, Number, WiringFinding, offered
from tickstone.core.wiring.repairing import moved
from tickstone.core.wiring.thread import Thread

SOURCE = "common practice; the board family’s pin table"


def unconnected(circuit: Circuit) -> Iterator[WiringFinding]:
    """Leads that go nowhere, one finding for each device; supply and ground are told of as such."""
    for device in circuit.wiring.devices:
        loose = [
            thread
            for thread in circuit.of(device)
            if thread.connection is None
            and thread.pin is None
            and thread.lead.role not in (Role.SUPPLY, Role.GROUND)
            and not thread.lead.is_optional
            and not thread.is_open_on_purpose
            and not circuit.is_joined(thread.place)
        ]
        if not loose:
            continue
        names = ", ".join(thread.lead.name for thread in loose)
        yield WiringFinding(
            "unconnected",
            Happens.FAILS,
            f"{device.name} {names}",
            f"{device.name}: {names} {'goes' if len(loose) == 1 else 'go'} nowhere yet.",
            "Propose pins gives every loose lead a place, or choose one by hand; a lead that is "
            "meant to stay open can be marked so.",
            SOURCE,
            tuple(thread.spot for thread in loose),
            repairs=offered(
                moved(circuit, loose[0]) if len(loose) == 1 and loose[0].lead.wants else None
            ),
        )


def pin_twice(circuit: Circuit) -> Iterator[WiringFinding]:
    """Two leads on one pin that are neither a bus nor made to share it."""
    for pin in circuit.board.pins:
        threads = [one for one in circuit.on(pin.name) if one.lead.wants is not None]
        if len(threads) < 2 or _may_share(circuit, threads):
            continue
        names = " and ".join(thread.name for thread in threads)
        # Whoever moves, a bus stays together.
        movable = [one for one in threads if one.lead.role not in BUS_ROLES] or list(threads)
        yield WiringFinding(
            "pin-twice",
            Happens.FAILS,
            f"{names} → {pin.name}",
            f"{names} meet on {pin.name}; the program cannot tell them apart.",
            "A pin serves one lead, but for a bus.",
            SOURCE,
            tuple(thread.spot for thread in threads),
            (Number("leads on the pin", float(len(threads)), ""),),
            offered(moved(circuit, movable[-1])),
        )


def _may_share(circuit: Circuit, threads: list[Thread]) -> bool:
    """Whether leads may meet on a pin: a bus, one wire for many, one signal to many, or a wired or.

    Outputs that fight are told of by what runs between them.
    """
    if all(one.lead.role in BUS_ROLES for one in threads):
        return len({one.lead.role for one in threads}) == 1
    if all(one.lead.is_shared for one in threads):
        return True
    if all(_is_open_drain(one) and one.lead.role is Role.OUTPUT for one in threads):
        return True
    takers = (Role.INPUT, Role.ANODE, Role.CATHODE)
    drivers = [one for one in threads if one.lead.role not in takers and not _is_passive(one)]
    if not drivers:
        return True
    hearing = [one for one in threads if one.lead.role is Role.INPUT]
    if len(drivers) == 1:
        # An output that works another device's input, with the pin listening in.
        return drivers[0].lead.role is Role.OUTPUT and all(
            one.device.key != drivers[0].device.key for one in hearing
        )
    return circuit.fights_on(threads[0])


def _is_open_drain(thread: Thread) -> bool:
    output = thread.lead.output
    return output is not None and output.drive is Drive.OPEN_DRAIN


def _is_passive(thread: Thread) -> bool:
    return thread.lead.role is Role.LEG


def counted_together(circuit: Circuit) -> Iterator[WiringFinding]:
    """Pulses of two devices on one pin, which the program counts as one."""
    for pin in circuit.board.pins:
        threads = [one for one in circuit.on(pin.name) if one.lead.pulses_hz is not None]
        if len(threads) < 2 or circuit.fights_on(threads[0]):
            continue
        names = " and ".join(thread.name for thread in threads)
        yield WiringFinding(
            "counted-together",
            Happens.LUCK,
            f"{names} → {pin.name}",
            f"{names} share {pin.name}: their pulses are counted as one.",
            "Either of them pulls the pin down, and the program cannot tell whose turn it was.",
            SOURCE,
            tuple(thread.spot for thread in threads),
            (),
            offered(moved(circuit, threads[-1])),
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
            Happens.FAILS,
            thread.where,
            f"{thread.name} needs {what}, which {thread.pin.name} is not.",
            f"On a {circuit.board.label} that is a matter of the pin; no program changes it.",
            SOURCE,
            (thread.spot,),
            repairs=offered(moved(circuit, thread)),
        )


def timer_taken(circuit: Circuit) -> Iterator[WiringFinding]:
    """PWM from a timer that something else of the rig works by."""
    for thread in circuit.threads:
        timer = taken_timer(circuit, thread, thread.pin) if thread.pin is not None else None
        if timer is None or thread.pin is None:
            continue
        takers = [one for one in circuit.threads if one.lead.uses in timer.taken_by]
        uses = {one.lead.uses.words for one in takers if one.lead.uses is not None}
        names = " and ".join(sorted({one.device.name for one in takers}))
        yield WiringFinding(
            "timer-taken",
            Happens.FAILS,
            thread.where,
            f"{thread.name} asks {thread.pin.name} for PWM, but {names} takes {timer.name} of it.",
            f"The program makes {' and '.join(sorted(uses))} with {timer.name}; PWM on "
            f"{' and '.join(timer.pins)} stands still meanwhile.",
            f"common practice; the board family’s timers, {timer.source}",
            (thread.spot,),
            repairs=offered(moved(circuit, thread)),
        )


def special_pin(circuit: Circuit) -> Iterator[WiringFinding]:
    """A lead on a pin with a job of the board's own: serial line, boot choice, lamp."""
    ids = {PinUse.SERIAL: "serial-pin", PinUse.BOOT: "boot-pin", PinUse.LAMP: "lamp-pin"}
    for thread in circuit.threads:
        if thread.pin is None or thread.pin.use is PinUse.NONE:
            continue
        yield WiringFinding(
            ids[thread.pin.use],
            Happens.BETTER if thread.pin.use is PinUse.LAMP else Happens.LUCK,
            thread.where,
            f"{thread.pin.name}, where {thread.name} ends, has a job of the board’s own.",
            thread.pin.caution,
            SOURCE,
            (thread.spot,),
            repairs=offered(moved(circuit, thread)),
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
        numbers = (
            Number("pulse rate", rate, "Hz"),
            Number("loop", circuit.settings.loop_s, "s"),
            Number("fastest seen", limit, "Hz"),
        )
        if Ability.PIN_CHANGE in thread.pin.abilities:
            yield WiringFinding(
                "pin-change-cost",
                Happens.BETTER,
                thread.where,
                f"{thread.name} on {thread.pin.name} can be counted by its pin-change interrupt, "
                "which its whole port shares.",
                "It comes at both edges, and of any pin of the port: the program has to look which "
                "it was, and counts two edges for each pulse.",
                SOURCE,
                (thread.spot,),
                numbers,
                offered(moved(circuit, thread)),
            )
            continue
        yield WiringFinding(
            "pulse-interrupt",
            Happens.FAILS,
            thread.where,
            f"{thread.name} pulses up to {rate:g} times a second; a loop of "
            f"{circuit.settings.loop_s * 1000:g} ms sees {limit:.3g}, and {thread.pin.name} "
            "takes no interrupt.",
            "A program that looks once a turn needs a turn shorter than a quarter of a pulse, or "
            "it misses some and reads low.",
            "sampling: two looks for each half of a pulse",
            (thread.spot,),
            numbers,
            offered(moved(circuit, thread)),
        )
