"""Ports of this machine and the stand-in boards."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.desk import DeskDep, SessionDep
from tickstone.api.problems import ProblemError, not_found
from tickstone.api.schemas.live import (
    ControlOut,
    FaultOut,
    OpenIn,
    PortOut,
    SpeedGuessOut,
    StandInIn,
    StandInOut,
)
from tickstone.link.board import BOARDS
from tickstone.link.board.faults import FAULTS
from tickstone.link.board.world import CONTROLS
from tickstone.link.ports import list_all_ports
from tickstone.link.serial_port import guess_speed
from tickstone.link.source import PortError
from tickstone.store.models import Rig

router = APIRouter(prefix="/api", tags=["ports"])


def known_port(path: str) -> str:
    """The path, if it is one of this machine's ports: no other file is ever opened."""
    if path not in {port.path for port in list_all_ports()}:
        raise ProblemError(
            422, "No such port", f"{path[:100]} is not a port of this machine now. Is the cable in?"
        )
    return path


@router.get("/ports")
def list_ports(desk: DeskDep, session: SessionDep) -> list[PortOut]:
    """Ports with what is known of each, and which rig is being heard on it."""
    heard = {line.place.path: line.rig_id for line in desk.lines.lines() if line.state != "ended"}
    answers = []
    for port in list_all_ports():
        rig = session.get(Rig, heard[port.path]) if port.path in heard else None
        answers.append(
            PortOut(
                path=port.path,
                label=port.label,
                detail=port.detail,
                is_stand_in=port.is_stand_in,
                speed=port.speed,
                held_by=port.held_by,
                rig_id=rig.id if rig else None,
                rig_name=rig.name if rig else "",
            )
        )
    return answers


@router.post("/ports/speed")
def guess_port_speed(body: OpenIn, desk: DeskDep) -> SpeedGuessOut:
    """Try the common speeds until what comes is readable. Takes a few seconds at most."""
    if any(line.place.path == body.path and line.state != "ended" for line in desk.lines.lines()):
        raise ProblemError(409, "In use", f"{body.path} is being listened to. Close it first.")
    try:
        guess = guess_speed(known_port(body.path))
    except PortError as error:
        raise ProblemError(409, "The port cannot be opened", str(error)) from error
    return SpeedGuessOut(speed=guess.speed, heard=list(guess.heard))


@router.get("/boards")
def list_boards(desk: DeskDep) -> list[StandInOut]:
    """The stand-in boards: what can be moved and what can go wrong on each."""
    return [_board_out(name, desk) for name in BOARDS]


@router.post("/boards/{name}")
def start_board(name: str, body: StandInIn, desk: DeskDep) -> StandInOut:
    """Start a stand-in board; its port appears among the ports."""
    if name not in BOARDS:
        raise not_found("stand-in board")
    try:
        desk.lines.boards.start(name, body.seed)
    except PortError as error:
        raise ProblemError(503, "The board did not start", str(error)) from error
    return _board_out(name, desk)


@router.delete("/boards/{name}")
def stop_board(name: str, desk: DeskDep) -> StandInOut:
    """Stop a stand-in board that was started here."""
    if name not in BOARDS:
        raise not_found("stand-in board")
    desk.lines.boards.stop(name)
    return _board_out(name, desk)


def _board_out(name: str, desk: DeskDep) -> StandInOut:
    board = BOARDS[name]
    path = desk.lines.boards.path(name)
    return StandInOut(
        name=name,
        label=board.label,
        path=str(path) if path.exists() or desk.lines.boards.is_running(name) else "",
        speed=board.speed,
        controls=[
            ControlOut.model_validate(control)
            for control in CONTROLS
            if control.word in board.controls
        ],
        faults=[
            FaultOut.model_validate(fault) for fault in FAULTS if fault.word in board.fault_words
        ],
    )
