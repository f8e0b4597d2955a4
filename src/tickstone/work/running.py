"""What a board says that it runs, told from the record."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.lines.shape import LineShape
from tickstone.store.models import BoardRuns, Program, Rig, utc_now
from tickstone.work.catalogue import catalogue_of
from tickstone.work.wiring import grounds_of, wiring_of

Standing = Literal["now", "older", "changed", "unknown", "other rig"]


@dataclass(frozen=True, slots=True)
class BoardProgram:
    """A program that a board says it runs. columns: as it was written with; none when it is not in
    the record.

    outdated: names of the devices that are wired otherwise since, by their number.
    """

    kind: str
    identity: str
    standing: Standing
    written_at: datetime | None = None
    columns: tuple[dict[str, Any], ...] = ()
    outdated: tuple[tuple[int, str], ...] = ()
    rig_name: str = ""

    @property
    def says(self) -> str:
        """The same in a sentence."""
        kind = {"listen": "listening"}.get(self.kind, self.kind)
        if self.standing == "unknown":
            return (
                f"The board runs a {kind} program, {self.identity}, that is not in this record: it "
                "was written elsewhere, or for a rig that is gone."
            )
        day = f"{self.written_at.day} {self.written_at:%B}" if self.written_at else ""
        if self.standing == "other rig":
            return f"The board runs the {kind} program of {day} for {self.rig_name}, another rig."
        if self.standing == "changed":
            return (
                f"The board says that it runs the {kind} program of {day}, but prints other "
                "columns: it was changed by hand since. What it prints counts."
            )
        if self.standing == "older":
            names = " and ".join(name for _, name in self.outdated)
            are = "are" if len(self.outdated) > 1 else "is"
            return (
                f"The board runs the {kind} program of {day}; {names} {are} wired otherwise since. "
                "Take the program of now."
            )
        return f"The board runs the {kind} program of {day}, which fits the wiring of now."


def board_program(session: Session, rig: Rig, kind: str, identity: str) -> BoardProgram:
    """What the record says of a program that a rig's board says it runs."""
    rows = session.scalars(select(Program).where(Program.identity == identity)).all()
    own = next((row for row in rows if row.rig_id == rig.id), None)
    if own is None:
        if not rows:
            return BoardProgram(kind, identity, "unknown")
        other = session.get(Rig, rows[0].rig_id)
        return BoardProgram(
            kind, identity, "other rig", rows[0].written_at, rig_name=other.name if other else ""
        )
    outdated = _outdated(session, rig, own)
    return BoardProgram(
        own.kind,
        identity,
        "older" if outdated else "now",
        own.written_at,
        tuple(own.columns),
        outdated,
    )


def _outdated(session: Session, rig: Rig, program: Program) -> tuple[tuple[int, str], ...]:
    """Sensors that are wired otherwise than when the program was written."""
    wiring = wiring_of(session, rig, catalogue_of(session))
    names = {str(one.id): one.name for one in rig.sensors}
    return tuple(
        (int(device), names[device])
        for device, grounds in program.basis.get("wiring", {}).items()
        if wiring is not None and device in names and grounds_of(wiring, device) != grounds
    )


def note_running(session: Session, rig_id: int, program: BoardProgram, is_changed: bool) -> None:
    """Keep what a board said that it runs."""
    row = session.get(BoardRuns, rig_id) or BoardRuns(rig_id=rig_id)
    row.kind, row.identity = program.kind, program.identity
    row.is_changed, row.heard_at = is_changed, utc_now()
    session.add(row)
    session.commit()


def board_lags(session: Session, rig: Rig) -> dict[int, str]:
    """Why the board runs something older, a sentence, by the sensors it concerns."""
    row = session.get(BoardRuns, rig.id)
    if row is None or row.is_changed:
        return {}
    found = board_program(session, rig, row.kind, row.identity)
    return {sensor_id: found.says for sensor_id, _ in found.outdated}


def names_agree(shape: LineShape, columns: Sequence[dict[str, Any]]) -> bool:
    """Whether lines have the columns that a program was written with."""
    return [one.name for one in shape.columns] == [one["name"] for one in columns]
