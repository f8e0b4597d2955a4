"""A place for every loose lead, and the parts it takes: what a careful friend would wire."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.families.device_family import Role
from tickstone.core.finding import SEVERITIES
from tickstone.core.wiring.assignment import assign
from tickstone.core.wiring.checks import found_in
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.controllers import BUS_ROLES
from tickstone.core.wiring.finding import Repair, WiringFinding
from tickstone.core.wiring.judging import mends
from tickstone.core.wiring.netlist import Connection, Wiring
from tickstone.core.wiring.rails import suitable_rail
from tickstone.core.wiring.thread import Thread

MOST_REPAIRS = 200
Findings = tuple[WiringFinding, ...]


@dataclass(frozen=True, slots=True)
class Proposal:
    """The wiring proposed: what can be placed. impossible: why the rest got no pins."""

    wiring: Wiring
    impossible: str = ""


def propose(wiring: Wiring, again: bool = False) -> Proposal:
    """Rails for supplies and grounds, pins by assignment, then the repairs of what is found.

    What is connected stays; with `again` only what the person fixed does, and of the others the
    colours they chose. Optional leads are left.
    """
    colours = {one.end: one.colour for one in wiring.connections}
    if again:
        loose = [one.end for one in wiring.connections if not one.is_fixed]
        wiring = wiring.with_connections((), loose)
    circuit = Circuit(wiring)
    open_threads = [
        one for one in circuit.threads if one.connection is None and not one.lead.is_optional
    ]
    signals = [one for one in open_threads if one.lead.wants is not None]
    found = assign(circuit, signals, circuit.used_pins)
    new = [
        Connection(*one.end, pin, colour=colours.get(one.end, ""))
        for one, pin in zip(signals, found.pins, strict=True)
        if pin is not None
    ]
    new += [
        Connection(*one.end, rail, colour=colours.get(one.end, ""))
        for one in open_threads
        if one.lead.wants is None and (rail := _rail(circuit, one)) is not None
    ]
    strung = mended(wiring.with_connections(new), {one.end for one in new})
    return Proposal(strung, found.impossible)


def mended(wiring: Wiring, own: set[tuple[str, str]] | None = None) -> Wiring:
    """The wiring after every repair that helps, one at a time. own: touch only these leads.

    A repair helps when it mends, starts nothing as bad, and leaves fewer errors than there were, or
    as many and fewer warnings, or fewer notes at last.
    One that did not help is tried once more when nothing else does.
    """
    findings = found_in(Circuit(wiring))
    useless: set[tuple[str, str]] = set()
    has_changed = False
    for _ in range(MOST_REPAIRS):
        step = _next_step(wiring, findings, useless, own)
        if step is not None:
            wiring, findings = step
            has_changed = True
        elif has_changed:
            useless.clear()
            has_changed = False
        else:
            break
    return wiring


def _next_step(
    wiring: Wiring,
    findings: Findings,
    useless: set[tuple[str, str]],
    own: set[tuple[str, str]] | None,
) -> tuple[Wiring, Findings] | None:
    """The wiring after the first repair that helps, with what is then found. Notes the others."""
    for finding in findings:
        for repair in finding.repairs:
            if not _may(repair, own) or (finding.key, repair.text) in useless:
                continue
            step = mends(wiring, findings, finding, repair)
            if step is None or not _may(step.repair, own):
                useless.add((finding.key, repair.text))
            elif _weight(step.findings) < _weight(findings):
                return step.wiring, step.findings
            useless.add((finding.key, repair.text))
    return None


def _weight(findings: Findings) -> tuple[int, ...]:
    """How many there are of each severity, the worst first."""
    return tuple(sum(one.severity == severe for one in findings) for severe in SEVERITIES)


def _may(repair: Repair, own: set[tuple[str, str]] | None) -> bool:
    return own is None or all(one.end in own for one in repair.connections)


def _rail(circuit: Circuit, thread: Thread) -> str | None:
    role = thread.lead.role
    if role in (Role.GROUND, Role.CATHODE, Role.EMITTER):
        return circuit.board.ground.name
    if role is Role.LEG and thread.lead.rail == "ground":
        return circuit.board.ground.name
    if role is Role.SUPPLY:
        rail = suitable_rail(circuit, thread.device, thread.lead)
        return None if rail is None else rail.name
    if role in BUS_ROLES:
        return None
    return circuit.board.logic_rail.name
