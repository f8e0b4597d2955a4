"""What a board says that it runs, told from the record."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from tickstone.core.lines.shape import LineShape
from tickstone.store.models import BoardRuns, Program, Rig, utc_now
from tickstone.work.catalogue import Catalogue, catalogue_of
from tickstone.work.deciding.for_board import decision_grounds, decisions_of
from tickstone.work.deciding.keeping import RULES
from tickstone.work.programs import Wanted, write_program
from tickstone.work.sensing import rules_of
from tickstone.work.summing import sums_rest_on
from tickstone.work.wiring import grounds_of, wiring_of

_WORDS = {"listen": "listening", "convert": "converting", "rules": "deciding"}
Standing = Literal["now", "older", "changed", "unknown", "other rig"]


@dataclass(frozen=True, slots=True)
class Outdated:
    """Something of a sensor that is otherwise than when a program was written. what: in words that
    stand behind its name.
    """

    sensor_id: int
    name: str
    what: str


@dataclass(frozen=True, slots=True)
class BoardProgram:
    """A program that a board says it runs. columns: as it was written with; none when it is not in
    the record.

    outdated: what is otherwise since, sensor by sensor.
    """

    kind: str
    identity: str
    standing: Standing
    written_at: datetime | None = None
    columns: tuple[dict[str, Any], ...] = ()
    outdated: tuple[Outdated, ...] = ()
    rig_name: str = ""

    @property
    def says(self) -> str:
        """The same in a sentence."""
        kind = _WORDS.get(self.kind, self.kind)
        if self.standing == "unknown":
            return (
                f"The board runs a {kind} program, {self.identity}, that is not in this record: it "
                "was written elsewhere, or for a rig that is gone."
            )
        day = _day(self.written_at) if self.written_at else ""
        if self.standing == "other rig":
            return f"The board runs the {kind} program of {day} for {self.rig_name}, another rig."
        if self.standing == "changed":
            return (
                f"The board says that it runs the {kind} program of {day}, but prints other "
                "columns: it was changed by hand since. What it prints counts."
            )
        if self.standing == "older":
            names: dict[str, dict[str, None]] = {}
            for one in self.outdated:
                names.setdefault(one.what, {})[one.name] = None
            since = " ".join(f"{', '.join(whose)}: {what}." for what, whose in names.items())
            return f"The board runs the {kind} program of {day}. {since} Take the program of now."
        fits = "the wiring of now" if self.kind == "listen" else "what is wired and in use now"
        return f"The board runs the {kind} program of {day}, which fits {fits}."


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


def _outdated(session: Session, rig: Rig, program: Program) -> tuple[Outdated, ...]:
    """What is otherwise than when the program was written."""
    catalogue = catalogue_of(session)
    wiring = wiring_of(session, rig, catalogue)
    sensors = {str(one.id): one for one in rig.sensors}
    found: list[Outdated] = []
    for device, grounds in program.basis.get("wiring", {}).items():
        if wiring is not None and device in sensors and grounds_of(wiring, device) != grounds:
            found.append(Outdated(int(device), sensors[device].name, "wired otherwise since"))
    rules = rules_of(session, [one.id for one in rig.sensors])
    set_otherwise: dict[str, dict[str, Any]] = {}
    for device, then in program.basis.get("sums", {}).items():
        if device not in sensors:
            continue
        sensor = sensors[device]
        now = sums_rest_on(sensor, catalogue, rules.get(sensor.id, []))
        said = [
            _differs(then["decided"].get(key), now["decided"].get(key))
            for key in {**then["decided"], **now["decided"]}
        ]
        found += [Outdated(sensor.id, sensor.name, one) for one in said if one]
        if not any(said) and then["settings"] != now["settings"]:
            set_otherwise[device] = then
    if set_otherwise:
        # Air that a sensor's sums do not ask for makes no difference: what counts is the numbers.
        numbers = _numbers_now(session, rig, catalogue)
        found += [
            Outdated(int(device), sensors[device].name, "set otherwise since, or in other air")
            for device, then in set_otherwise.items()
            if numbers.get(device) != then["numbers"]
        ]
    if program.kind == "rules":
        found += _decided_otherwise(session, rig, program)
    return tuple(found)


def _decided_otherwise(session: Session, rig: Rig, program: Program) -> Iterator[Outdated]:
    """What is decided otherwise than when the program was written, by each sensor looked at."""
    then = program.basis.get("decisions", {})
    now = {row.slot: decision_grounds(row) for row in decisions_of(session, rig)}
    for slot in {**then, **now}:
        old, new = then.get(slot), now.get(slot)
        latest = new or old
        if latest is None or (old is not None and not old["is_in"]):
            continue
        if old is None or new is None:
            is_in = "not in it" if old is None else "in it still"
            what = f"“{latest['name']}” of {_day_of(latest)} is {is_in}"
        elif old["id"] != new["id"]:
            what = (
                f"it has “{old['name']}” of {_day_of(old)}; in use is “{new['name']}” of "
                f"{_day_of(new)}"
            )
        else:
            continue
        for sensor_id in latest["sensors"] or [0]:
            yield Outdated(sensor_id, "Rules" if slot == RULES else "Controller", what)


def _day_of(grounds: dict[str, Any]) -> str:
    return _day(datetime.fromisoformat(grounds["made_at"]))


def _numbers_now(session: Session, rig: Rig, catalogue: Catalogue) -> dict[str, Any]:
    """The constants of each sensor in a program of now; none where none can be written."""
    try:
        written = write_program(session, rig, catalogue, Wanted("convert"))
    except ValueError:
        return {}
    return {device: one["numbers"] for device, one in written.basis["sums"].items()}


def _differs(then: list[Any] | None, now: list[Any] | None) -> str:
    """What a person is told of what is decided by `sums_rest_on`; empty when it is the same."""
    if then is None or now is None:
        label, _, made = then or now or ["", "", ""]
        when = f" of {_day(datetime.fromisoformat(made))}" if made else ""
        return (
            f"“{label}”{when} is not in it" if then is None else f"“{label}”{when} is in it still"
        )
    if then[1] == now[1]:
        return ""
    old, new = (datetime.fromisoformat(one[2]) for one in (then, now))
    if old.date() == new.date():
        return f"it has “{now[0]}” of {_day(old)}, {old:%H:%M}; in use is that of {new:%H:%M}"
    return f"it has “{now[0]}” of {_day(old)}; in use is that of {_day(new)}"


def _day(when: datetime) -> str:
    """
    >>> _day(datetime(2026, 11, 3))
    '3 November'
    """
    this_year = when.year == utc_now().year
    return f"{when.day} {when:%B}" if this_year else f"{when.day} {when:%B %Y}"


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
    since: dict[int, list[Outdated]] = {}
    for one in found.outdated:
        since.setdefault(one.sensor_id, []).append(one)
    return {sensor_id: replace(found, outdated=tuple(own)).says for sensor_id, own in since.items()}


def names_agree(shape: LineShape, columns: Sequence[dict[str, Any]]) -> bool:
    """Whether lines have the columns that a program was written with."""
    return [one.name for one in shape.columns] == [one["name"] for one in columns]
