"""The wiring of a rig: changed as a whole, proposed, mended, ticked off and signed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from fastapi import APIRouter
from fastapi.responses import JSONResponse, PlainTextResponse
from sqlalchemy import select

from tickstone.api.desk import CatalogueDep, RigDep, SessionDep
from tickstone.api.problems import ProblemError, does_not_fit
from tickstone.api.schemas.wiring import (
    ProposalOut,
    ProposeIn,
    RepairIn,
    SignIn,
    TickIn,
    TrialOut,
    WiringFileIn,
    WiringIn,
    WiringOut,
)
from tickstone.api.wiring_out import trial_out, wiring_out
from tickstone.core.stones.stone import StoneState, WorkStage
from tickstone.core.stones.wired import wired_stone
from tickstone.core.wiring.bill import bill_of_materials
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import END, Wiring
from tickstone.core.wiring.proposal import mended, propose
from tickstone.formats.bill_csv import bill_csv
from tickstone.formats.netlist_csv import netlist_csv, read_netlist_csv
from tickstone.formats.wiring_file import wiring_document
from tickstone.store.models import Rig, SignOff, WiringTick, utc_now
from tickstone.work.catalogue import Catalogue
from tickstone.work.standing import sign_offs_of, wired_facts_of
from tickstone.work.wiring import (
    TickedStep,
    grounds_of,
    look_at_wiring,
    save_wiring,
    steps_of,
    ticks_of,
    wiring_of,
)
from tickstone.work.wiring_import import bring_in_wiring, by_name

router = APIRouter(prefix="/api/rigs/{rig_id}/wiring", tags=["wiring"])


def _lock(session: SessionDep, rig: Rig) -> None:
    """Hold the rig for this request, as it is now: changes come one after the other."""
    session.execute(select(Rig.id).where(Rig.id == rig.id).with_for_update())
    session.refresh(rig)


def _wiring(session: SessionDep, rig: Rig, catalogue: Catalogue) -> Wiring:
    """The rig's wiring. Raises a problem when it has no board."""
    wiring = wiring_of(session, rig, catalogue)
    if wiring is None:
        raise does_not_fit("this rig has no board yet; choose one first", "board")
    return wiring


def _held(session: SessionDep, rig: Rig, catalogue: Catalogue, revision: int | None) -> Wiring:
    """The wiring, held for a change. Raises a problem when it is not the revision asked for."""
    _lock(session, rig)
    wiring = _wiring(session, rig, catalogue)
    if revision is not None and revision != rig.wiring_revision:
        raise ProblemError(
            409,
            "Somebody was faster",
            "The wiring has been changed since. It has been read again; look, and make your change "
            "once more.",
        )
    return wiring


@router.get("")
def read_wiring(rig: RigDep, session: SessionDep, catalogue: CatalogueDep) -> WiringOut:
    """Where every lead goes, what the checks find, the wiring list and the bill of materials."""
    return wiring_out(session, rig, catalogue)


@router.put("")
def change_wiring(
    rig: RigDep, body: WiringIn, session: SessionDep, catalogue: CatalogueDep
) -> WiringOut:
    """Put a whole wiring in place of the one before. Refused whole when one lead is wrong."""
    new = _put_in(rig, _held(session, rig, catalogue, body.revision), body)
    save_wiring(session, rig, new)
    session.commit()
    return wiring_out(session, rig, catalogue)


@router.post("/trial")
def try_wiring(
    rig: RigDep, body: WiringIn, session: SessionDep, catalogue: CatalogueDep
) -> TrialOut:
    """What a whole wiring in place of this one would come to. Nothing is kept."""
    wiring = _wiring(session, rig, catalogue)
    return trial_out(wiring, _put_in(rig, wiring, body))


def _put_in(rig: Rig, wiring: Wiring, body: WiringIn) -> Wiring:
    """The wiring as the body has it. Raises a problem naming what does not fit."""
    gone = {one.device for one in body.connections} - {sensor.id for sensor in rig.sensors}
    if gone:
        raise does_not_fit(
            f"device {min(gone)} is not on this rig; it may have been taken off since", "device"
        )
    try:
        connections = tuple(one.connection() for one in body.connections)
        settings = body.settings.settings() if body.settings else wiring.settings
        return replace(
            wiring,
            connections=connections,
            # The loop's time is none of the wiring's settings: it comes of what the rig reads.
            settings=replace(settings, loop_s=wiring.settings.loop_s),
            **_circuit(wiring, body, {one.end for one in connections}),
        )
    except ValueError as error:
        raise does_not_fit(str(error), str(error).partition(":")[0]) from error


def _circuit(wiring: Wiring, body: WiringIn, wired: set[END]) -> dict[str, Any]:
    """Supplies, joints, parts and open leads: those of the body, or as they are.

    A lead that gets a wire is no longer left open. Raises ValueError naming the field.
    """
    left_open = wiring.left_open
    if body.left_open is not None:
        left_open = tuple((str(one.device), one.lead) for one in body.left_open)
    return {
        "supplies": wiring.supplies
        if body.supplies is None
        else tuple(one.supply() for one in body.supplies),
        "joints": wiring.joints if body.joints is None else tuple(body.joints),
        "parts": wiring.parts if body.parts is None else tuple(one.part() for one in body.parts),
        "left_open": tuple(end for end in left_open if end not in wired),
    }


@router.post("/proposal")
def propose_wiring(
    rig: RigDep, body: ProposeIn, session: SessionDep, catalogue: CatalogueDep
) -> ProposalOut:
    """Give every loose lead a place and the parts it takes, and save that."""
    wiring = _held(session, rig, catalogue, body.revision)
    proposal = propose(wiring, body.again)
    save_wiring(session, rig, proposal.wiring)
    session.commit()
    return ProposalOut(wiring=wiring_out(session, rig, catalogue), impossible=proposal.impossible)


@router.post("/repair")
def repair_wiring(
    rig: RigDep, body: RepairIn, session: SessionDep, catalogue: CatalogueDep
) -> WiringOut:
    """Mend one finding, or with `*` all that have a repair."""
    wiring = _held(session, rig, catalogue, body.revision)
    if body.key == "*":
        new = mended(wiring)
    else:
        finding = next((one for one in check_wiring(wiring) if one.key == body.key), None)
        if finding is None or body.remedy >= len(finding.repairs):
            raise does_not_fit("that finding is gone, or has no such repair", "key")
        new = finding.repairs[body.remedy].applied(wiring)
    save_wiring(session, rig, new)
    session.commit()
    return wiring_out(session, rig, catalogue)


@router.put("/steps")
def tick_step(rig: RigDep, body: TickIn, session: SessionDep, catalogue: CatalogueDep) -> WiringOut:
    """Tick a step of the wiring list, or write down what was measured."""
    _lock(session, rig)
    wiring = _wiring(session, rig, catalogue)
    found = next((one for one in steps_of(session, rig, wiring) if one.step.key == body.key), None)
    if found is None:
        raise does_not_fit("there is no such step; the wiring has changed since", "key")
    row = _tick_row(session, rig, found)
    if body.done is not None:
        row.done_at = utc_now() if body.done else None
        if not body.done:
            row.seen_at = None
    if body.seen is not None:
        row.seen_at = utc_now() if body.seen else None
    if "measured_v" in body.model_fields_set:
        row.measured_v = body.measured_v
        row.skipped_why = ""
    if body.skipped_why is not None:
        row.skipped_why = body.skipped_why
        if body.skipped_why:
            row.measured_v = None
    session.commit()
    return wiring_out(session, rig, catalogue)


def _tick_row(session: SessionDep, rig: Rig, found: TickedStep) -> WiringTick:
    """The row of a step, made new when what it was about has changed."""
    row = ticks_of(session, rig).get(found.step.key)
    if row is None:
        row = WiringTick(rig_id=rig.id, key=found.step.key)
        session.add(row)
    if row.fingerprint != found.step.fingerprint:
        row.fingerprint = found.step.fingerprint
        row.done_at = row.seen_at = row.measured_v = None
        row.skipped_why = ""
    return row


@router.post("/sign")
def sign_wiring(
    rig: RigDep, body: SignIn, session: SessionDep, catalogue: CatalogueDep
) -> WiringOut:
    """Note the wiring as right: names, the list done and looked at again, and no error standing.

    Devices noted before whose wires are the same keep their date.
    """
    whose = _whose_word(body)
    _lock(session, rig)
    _wiring(session, rig, catalogue)
    look = look_at_wiring(session, rig, catalogue)
    assert look.wiring is not None
    errors = [one for one in look.findings if one.severity == "error"]
    if errors:
        raise does_not_fit(f"a check says no: {errors[0].message}")
    if body.wires:
        for one in _left(look.steps):
            if one.step.is_by_hand or one.step.expected is not None:
                continue
            row = _tick_row(session, rig, one)
            row.done_at = row.done_at or utc_now()
            row.seen_at = row.seen_at or (utc_now() if one.step.needs_second else None)
        session.flush()
        look = look_at_wiring(session, rig, catalogue)
    left = list(_left(look.steps))
    if left:
        raise does_not_fit(_what_is_left(left))
    assert look.wiring is not None
    signed = sign_offs_of(session, rig.sensors)
    for sensor in rig.sensors:
        if wired_stone(wired_facts_of(sensor, catalogue, look, signed)).state is StoneState.TICKED:
            continue
        session.add(
            SignOff(
                sensor_id=sensor.id,
                stage=WorkStage.WIRED.value,
                is_right=True,
                note=whose,
                grounds=grounds_of(look.wiring, str(sensor.id)),
            )
        )
    session.commit()
    return wiring_out(session, rig, catalogue)


def _whose_word(body: SignIn) -> str:
    """The names as a note. Raises a problem when one person signs as two, or alone without why."""
    if body.looked_by is None:
        if not body.alone_why:
            raise does_not_fit(
                "a second person looks it over; when there is none, say so and why", "alone_why"
            )
        return f"wired by {body.wired_by}, looked over again by nobody else: {body.alone_why}"
    if body.wired_by.casefold() == body.looked_by.casefold():
        raise does_not_fit("the second pair of eyes has to be another person’s", "looked_by")
    return f"wired by {body.wired_by}, looked over by {body.looked_by}"


def _left(steps: Iterable[TickedStep]) -> Iterable[TickedStep]:
    return (one for one in steps if not one.is_complete)


def _what_is_left(left: list[TickedStep]) -> str:
    """How much is left, and the first of it with what to do about it."""
    first = left[0]
    if first.step.expected is None:
        do = "is not done, or not looked at again"
    elif first.measured_v is None:
        do = "is neither measured nor skipped with a reason"
    else:
        do = "was not measured as it should be"
    many = f"{len(left)} steps are open; the first " if len(left) > 1 else "One step "
    return f"{many}{do}: {first.step.text}"


@router.post("/import")
def import_wiring(
    rig: RigDep, body: WiringFileIn, session: SessionDep, catalogue: CatalogueDep
) -> WiringOut:
    """Take a wiring from a JSON file, devices and board with it, or a netlist from CSV.

    All or nothing: when a line does not do, the wiring stays as it was.
    """
    _lock(session, rig)
    try:
        if body.text.lstrip("\ufeff \t\r\n").startswith("{"):
            catalogue = bring_in_wiring(session, rig, body.text, catalogue)
        else:
            wiring = _wiring(session, rig, catalogue)
            new = replace(wiring, connections=read_netlist_csv(body.text, wiring), measured={})
            save_wiring(session, rig, new)
    except ValueError as error:
        session.rollback()
        raise does_not_fit(str(error), "text") from error
    session.commit()
    return wiring_out(session, rig, catalogue)


@router.get("/file", response_class=JSONResponse)
def read_wiring_file(rig: RigDep, session: SessionDep, catalogue: CatalogueDep) -> JSONResponse:
    """The wiring as a JSON file that stands by itself: own families are in it."""
    wiring = by_name(_wiring(session, rig, catalogue))
    shipped = frozenset(
        name
        for kind, names in (("board", catalogue.boards), ("device", catalogue.devices))
        for name in names
        if (kind, name) not in catalogue.own
    )
    return JSONResponse(
        wiring_document(wiring, rig.name, shipped),
        headers={"content-disposition": 'attachment; filename="wiring.json"'},
    )


@router.get("/netlist.csv", response_class=PlainTextResponse)
def read_netlist(rig: RigDep, session: SessionDep, catalogue: CatalogueDep) -> PlainTextResponse:
    """The netlist as CSV: one row for each wire."""
    return _csv(netlist_csv(_wiring(session, rig, catalogue)), "netlist.csv")


@router.get("/bill.csv", response_class=PlainTextResponse)
def read_bill(rig: RigDep, session: SessionDep, catalogue: CatalogueDep) -> PlainTextResponse:
    """The bill of materials as CSV."""
    return _csv(bill_csv(bill_of_materials(_wiring(session, rig, catalogue))), "bill.csv")


def _csv(text: str, name: str) -> PlainTextResponse:
    return PlainTextResponse(
        text,
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": f'attachment; filename="{name}"'},
    )
