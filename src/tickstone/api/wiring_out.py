"""The wiring, dressed for the wire."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from sqlalchemy.orm import Session

from tickstone.api.schemas.rig import StoneOut
from tickstone.api.schemas.wiring import (
    BeadOut,
    BillLineOut,
    BoardOut,
    DrawOut,
    EndOut,
    LeadOut,
    NumberOut,
    OpenLeadIn,
    PartOut,
    PinOut,
    PinStateOut,
    PlaceOut,
    PowerSupplyOut,
    ProgramLinesOut,
    ProgramNamesOut,
    RailOut,
    SettingsIn,
    SpotOut,
    TrialOut,
    WiredDeviceOut,
    WiringFindingOut,
    WiringOut,
    WiringSignatureOut,
    WiringStepOut,
)
from tickstone.core.display import prefixed
from tickstone.core.electric.colour_bands import bands_or_none
from tickstone.core.families.board_family import RailKind
from tickstone.core.families.device_family import DeviceFamily, Role
from tickstone.core.families.part import Part
from tickstone.core.stones.facts import SignOffFacts
from tickstone.core.stones.stone import Stone, StoneState
from tickstone.core.stones.wired import wired_stone
from tickstone.core.wiring.assignment import abilities_for
from tickstone.core.wiring.bead import Bead
from tickstone.core.wiring.bill import bill_of_materials
from tickstone.core.wiring.checks import found_in
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.colours import COLOURS
from tickstone.core.wiring.currents import rail_budgets
from tickstone.core.wiring.finding import Number, WiringFinding
from tickstone.core.wiring.judging import fresh_among
from tickstone.core.wiring.netlist import END, Device, Wiring, place_of
from tickstone.core.wiring.pin_states import pin_states
from tickstone.core.wiring.power_supply import PowerSupply
from tickstone.core.wiring.program_lines import program_lines
from tickstone.core.wiring.thread import Thread
from tickstone.store.models import Rig, Sensor
from tickstone.work.catalogue import Catalogue
from tickstone.work.standing import sign_offs_of, wired_facts_of
from tickstone.work.wiring import (
    TickedStep,
    device_of,
    look_at_wiring,
    settings_of,
)

_UNITS_WITH_PREFIX = frozenset({"V", "A", "Ω", "F", "Hz", "s", "W"})


def wiring_out(session: Session, rig: Rig, catalogue: Catalogue) -> WiringOut:
    """Everything about a rig's wiring."""
    look = look_at_wiring(session, rig, catalogue)
    circuit = Circuit(look.wiring) if look.wiring is not None else None
    signed = sign_offs_of(session, rig.sensors)
    facts = [wired_facts_of(sensor, catalogue, look, signed) for sensor in rig.sensors]
    stones = [wired_stone(one) for one in facts]
    devices = [
        _device_out(sensor, catalogue, circuit, stone)
        for sensor, stone in zip(rig.sensors, stones, strict=True)
    ]
    wiring = look.wiring if look.wiring is not None else _NOTHING
    return WiringOut(
        rig_id=rig.id,
        rig_name=rig.name,
        revision=rig.wiring_revision,
        board=_board_out(circuit),
        settings=SettingsIn.model_validate(
            {name: getattr(settings_of(rig), name) for name in SettingsIn.model_fields}
        ),
        pins=_pins(circuit),
        rails=_rails(circuit),
        devices=devices,
        findings=[_finding_out(one) for one in look.findings],
        steps=[_step_out(one) for one in look.steps],
        bill=[BillLineOut.model_validate(one) for one in bill_of_materials(look.wiring)]
        if look.wiring is not None
        else [],
        colours=list(COLOURS),
        supplies=[PowerSupplyOut.model_validate(one) for one in wiring.supplies],
        joints=list(wiring.joints),
        parts=[PartOut.model_validate(one) for one in wiring.parts],
        left_open=[OpenLeadIn(device=int(one), lead=lead) for one, lead in wiring.left_open],
        places=_places(wiring),
        program=_program(circuit),
        loose=sum(
            lead.end is None and not lead.is_optional for one in devices for lead in one.leads
        ),
        unsigned=sum(stone.state is not StoneState.TICKED for stone in stones),
        signatures=_signatures(
            (sensor.name, one.wired)
            for sensor, one, stone in zip(rig.sensors, facts, stones, strict=True)
            if one.wired is not None and stone.state is StoneState.TICKED
        ),
    )


def trial_out(now: Wiring, then: Wiring) -> TrialOut:
    """What is found anew in another wiring, what no longer is, and what stands at its pins."""
    circuit = Circuit(then)
    before, after = found_in(Circuit(now)), found_in(circuit)
    return TrialOut(
        fresh=[_finding_out(one) for one in fresh_among(before, after, "note")],
        gone=[one.message for one in fresh_among(after, before, "note")],
        pins=_pins(circuit),
    )


def _signatures(signed: Iterable[tuple[str, SignOffFacts]]) -> list[WiringSignatureOut]:
    """Words and days under the wiring, each with the devices that were noted then."""
    together: dict[tuple[str, date], WiringSignatureOut] = {}
    for name, one in signed:
        key = (one.note, one.at.date())
        if key not in together:
            together[key] = WiringSignatureOut(note=one.note, at=one.at, devices=[])
        together[key].devices.append(name)
    return list(together.values())


def _board_out(circuit: Circuit | None) -> BoardOut | None:
    if circuit is None:
        return None
    board = circuit.board
    references = board.converter.references if board.converter else ()
    return BoardOut(
        name=board.name,
        label=board.label,
        what=board.what,
        logic_v=board.logic_v.value,
        references=[one.name for one in references],
    )


def _pins(circuit: Circuit | None) -> list[PinOut]:
    if circuit is None:
        return []
    return [
        PinOut(
            name=pin.name,
            abilities=list(pin.abilities),
            use=pin.use,
            caution=pin.caution,
            used_by=[thread.name for thread in circuit.on(pin.name)],
            states=[PinStateOut.model_validate(one) for one in pin_states(circuit, pin.name)],
        )
        for pin in circuit.board.pins
    ]


@dataclass(frozen=True, slots=True)
class _Nothing:
    """What a rig without a board has of a circuit."""

    supplies: tuple[PowerSupply, ...] = ()
    joints: tuple[str, ...] = ()
    parts: tuple[Part, ...] = ()
    left_open: tuple[END, ...] = ()
    devices: tuple[Device, ...] = ()


_NOTHING = _Nothing()


def _places(wiring: Wiring | _Nothing) -> list[PlaceOut]:
    """Places besides the board's own: ends of supplies, joints, and leads of devices."""
    found = []
    for supply in wiring.supplies:
        found.append(PlaceOut(name=supply.plus, words=f"{supply.words} +", group="supplies"))
        if not supply.has_common_ground:
            found.append(PlaceOut(name=supply.minus, words=f"{supply.words} −", group="supplies"))
    found += [PlaceOut(name=one, words=one, group="joints") for one in wiring.joints]
    found += [
        PlaceOut(
            name=place_of(device.key, lead.name), words=f"{device.name} {lead.name}", group="leads"
        )
        for device in wiring.devices
        for lead in device.family.leads
    ]
    return found


def _program(circuit: Circuit | None) -> ProgramLinesOut:
    if circuit is None:
        return ProgramLinesOut(names=[], switches=[], cautions=[])
    lines = program_lines(circuit)
    return ProgramLinesOut(
        names=[ProgramNamesOut(device=device, line=line) for device, line in lines.names],
        switches=list(lines.switches),
        cautions=list(lines.cautions),
    )


def _rails(circuit: Circuit | None) -> list[RailOut]:
    if circuit is None:
        return []
    budgets = {budget.name: budget for budget in rail_budgets(circuit)}
    found = []
    for rail in circuit.board.rails:
        budget = budgets.get(rail.name)
        found.append(
            RailOut(
                name=rail.name,
                kind=rail.kind,
                volts=0.0 if rail.kind is RailKind.GROUND else circuit.rail_volts(rail),
                limit_a=rail.limit_a.value if rail.limit_a else None,
                usual_a=budget.usual_a if budget else 0.0,
                peak_a=budget.peak_a if budget else 0.0,
                draws=[DrawOut.model_validate(one) for one in budget.draws] if budget else [],
            )
        )
    return found


def _device_out(
    sensor: Sensor, catalogue: Catalogue, circuit: Circuit | None, stone: Stone
) -> WiredDeviceOut:
    device = device_of(sensor, catalogue)
    threads = {one.lead.name: one for one in circuit.of(device)} if circuit else {}
    family = device.family
    return WiredDeviceOut(
        id=sensor.id,
        name=sensor.name,
        family=family.name,
        family_label=family.label,
        kind=family.kind,
        place=sensor.place,
        leads=[
            LeadOut(
                name=lead.name,
                labels=list(lead.labels),
                role=lead.role,
                role_words=lead.role.words,
                wants=_wants(circuit, threads.get(lead.name), device),
                is_optional=lead.is_optional,
                end=_end_out(circuit, threads.get(lead.name)),
            )
            for lead in family.leads
        ],
        asks=_asks(family),
        addresses=list(family.i2c.addresses) if family.i2c else [],
        address=device.address,
        pulse_hz=device.pulse_hz,
        full_charge_v=device.full_charge_v,
        facing_rad=device.facing_rad,
        wired=StoneOut.model_validate(stone),
    )


def _wants(circuit: Circuit | None, thread: Thread | None, device: Device) -> list[Any]:
    if circuit is None or thread is None:
        return []
    return sorted(abilities_for(circuit, thread))


def _asks(family: DeviceFamily) -> list[str]:
    asks = []
    if family.beam_rad is not None:
        asks.append("facing_rad")
    if any(lead.pulses_hz is not None for lead in family.leads):
        asks.append("pulse_hz")
    if any(lead.role is Role.BATTERY for lead in family.leads):
        asks.append("full_charge_v")
    if family.i2c is not None and len(family.i2c.addresses) > 1:
        asks.append("address")
    return asks


def _end_out(circuit: Circuit | None, thread: Thread | None) -> EndOut | None:
    if circuit is None or thread is None or thread.connection is None:
        return None
    one = thread.connection
    return EndOut(
        to=one.to,
        beads=[_bead_out(bead) for bead in one.beads],
        colour=one.colour,
        shown_colour=circuit.colour(thread),
        is_fixed=one.is_fixed,
    )


def _bead_out(bead: Bead) -> BeadOut:
    return BeadOut(
        kind=bead.kind,
        ohm=bead.ohm,
        farad=bead.farad,
        rail=bead.rail,
        tolerance=bead.tolerance,
        power_w=bead.power_w,
        words=bead.words,
        bands=list(bands_or_none(bead.ohm, bead.tolerance)) if bead.ohm else [],
    )


def _finding_out(one: WiringFinding) -> WiringFindingOut:
    return WiringFindingOut(
        key=one.key,
        id=one.id,
        severity=one.severity,
        happens=one.happens.value,
        where=one.where,
        message=one.message,
        why=one.why,
        source=one.source,
        numbers=[_number_out(number) for number in one.numbers],
        spots=[
            SpotOut(device=_number(spot.device), lead=spot.lead, pin=spot.pin, part=spot.part)
            for spot in one.spots
        ],
        repair=one.repair.text if one.repair else None,
        remedies=[repair.text for repair in one.repairs],
        buy=one.buy,
    )


def _number(device: str) -> int | None:
    return int(device) if device else None


def _number_out(number: Number) -> NumberOut:
    if number.name == "address":
        text = f"{round(number.value):#04x}"
    elif number.unit in _UNITS_WITH_PREFIX:
        text = prefixed(number.value, number.unit)
    else:
        text = f"{number.value:.6g} {number.unit}".rstrip()
    return NumberOut(name=number.name, value=number.value, unit=number.unit, text=text)


def _step_out(ticked: TickedStep) -> WiringStepOut:
    step, expected = ticked.step, ticked.step.expected
    passes = None
    if expected is not None and ticked.measured_v is not None:
        passes = expected.passes(ticked.measured_v)
    return WiringStepOut(
        key=step.key,
        phase=step.phase,
        heading=step.phase.heading,
        text=step.text,
        device=_number(step.device),
        lead=step.lead,
        colour=step.colour,
        caution=step.caution,
        needs_second=step.needs_second,
        is_by_hand=step.is_by_hand,
        low_v=expected.low_v if expected else None,
        high_v=expected.high_v if expected else None,
        done=ticked.done_at is not None,
        seen=ticked.seen_at is not None,
        measured_v=ticked.measured_v,
        skipped_why=ticked.skipped_why,
        passes=passes,
        is_complete=ticked.is_complete,
    )
