"""All lines that are open, one for each rig, and the stand-in boards."""

from __future__ import annotations

import os
from collections.abc import Generator, Mapping
from dataclasses import dataclass, field, replace
from threading import Lock
from typing import Any

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.blocks import Scaled
from tickstone.core.lines.shape import LineShape
from tickstone.core.machines.machine import Machine
from tickstone.core.surroundings import Surroundings
from tickstone.link.page_port import PageSource
from tickstone.link.ports import board_name, stand_in_folder
from tickstone.link.replay import ReplaySource
from tickstone.link.serial_port import SerialSource, guess_speed
from tickstone.link.source import PortError, Source
from tickstone.link.stand_ins import StandIns
from tickstone.store.models import Rig, Sensor, Take
from tickstone.store.takes import read_blocks
from tickstone.work.catalogue import catalogue_of
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.line import LinePlace, LiveLine
from tickstone.work.live.machines import LiveMachine
from tickstone.work.live.memory import (
    as_written,
    candidates_of,
    could_be_written,
    knows,
    named_as_written,
    remembered_sensors,
    remembered_shape,
    sensors_as_written,
    shape_as_json,
    signature_of,
    suggested_sensors,
)
from tickstone.work.live.recorder import Recorder
from tickstone.work.live.ring import Ring
from tickstone.work.live.taking import open_take
from tickstone.work.running import board_program, names_agree, note_running
from tickstone.work.sensing import kind_of, sensing_of
from tickstone.work.sources import likely_inputs, roles_of
from tickstone.work.takes.finishing import give_recordings, overviews_ahead

MOST_MACHINES = 8
"""Run on lines at once; the one that was not asked about for longest makes room."""


@dataclass(slots=True)
class LineDesk:
    """Opens, holds and closes lines."""

    engine: Engine
    boards: StandIns = field(default_factory=StandIns)
    _lines: dict[int, LiveLine] = field(default_factory=dict)
    _lock: Lock = field(default_factory=Lock)
    _machines: dict[tuple[int, Machine], tuple[Ring, LiveMachine]] = field(default_factory=dict)
    _running: Lock = field(default_factory=Lock)

    def line(self, rig_id: int) -> LiveLine | None:
        """The line of a rig, if one is open."""
        return self._lines.get(rig_id)

    def lines(self) -> list[LiveLine]:
        """All open lines."""
        return list(self._lines.values())

    def open_port(self, rig_id: int, path: str, speed: int | None, resets: bool) -> LiveLine:
        """Listen to a port. speed: None to have it guessed. Raises PortError."""
        self._free_for(rig_id, path)
        if speed is None:
            guess = guess_speed(path)
            if guess.speed is None:
                heard = sum(count for _, count, _ in guess.heard)
                raise PortError(
                    f"Nothing readable came over {path}: "
                    + (
                        f"{heard} bytes, none of them text at any common speed. Is it another "
                        "kind of line? Choose the speed by hand."
                        if heard
                        else "not a single byte. Does the board print anything? Choose the speed "
                        "by hand to listen all the same."
                    )
                )
            speed = guess.speed
        chosen = speed

        def again() -> Source:
            if not os.path.exists(path):  # noqa: PTH110 - a device path, asked five times a second
                raise PortError(f"There is no port {path} any more.")
            return SerialSource(path, chosen, resets)

        is_stand_in = os.path.dirname(path) == str(stand_in_folder())  # noqa: PTH120
        name = os.path.basename(path)  # noqa: PTH119
        place = LinePlace(
            kind="stand-in" if is_stand_in else "line",
            path=path,
            label=f"stand-in board {board_name(name)}" if is_stand_in else path,
            speed=chosen,
            resets=resets,
            again=again,
        )
        return self._begin(rig_id, place, SerialSource(path, chosen, resets))

    def open_page(self, rig_id: int, source: PageSource, label: str) -> LiveLine:
        """Listen to a port that a page has open."""
        self._free_for(rig_id, "")
        return self._begin(rig_id, LinePlace("page", "", label, None, False, None), source)

    def replay(self, rig_id: int, take_id: int, name: str, pace: float) -> LiveLine:
        """Play a take as if it came over a line now."""
        self._free_for(rig_id, "")
        source = ReplaySource(_lines_of(self.engine, take_id), pace)
        place = LinePlace("replay", str(take_id), f"replay of “{name}”", None, False, None)
        return self._begin(rig_id, place, source)

    def close(self, rig_id: int) -> None:
        """Stop listening to a rig."""
        with self._lock:
            line = self._lines.pop(rig_id, None)
        if line is not None:
            line.close()

    def close_all(self) -> None:
        """Stop listening; recordings are closed whole."""
        for rig_id in list(self._lines):
            self.close(rig_id)
        self.boards.close()

    def record(
        self, session: Session, line: LiveLine, name: str, air: AirConditions, conditions: Any
    ) -> Take:
        """Begin to record a line. Raises ValueError when it cannot be."""
        if line.recorder is not None:
            raise ValueError("this line is being recorded already")
        take = open_take(session, line, name, air, conditions)
        recorder = Recorder(
            *(self.engine, take.id, name, line.axis_us, line.jitter_us),
            when_whole=give_recordings,
            when_put_together=overviews_ahead,
        )
        recorder.start()
        line.record(recorder)
        self._remember(session, line)
        return take

    def assign(self, session: Session, line: LiveLine, sensors: dict[str, int]) -> None:
        """Settle which column belongs to which sensor, for now and for the next time."""
        line.sensors = dict(sensors)
        line.revision += 1
        self._remember(session, line)

    def reshape(self, session: Session, line: LiveLine, shape: LineShape) -> None:
        """Read with the person's shape, for now and for the next time."""
        renamed = {
            before.name: after.name
            for before, after in zip(
                line.shape.columns if line.shape else (), shape.columns, strict=False
            )
        }
        line.sensors = {renamed.get(name, name): s for name, s in line.sensors.items()}
        line.reshape(shape)
        self._remember(session, line)

    def sensors(self, session: Session, line: LiveLine) -> dict[int, LiveSensor]:
        """The sensors on a line that have a chain, as they are set now, by their first channel."""
        if line.shape is None:
            return {}
        catalogue = catalogue_of(session)
        columns = [line.shape.columns[index] for index in line.shape.channels]
        channels = [
            {
                "quantity": column.quantity,
                "unit": column.unit,
                "sensor_id": line.sensors.get(column.name),
            }
            for column in columns
        ]
        found: dict[int, LiveSensor] = {}
        ids = [one for one in dict.fromkeys(line.sensors.get(one.name) for one in columns) if one]
        # All in one go: every page that watches asks once a second.
        known = {one.id: one for one in session.scalars(select(Sensor).where(Sensor.id.in_(ids)))}
        for sensor in (known[one] for one in ids if one in known):
            kind = kind_of(sensor, catalogue)
            if kind is None:
                continue
            inputs = likely_inputs(kind, channels, sensor.id)
            roles = roles_of(kind, inputs, channels)
            if not {one.name for one in kind.roles if one.is_needed} <= {one.role for one in roles}:
                continue
            sensing = sensing_of(session, sensor, kind, Surroundings(sensor.rig.air))
            forms = {one.role: one.form.name for one in roles}
            lanes = {one.role: len(one.channels) for one in roles}
            live = LiveSensor(sensor.id, replace(sensing, forms=forms, lanes=lanes), roles)
            found[live.channels[0]] = live
        return found

    def machine(
        self, line: LiveLine, machine: Machine, sensors: Mapping[str, LiveSensor]
    ) -> LiveMachine:
        """A machine on a line, with all that came taken in. It runs on from the last time asked."""
        assert line.ring is not None
        key = (line.rig_id, machine)
        with self._running:
            ring, live = self._machines.pop(key, (None, None))
            if ring is not line.ring or live is None or dict(live.sensors) != dict(sensors):
                live = LiveMachine(machine, sensors)
            live.advance(line.ring)
            self._machines[key] = (line.ring, live)
            while len(self._machines) > MOST_MACHINES:
                del self._machines[next(iter(self._machines))]
            return live

    def _free_for(self, rig_id: int, path: str) -> None:
        """Make room for a new line of this rig. Raises PortError when it or the port is in use."""
        for line in self.lines():
            if path and line.place.path == path and line.state != "ended":
                if line.rig_id == rig_id:
                    raise PortError(f"{path} is open already, for this very rig.")
                raise PortError(f"{path} is open already, for another rig. Close it there first.")
        old = self.line(rig_id)
        if old is not None and old.state != "ended":
            raise PortError(f"This rig is being heard on {old.place.label}. Close that line first.")
        self.close(rig_id)

    def _begin(self, rig_id: int, place: LinePlace, source: Source) -> LiveLine:
        with Session(self.engine) as session:
            rig = session.get_one(Rig, rig_id)
            memory = dict(rig.line)
            candidates = candidates_of(session, rig)

        def named(kind: str, identity: str) -> None:
            with Session(self.engine) as session:
                line.program = board_program(session, session.get_one(Rig, rig_id), kind, identity)
                if place.kind != "replay":
                    note_running(session, rig_id, line.program, is_changed=False)
            columns = line.program.columns
            # A board that was running already said no header; now it says who it is.
            line.rename(lambda shape: named_as_written(shape, columns))
            line.revision += 1

        def settle(shape: LineShape) -> LineShape:
            if line.program is not None and names_agree(shape, line.program.columns):
                shape = as_written(shape, line.program.columns)
            line.signature = memory["signature"] if knows(shape, memory) else signature_of(shape)
            return remembered_shape(shape, memory)

        line = LiveLine(rig_id, place, source, settle)

        def learnt(shape: LineShape) -> None:
            known = remembered_sensors(shape, memory)
            program = line.program
            if program is not None and program.columns:
                if names_agree(shape, program.columns):
                    known = {**sensors_as_written(program.columns, candidates), **known}
                elif program.standing != "changed" and not could_be_written(shape, program.columns):
                    line.program = program = replace(program, standing="changed")
                    with Session(self.engine) as session:
                        note_running(session, rig_id, program, is_changed=True)
            line.sensors = known or suggested_sensors(shape, candidates)

        line.when_learnt = learnt
        line.when_named = named
        with self._lock:
            if rig_id in self._lines:
                source.close()
                raise PortError("Another page has just opened a line for this rig.")
            self._lines[rig_id] = line
        line.start()
        return line

    def _remember(self, session: Session, line: LiveLine) -> None:
        if line.place.kind == "replay":
            return
        rig = session.get_one(Rig, line.rig_id)
        rig.line = {
            "path": line.place.path,
            "speed": line.place.speed,
            "resets": line.place.resets,
            "shape": shape_as_json(line.shape) if line.shape else None,
            "signature": line.signature,
            "sensors": line.sensors,
        }
        session.commit()


def _lines_of(engine: Engine, take_id: int) -> Generator[tuple[int, str]]:
    """A take as lines with a header, read chunk by chunk."""
    with Session(engine) as session:
        take = session.get_one(Take, take_id)
        header = ["t_us", *(_headed(channel) for channel in take.channels)]
        yield 0, "\t".join(header)
        for block in read_blocks(session, take):
            columns = [v.values if isinstance(v, Scaled) else v for v in block.values]
            for n, time_us in enumerate((block.time_us - take.first_time_us).tolist()):
                cells = [_cell(columns[c][n]) for c in range(len(columns))]
                yield time_us, "\t".join([str(time_us), *cells])


def _headed(channel: dict[str, Any]) -> str:
    return f"{channel['name']} [{channel['unit']}]" if channel["unit"] else str(channel["name"])


def _cell(value: float) -> str:
    if value != value:
        return "nan"
    return str(int(value)) if value == int(value) else repr(float(value))
