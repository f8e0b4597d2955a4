"""The wiring of a stored rig: read as the core takes it, written back as a whole."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, fields, replace
from datetime import datetime
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.part import Part
from tickstone.core.stones.facts import WiringFacts
from tickstone.core.timing.loop_budget import LoopBudget, Program, loop_budget
from tickstone.core.wiring.bead import Bead
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.finding import WiringFinding
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import Connection, Device, Settings, Wiring, place_of
from tickstone.core.wiring.power_supply import PowerSupply
from tickstone.core.wiring.steps import WiringStep, wiring_steps
from tickstone.formats.wiring_file import LeadEntry, circuit_document
from tickstone.store.models import Rig, Sensor, Wire, WiringTick
from tickstone.work.catalogue import Catalogue

_BEADS = TypeAdapter(tuple[Bead, ...])
_CONNECTION = TypeAdapter(Connection)


@dataclass(frozen=True, slots=True)
class StoredCircuit:
    """What a rig keeps of its wiring besides wires: as in a wiring file."""

    supplies: tuple[PowerSupply, ...] = ()
    joints: tuple[str, ...] = ()
    parts: tuple[Part, ...] = ()
    left_open: tuple[LeadEntry, ...] = ()


_CIRCUIT = TypeAdapter(StoredCircuit)


@dataclass(frozen=True, slots=True)
class WiringLook:
    """A rig's wiring with what the checks say and how far the list is. wiring: None: no board."""

    wiring: Wiring | None
    findings: tuple[WiringFinding, ...] = ()
    steps: tuple[TickedStep, ...] = ()

    def facts(self, device: str) -> WiringFacts | None:
        """What the stones look at, for one device; None when the rig has no board."""
        if self.wiring is None:
            return None
        own = [step for step in self.steps if step.step.device == device]
        found = findings_about(self.findings, device)
        errors = [one for one in found if one.severity == "error"]
        return WiringFacts(
            grounds_of(self.wiring, device),
            errors=tuple(one.message for one in errors if not one.is_gap),
            gaps=tuple(one.message for one in errors if one.is_gap),
            steps=len(own),
            done=sum(step.is_complete for step in own),
        )


def look_at_wiring(session: Session, rig: Rig, catalogue: Catalogue) -> WiringLook:
    """Everything there is to say about a rig's wiring."""
    bare = _unmeasured(rig, catalogue)
    if bare is None:
        return WiringLook(None)
    steps = steps_of(session, rig, bare)
    wiring = replace(bare, measured=_measured(steps))
    return WiringLook(wiring, check_wiring(wiring), steps)


@dataclass(frozen=True, slots=True)
class TickedStep:
    """A line of the wiring list with how far it is.

    measured_v: what was written down. skipped_why: why nothing was, or empty.
    """

    step: WiringStep
    done_at: datetime | None = None
    seen_at: datetime | None = None
    measured_v: float | None = None
    skipped_why: str = ""

    @property
    def is_complete(self) -> bool:
        """Done and looked at again if it wants that; measured as it should be, or skipped."""
        expected = self.step.expected
        if expected is not None:
            if self.measured_v is None:
                return bool(self.skipped_why)
            return expected.passes(self.measured_v)
        return self.done_at is not None and (self.seen_at is not None or not self.step.needs_second)


def device_of(sensor: Sensor, catalogue: Catalogue) -> Device:
    """A stored device as the wiring takes it."""
    return Device(
        str(sensor.id), sensor.name, catalogue.devices[sensor.family], **(sensor.fitting or {})
    )


def board_of(rig: Rig, catalogue: Catalogue) -> BoardFamily | None:
    """The rig's board; None when none was chosen."""
    return catalogue.boards.get(rig.board)


def wiring_of(session: Session, rig: Rig, catalogue: Catalogue) -> Wiring | None:
    """The rig's wiring; None when it has no board.

    What no longer fits, such as a lead the family lost when somebody changed it, is left out.
    """
    bare = _unmeasured(rig, catalogue)
    return bare and replace(bare, measured=_measured(steps_of(session, rig, bare)))


def _unmeasured(rig: Rig, catalogue: Catalogue) -> Wiring | None:
    board = board_of(rig, catalogue)
    if board is None:
        return None
    devices = tuple(device_of(sensor, catalogue) for sensor in rig.sensors)
    connections = [
        Connection(
            str(sensor.id),
            wire.lead,
            wire.to,
            _BEADS.validate_python(wire.beads),
            wire.colour,
            wire.is_fixed,
        )
        for sensor in rig.sensors
        for wire in sensor.wires
    ]
    circuit = _CIRCUIT.validate_python(rig.circuit or {})
    settings = replace(settings_of(rig), loop_s=_loop_s(rig, catalogue))
    if board.converter is None or settings.reference not in {
        one.name for one in board.converter.references
    }:
        settings = replace(settings, reference="")
    places = _places(board, devices, circuit)
    return Wiring(
        board,
        devices,
        fitting(board, devices, connections, places),
        settings,
        supplies=circuit.supplies,
        joints=circuit.joints,
        parts=tuple(one for one in circuit.parts if places.issuperset(one.ends.values())),
        left_open=_still_open(devices, connections, circuit),
    )


def _places(
    board: BoardFamily, devices: Iterable[Device], circuit: StoredCircuit
) -> frozenset[str]:
    """Every place a wire or a leg of a part can go to."""
    ends = [place for one in circuit.supplies for place in (one.plus, one.minus)]
    leads = [place_of(one.key, lead.name) for one in devices for lead in one.family.leads]
    own = [pin.name for pin in board.pins] + [rail.name for rail in board.rails]
    return frozenset((*own, *ends, *circuit.joints, *leads))


def _still_open(
    devices: Iterable[Device], connections: Iterable[Connection], circuit: StoredCircuit
) -> tuple[tuple[str, str], ...]:
    """Leads left open that are still there and have no wire."""
    wired = {one.end for one in connections}
    there = {(one.key, lead.name) for one in devices for lead in one.family.leads}
    ends = ((one.device, one.lead) for one in circuit.left_open)
    return tuple(end for end in ends if end in there and end not in wired)


def _measured(steps: Iterable[TickedStep]) -> dict[str, float]:
    """Volts written down, by test point; those from before its wire was changed no longer count."""
    return {
        one.step.expected.point: one.measured_v
        for one in steps
        if one.step.expected is not None and one.measured_v is not None
    }


def _loop_s(rig: Rig, catalogue: Catalogue) -> float:
    """One turn of the program, kept within what the settings take, s."""
    return min(max(budget_of(rig, catalogue).loop_s, 1e-4), 60.0)


def fitting(
    board: BoardFamily,
    devices: Iterable[Device],
    connections: Iterable[Connection],
    places: frozenset[str],
) -> tuple[Connection, ...]:
    """The connections that are possible on this board, with these devices and places."""
    known = {device.key: device for device in devices}
    kept = []
    for one in connections:
        if not _fits(known.get(one.device), one.lead, one.to, places):
            continue
        beads = tuple(b for b in one.beads if not b.rail or board.rail(b.rail) is not None)
        kept.append(replace(one, beads=beads))
    return tuple(kept)


def _fits(device: Device | None, lead: str, to: str, places: frozenset[str]) -> bool:
    """Whether there is such a lead, and such a place for it to go to."""
    return device is not None and device.family.lead(lead) is not None and to in places


def settings_of(rig: Rig) -> Settings:
    """What the rig as a whole decides; the loop's time comes from its time budget."""
    return Settings(**(rig.wiring or {}))


def program_of(rig: Rig) -> Program:
    """What the rig's program does besides reading."""
    return Program(**(rig.program or {}))


def unlike_defaults(value: Settings | Program) -> dict[str, Any]:
    """The fields of settings or a program that are not at their defaults."""
    usual = type(value)()
    return {
        one.name: getattr(value, one.name)
        for one in fields(value)
        if getattr(value, one.name) != getattr(usual, one.name)
    }


def budget_of(rig: Rig, catalogue: Catalogue) -> LoopBudget:
    """What a turn of the rig's program costs."""
    devices = [device_of(sensor, catalogue) for sensor in rig.sensors]
    return loop_budget(devices, program_of(rig))


def save_wiring(session: Session, rig: Rig, wiring: Wiring) -> None:
    """Write the whole wiring down, board and settings too, and count the change.

    Wires that do not fit this board are not touched: they are back when their board is.
    """
    rig.board = wiring.board.name
    # The loop's time follows from the time budget and is never stored beside it.
    rig.wiring = unlike_defaults(replace(wiring.settings, loop_s=Settings().loop_s))
    rig.circuit = circuit_document(wiring)
    rig.wiring_revision += 1
    by_end = {one.end: one for one in wiring.connections}
    known = {device.key: device for device in wiring.devices}
    places = _places(wiring.board, wiring.devices, _CIRCUIT.validate_python(rig.circuit))
    for sensor in rig.sensors:
        for wire in list(sensor.wires):
            one = by_end.pop((str(sensor.id), wire.lead), None)
            if one is not None:
                _write(wire, one)
            elif _fits(known.get(str(sensor.id)), wire.lead, wire.to, places):
                sensor.wires.remove(wire)
        for end in [end for end in by_end if end[0] == str(sensor.id)]:
            wire = Wire(lead=end[1])
            _write(wire, by_end.pop(end))
            sensor.wires.append(wire)
    for device in wiring.devices:
        sensor = next(one for one in rig.sensors if str(one.id) == device.key)
        if device.address is not None:
            sensor.fitting = {**(sensor.fitting or {}), "address": device.address}
    session.flush()


def _write(wire: Wire, one: Connection) -> None:
    wire.to, wire.colour, wire.is_fixed = one.to, one.colour, one.is_fixed
    wire.beads = _CONNECTION.dump_python(one, mode="json", exclude_defaults=True).get("beads", [])


def ticks_of(session: Session, rig: Rig) -> dict[str, WiringTick]:
    """What was ticked, by step."""
    rows = session.scalars(select(WiringTick).where(WiringTick.rig_id == rig.id))
    return {row.key: row for row in rows}


def steps_of(session: Session, rig: Rig, wiring: Wiring) -> tuple[TickedStep, ...]:
    """The wiring list with its ticks; a tick for a step that has changed since is gone."""
    ticks = ticks_of(session, rig)
    found = []
    for step in wiring_steps(wiring):
        tick = ticks.get(step.key)
        if tick is None or tick.fingerprint != step.fingerprint:
            found.append(TickedStep(step))
        else:
            found.append(
                TickedStep(step, tick.done_at, tick.seen_at, tick.measured_v, tick.skipped_why)
            )
    return tuple(found)


def fingerprints_of(session: Session, rig: Rig, catalogue: Catalogue) -> dict[str, str]:
    """What the steps of the wiring list say now, by step; nothing without a wiring."""
    wiring = wiring_of(session, rig, catalogue)
    if wiring is None:
        return {}
    return {one.step.key: one.step.fingerprint for one in steps_of(session, rig, wiring)}


def grounds_of(wiring: Wiring, device: str) -> dict[str, str]:
    """What a look at a device's wiring rests on: the board, and where each lead goes.

    The rail on the reference pin, too, when the device is read against it.
    """
    circuit = Circuit(wiring)
    mine = [one for one in circuit.threads if one.device.key == device]
    leads = {one.lead.name: one.connection.words for one in mine if one.connection is not None}
    grounds = {"board": wiring.board.label, **dict(sorted(leads.items()))}
    reference = circuit.wired_reference
    if reference is not None and any(circuit.is_converted(one) for one in mine):
        grounds["reference pin"] = reference.rail
    return grounds


def findings_about(findings: Iterable[WiringFinding], device: str) -> tuple[WiringFinding, ...]:
    """The findings that touch one device."""
    return tuple(one for one in findings if any(spot.device == device for spot in one.spots))
