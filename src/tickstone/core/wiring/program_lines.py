"""What a program has to know of a wiring: names of pins, pull-ups, and what to keep off."""

from __future__ import annotations

import re
from dataclasses import dataclass

from tickstone.core.families.board_family import PinUse
from tickstone.core.families.device_family import Drive, Role
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.bus_lines import address_of, bus_lines
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.pin_jobs import PinJob
from tickstone.core.wiring.pin_look import PinLook
from tickstone.core.wiring.thread import Thread


@dataclass(frozen=True, slots=True)
class ProgramLines:
    """names: pins of one device in a line, such as ``TRIG = D7, ECHO = D8``, after its name.

    switches: what to switch on. cautions: what the program must not do.
    """

    names: tuple[tuple[str, str], ...]
    switches: tuple[str, ...]
    cautions: tuple[str, ...]


def program_lines(circuit: Circuit) -> ProgramLines:
    """The lines of a wiring, in the order of its devices.

    Numbers of pins are as a program writes them: ``D7`` of a board that prints D is 7.
    """
    names = []
    for device in circuit.wiring.devices:
        pins = [
            f"{_name(thread.lead.name)} = {pin_number(thread.pin.name)}"
            for thread in circuit.of(device)
            if thread.pin is not None and thread.lead.role not in (Role.SDA, Role.SCL)
        ]
        if pins:
            names.append((device.name, ", ".join(pins)))
    return ProgramLines(tuple(names), tuple(_switches(circuit)), tuple(_cautions(circuit)))


def pin_number(printed: str) -> str:
    """A pin as programs write it: without the letters that stand before a digital pin's number.

    >>> pin_number("D7"), pin_number("A0"), pin_number("GP26"), pin_number("IO34")
    ('7', 'A0', '26', '34')
    """
    match = re.fullmatch(r"(?:D|GP|GPIO|IO)(\d+)", printed)
    return match.group(1) if match else printed


def _name(lead: str) -> str:
    """A lead's name as an identifier.

    >>> _name("BAT+"), _name("1")
    ('BAT', 'LEAD_1')
    """
    word = re.sub(r"\W+", "_", lead).strip("_").upper() or "LEAD"
    return f"LEAD_{word}" if word[0].isdigit() else word


def _switches(circuit: Circuit) -> list[str]:
    found = []
    for thread in circuit.threads:
        if thread.pin and any(one.kind is BeadKind.PIN_PULL_UP for one in thread.beads):
            found.append(f"Switch on the pull-up of {thread.pin.name}, for {thread.name}.")
    for line in bus_lines(circuit):
        if line.threads[0].lead.role is not Role.SDA:
            continue
        for thread in line.threads:
            address, _ = address_of(circuit, thread)
            found.append(f"Call {thread.device.name} by the address {address:#04x}.")
    for thread in circuit.threads:
        if thread.lead.is_shutdown and thread.pin is not None:
            found.append(
                f"Hold {thread.name} low on {thread.pin.name} at the start, then let one device "
                "after the other wake and give each an address of its own."
            )
    reference = circuit.wired_reference
    if reference is not None:
        found.append(f"Choose the reference “{reference.name}” before the first conversion.")
    return found


def _cautions(circuit: Circuit) -> list[str]:
    driven = [
        look.pin.name
        for look in circuit.pin_looks
        if look.job in (PinJob.LISTENS, PinJob.BUS) and _is_given(look)
    ]
    found = []
    if driven:
        found.append(f"Never make an output of {', '.join(driven)}: devices drive them.")
    found += [
        f"Make {thread.pin.name} an input again right after the pulse for {thread.name}, before it "
        "answers: two outputs would drive against each other."
        for thread in circuit.threads
        if thread.pin is not None and _answers_by_itself(thread)
    ]
    found += [
        f"{look.pin.name}: {look.pin.caution}"
        for look in circuit.pin_looks
        if look.pin.use is not PinUse.NONE
    ]
    return found


def _answers_by_itself(thread: Thread) -> bool:
    """Whether it drives the lead it is worked by both ways."""
    output = thread.lead.output
    is_two_way = thread.lead.role is Role.TWO_WAY
    return is_two_way and output is not None and output.drive is Drive.PUSH_PULL


def _is_given(look: PinLook) -> bool:
    roles = (Role.OUTPUT, Role.ANALOGUE, Role.BATTERY, Role.SDA, Role.SCL)
    return bool(look.threads) and look.threads[0].lead.role in roles
