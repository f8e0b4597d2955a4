"""Rigs and their tables of stones."""

from __future__ import annotations

import logging

from fastapi import APIRouter
from sqlalchemy import select

from tickstone.api.desk import Desk, DeskDep, RigDep, RowId, SessionDep, find
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.air import Air
from tickstone.api.schemas.rig import (
    CrackedOut,
    NextOut,
    RigChange,
    RigIn,
    RigOut,
    RigSummary,
    SensorRow,
    StoneOut,
)
from tickstone.core.stones.stone import Stone, StoneState, WorkStage
from tickstone.store.models import Rig, Sensor, Wire, utc_now
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.deciding.grounds import cracks_in
from tickstone.work.deciding.keeping import RULES, in_use_of
from tickstone.work.standing import Standing, standing_of
from tickstone.work.wiring import board_of

router = APIRouter(prefix="/api/rigs", tags=["rigs"])


def sensor_row(sensor: Sensor, stones: tuple[Stone, ...], catalogue: Catalogue) -> SensorRow:
    """A sensor with its stones."""
    family = catalogue.devices[sensor.family]
    return SensorRow(
        id=sensor.id,
        name=sensor.name,
        family=sensor.family,
        family_label=family.label,
        has_chain=family.has_chain,
        place=sensor.place,
        pins=" ".join(dict.fromkeys(wire.to for wire in _signals(sensor, catalogue))),
        stones=[StoneOut.model_validate(stone) for stone in stones],
    )


def _signals(sensor: Sensor, catalogue: Catalogue) -> list[Wire]:
    """The wires of a device that end on pins."""
    board = board_of(sensor.rig, catalogue)
    return [wire for wire in sensor.wires if board is not None and board.pin(wire.to) is not None]


def _checked_board(name: str, session: SessionDep) -> str:
    """The name of a board family there is, or none. Raises a problem naming the field."""
    boards = catalogue_of(session).boards
    if name and name not in boards:
        raise does_not_fit(
            f"there is no board family “{name}”; known are {', '.join(boards)}", "board"
        )
    return name


def _counts(standing: Standing) -> tuple[int, int]:
    states = [stone.state for row in standing.stones for stone in row]
    present = [state for state in states if state != StoneState.ABSENT]
    return sum(state == StoneState.TICKED for state in present), len(present)


def _rig_out(session: SessionDep, desk: Desk, rig: Rig) -> RigOut:
    catalogue = catalogue_of(session)
    trouble, standing, air = "", None, None
    try:
        air = Air.of(rig.air)
        standing = standing_of(session, desk.cache, rig)
    except (ArithmeticError, LookupError, TypeError, ValueError) as error:
        # What is stored beyond a rule's limit is shown as such; all other rigs work on.
        logging.getLogger(__name__).exception("the stones of rig %s", rig.id)
        trouble = f"What is kept of this rig does not hold together: {error!s:.200}."
    board = board_of(rig, catalogue)
    ticked, stones = _counts(standing) if standing else (0, 0)
    return RigOut(
        id=rig.id,
        name=rig.name,
        description=rig.description,
        board=rig.board,
        board_label=board.label if board else "",
        ticked=ticked,
        stones=stones,
        trouble=trouble,
        air=air or Air(temperature_c=20.0),
        sensors=[
            sensor_row(sensor, row, catalogue)
            for sensor, row in zip(
                standing.sensors if standing else rig.sensors,
                standing.stones if standing else [_unknown(trouble)] * len(rig.sensors),
                strict=True,
            )
            if sensor.family in catalogue.devices
        ],
        next=_next_out(standing) if standing else None,
        cracked=_cracked(session, rig) if standing else [],
    )


def _cracked(session: SessionDep, rig: Rig) -> list[CrackedOut]:
    return [
        CrackedOut(name=row.name, is_rules=slot == RULES, says=cracks[0])
        for slot, row in sorted(in_use_of(session, rig).items())
        if (cracks := cracks_in(session, rig, row))
    ]


def _unknown(trouble: str) -> tuple[Stone, ...]:
    return tuple(Stone(stage, StoneState.ABSENT, "?", trouble) for stage in WorkStage)


def _next_out(standing: Standing) -> NextOut | None:
    if standing.next is None:
        return None
    sensor, stone = standing.sensors[standing.next.sensor], standing.next.stone
    return NextOut(
        sensor_id=sensor.id,
        sensor_name=sensor.name,
        stage=stone.stage,
        state=stone.state,
        reason=stone.reason,
    )


@router.get("")
def list_rigs(session: SessionDep, desk: DeskDep) -> list[RigSummary]:
    """Every rig, oldest first."""
    rigs = session.scalars(select(Rig).where(Rig.deleted_at.is_(None)).order_by(Rig.id)).all()
    return [RigSummary.model_validate(_rig_out(session, desk, rig)) for rig in rigs]


@router.post("", status_code=201)
def add_rig(body: RigIn, session: SessionDep, desk: DeskDep) -> RigOut:
    """Start a rig."""
    board = _checked_board(body.board, session)
    rig = Rig(name=body.name, description=body.description, board=board)
    rig.air = body.air.conditions()
    session.add(rig)
    session.commit()
    return _rig_out(session, desk, rig)


@router.get("/{rig_id}")
def read_rig(rig: RigDep, session: SessionDep, desk: DeskDep) -> RigOut:
    """A rig's home."""
    return _rig_out(session, desk, rig)


@router.patch("/{rig_id}")
def change_rig(rig: RigDep, body: RigChange, session: SessionDep, desk: DeskDep) -> RigOut:
    """Change a rig's words or the air it stands in."""
    for field in ("name", "description"):
        value = getattr(body, field)
        if value is not None:
            setattr(rig, field, value)
    if body.board is not None and body.board != rig.board:
        rig.board = _checked_board(body.board, session)
        rig.wiring_revision += 1
    if body.air is not None:
        rig.air = body.air.conditions()
    session.commit()
    return _rig_out(session, desk, rig)


@router.delete("/{rig_id}", status_code=204)
def delete_rig(rig: RigDep, session: SessionDep) -> None:
    """Hide a rig; `restore` brings it back."""
    rig.deleted_at = utc_now()
    session.commit()


@router.post("/{rig_id}/restore")
def restore_rig(rig_id: RowId, session: SessionDep, desk: DeskDep) -> RigOut:
    """Bring a hidden rig back."""
    rig = find(session, Rig, rig_id, deleted=True)
    rig.deleted_at = None
    session.commit()
    return _rig_out(session, desk, rig)
