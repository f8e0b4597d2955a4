"""A place for every loose lead, and the parts it takes: what a careful friend would wire."""

from __future__ import annotations

from dataclasses import dataclass

from tickstone.core.families.device_family import Role
from tickstone.core.wiring.assignment import BUS_ROLES, assign
from tickstone.core.wiring.checks import check_wiring
from tickstone.core.wiring.circuit import Circuit, Thread
from tickstone.core.wiring.finding import WiringFinding
from tickstone.core.wiring.netlist import Connection, Wiring
from tickstone.core.wiring.rails import suitable_rail

MOST_REPAIRS = 200


@dataclass(frozen=True, slots=True)
class Proposal:
    """The wiring proposed. impossible: why no pins could be found; then only
    supplies and grounds are placed."""

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
        for one, pin in zip(signals, found.pins, strict=not found.impossible)
    ]
    new += [
        Connection(*one.end, rail, colour=colours.get(one.end, ""))
        for one in open_threads
        if one.lead.wants is None and (rail := _rail(circuit, one)) is not None
    ]
    strung = mended(wiring.with_connections(new), {one.end for one in new})
    return Proposal(strung, found.impossible)


def mended(wiring: Wiring, own: set[tuple[str, str]] | None = None) -> Wiring:
    """The wiring after every repair that helps, one at a time. own: touch only these leads."""
    for _ in range(MOST_REPAIRS):
        better = next(
            (
                new
                for finding in check_wiring(wiring)
                if finding.repair is not None and _may(finding, own)
                if _helps(wiring, new := finding.repair.applied(wiring), finding)
            ),
            None,
        )
        if better is None:
            break
        wiring = better
    return wiring


def _may(finding: WiringFinding, own: set[tuple[str, str]] | None) -> bool:
    repair = finding.repair
    assert repair is not None
    return own is None or all(one.end in own for one in repair.connections)


def _helps(wiring: Wiring, new: Wiring, finding: WiringFinding) -> bool:
    """Whether a repair clears its finding and leaves fewer findings than there were."""
    before, after = check_wiring(wiring), check_wiring(new)
    return finding.key not in {one.key for one in after} and len(after) < len(before)


def _rail(circuit: Circuit, thread: Thread) -> str | None:
    role = thread.lead.role
    if role in (Role.GROUND, Role.CATHODE, Role.EMITTER):
        return circuit.board.ground.name
    if role is Role.SUPPLY:
        rail = suitable_rail(circuit, thread.device)
        return None if rail is None else rail.name
    if role in BUS_ROLES:
        return None
    return circuit.board.logic_rail.name
