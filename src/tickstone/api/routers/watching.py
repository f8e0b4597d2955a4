"""WebSockets: pages that watch a line, and pages that bring one."""

from __future__ import annotations

import asyncio
import contextlib
import json
import math
from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from functools import partial
from typing import Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from sqlalchemy.orm import Session

from tickstone.api.air_out import air_out
from tickstone.api.desk import Desk
from tickstone.api.live_out import frame_out, judged_out, line_out
from tickstone.api.schemas.look import AirHeardOut
from tickstone.api.working import step_out
from tickstone.core.air.heard import celsius_of
from tickstone.core.status import Status
from tickstone.core.stones.row import stones_for
from tickstone.core.stones.stone import WorkStage
from tickstone.link.page_port import PageSource
from tickstone.link.source import LineLostError, PortError
from tickstone.store.models import Rig, Sensor
from tickstone.work.air_heard import tells_air
from tickstone.work.catalogue import catalogue_of
from tickstone.work.live.folds import LiveSensor
from tickstone.work.live.frames import Frame, Painter
from tickstone.work.live.line import LiveLine
from tickstone.work.live.memory import channels_of
from tickstone.work.sensing import Sensing
from tickstone.work.standing import facts_of
from tickstone.work.wiring import look_at_wiring

router = APIRouter()

FRAME_EVERY_S = 0.04
STATE_EVERY_S = 0.25
WORKING_EVERY_S = 0.2
SENSORS_EVERY_S = 1.0
_SENSORS_SHARE = 10.0
"""How much longer than looking them up took they are taken for what they are."""
MOST_LINES_A_FRAME = 12
MOST_MESSAGE_BYTES = 256 * 1024
_PAINTERS = ThreadPoolExecutor(2, thread_name_prefix="painter")
"""Two, however many pages watch: what reads the line must never wait for a crowd of painters."""
_REST_SHARE = 2.0
"""How much longer than its last picture took, waiting included, a page rests before the next."""
_PATIENCE_S = 5.0
"""How long a page may not say that it has its last picture before it gets another all the same."""
_GONE = 4404
_REFUSED = 4409


@router.websocket("/api/rigs/{rig_id}/line/watch")
async def watch_line(socket: WebSocket, rig_id: int) -> None:
    """Pictures of a rig's line, as fast as this one page takes them."""
    desk: Desk = socket.app.state.desk
    line = desk.lines.line(rig_id)
    await socket.accept()
    if line is None:
        await socket.close(_GONE, "no line is open for this rig")
        return
    watcher = _Watcher(socket, desk, line)
    # Whichever ends first ends both: a page that is gone is not waited for.
    both = {asyncio.create_task(watcher.listen()), asyncio.create_task(watcher.send())}
    try:
        ended, _ = await asyncio.wait(both, return_when=asyncio.FIRST_COMPLETED)
        for one in ended:
            with contextlib.suppress(WebSocketDisconnect, RuntimeError):
                one.result()
    finally:
        for one in both:
            one.cancel()


class _Watcher:
    """One page. A slow one gets fewer pictures, never old ones, and harms nobody.

    Sockets hold a great deal that nobody has looked at yet, so the page says what it has: without
    that, one that draws slower than pictures come would show ever older readings as live.
    """

    def __init__(self, socket: WebSocket, desk: Desk, line: LiveLine) -> None:
        self.socket = socket
        self.desk = desk
        self.line = line
        self.painter = Painter()
        self.focus: int | None = None
        self.wants_lines = True
        self.line_seen = self.newest_seen = 0
        self.sensors: dict[int, LiveSensor] = {}
        self.trust: tuple[int, dict[str, str]] | None = None
        self.thermometer: tuple[int, str] | None = None
        self.revision = -1
        self.sent = 0
        self.is_seen = asyncio.Event()
        self.is_seen.set()
        self.state_at = self.sensors_due = self.working_at = 0.0

    async def listen(self) -> None:
        """What the page wants: its window, its width, the channel in hand. And what it has seen."""
        while True:
            try:
                self._wish(json.loads(await self.socket.receive_text()))
            except (ArithmeticError, AttributeError, LookupError, RecursionError, TypeError):
                continue
            except ValueError:
                continue

    def _wish(self, wish: Any) -> None:
        if "seen" in wish:
            if wish["seen"] == self.sent:
                self.is_seen.set()
            return
        window_s, columns = float(wish["window_s"]), int(wish["columns"])
        focus = wish.get("focus")
        if math.isfinite(window_s):
            self.painter.window_s = min(120.0, max(0.5, window_s))
        self.painter.columns = min(4_000, max(50, columns))
        self.focus = int(focus) if focus is not None else None
        self.wants_lines = bool(wish.get("lines", True))

    async def send(self) -> None:
        """Pictures, state and lines until the page or the line is gone."""
        loop = asyncio.get_running_loop()
        while True:
            is_over = self.line.state == "ended"
            is_changed = self.line.revision != self.revision
            asked = loop.time()
            if is_changed or asked > self.sensors_due:
                await loop.run_in_executor(_PAINTERS, self._look_up)
                self.sensors_due = loop.time() + max(
                    SENSORS_EVERY_S, _SENSORS_SHARE * (loop.time() - asked)
                )
            began = loop.time()
            # In this page's own units, which a thread would not know of by itself.
            paint = partial(copy_context().run, self._messages, began, is_changed or is_over)
            sent = self.sent
            messages = await loop.run_in_executor(_PAINTERS, paint)
            if self.sent != sent:
                self.is_seen.clear()
            for message in messages:
                await self.socket.send_text(message)
            if is_over:
                await self.socket.close(1000, "the line is closed")
                return
            # With many pages each waits its turn, and then longer: reading the line comes first.
            await asyncio.sleep(max(FRAME_EVERY_S, _REST_SHARE * (loop.time() - began)))
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self.is_seen.wait(), _PATIENCE_S)

    def _look_up(self) -> None:
        """The sensors as they are set now. Runs beside the server's loop."""
        self.revision = self.line.revision
        with self.desk.make_session() as session:
            self.sensors = self.desk.lines.sensors(session, self.line)
            self.thermometer = self._thermometer(session)
        self.trust = None

    def _messages(self, now: float, is_changed: bool) -> list[str]:
        """All there is to say now. Runs beside the server's loop."""
        said: list[str] = []
        if now - self.state_at > STATE_EVERY_S or is_changed:
            self.state_at = now
            said.append(
                _message("state", line_out(self.line, self.sensors).model_dump(mode="json"))
            )
        ring = self.line.ring
        frame = None if ring is None else self.painter.frame(ring, self.sensors)
        if ring is not None and frame is not None:
            self.sent = frame.samples
            said.append(_message("frame", frame_out(frame)))
            fold = None if self.focus is None else self.painter.fold(self.focus)
            if (
                now - self.working_at > WORKING_EVERY_S
                and fold is not None
                and self.focus is not None
            ):
                self.working_at = now
                steps = fold.working()
                dumped = [step_out(step).model_dump(mode="json") for step in steps]
                air = self._air(frame, fold.sensor.sensing)
                working = {
                    "channel": fold.channel,
                    "steps": dumped,
                    "trust": self._trust_in(fold.sensor.sensor_id),
                    "air": None if air is None else air.model_dump(mode="json"),
                }
                said.append(_message("working", working))
        if self.wants_lines:
            said += self._lines()
        return said

    def _thermometer(self, session: Session) -> tuple[int, str] | None:
        """The channel of the rig's own thermometer and its unit, where the line has one."""
        shape, catalogue = self.line.shape, catalogue_of(session)
        for number, column in enumerate(channels_of(shape, self.line.sensors) if shape else ()):
            if tells_air(session, column, catalogue):
                return number, column["unit"]
        return None

    def _air(self, frame: Frame, sensing: Sensing) -> AirHeardOut | None:
        """What the thermometer says now, against the air that was typed."""
        if self.thermometer is None:
            return None
        number, unit = self.thermometer
        value, status = frame.newest[number]
        heard_c = None if value is None or status != Status.OK else celsius_of(value, unit)
        return None if heard_c is None else air_out(heard_c, sensing)

    def _trust_in(self, sensor_id: int) -> dict[str, str]:
        """Whether the sensor's calibration holds, as its stone says it; as of a second ago."""
        if self.trust is not None and self.trust[0] == sensor_id:
            return self.trust[1]
        with self.desk.make_session() as session:
            sensor = session.get_one(Sensor, sensor_id)
            catalogue = catalogue_of(session)
            look = look_at_wiring(session, sensor.rig, catalogue)
            stones = stones_for(facts_of(session, self.desk.cache, sensor, catalogue, look))
        stone = next(one for one in stones if one.stage is WorkStage.CALIBRATED)
        trust = {"state": stone.state.value, "reason": stone.reason}
        self.trust = (sensor_id, trust)
        return trust

    def _lines(self) -> list[str]:
        lines = list(self.line.lines)
        fresh = [line for line in lines[-60:] if line.number > self.line_seen]
        waiting = self.line.waiting[-MOST_LINES_A_FRAME:]
        newest = max((line.number for line in fresh + waiting), default=0)
        if newest <= self.newest_seen and not fresh:
            return []
        self.newest_seen = max(newest, self.newest_seen)
        shown = fresh[-MOST_LINES_A_FRAME:]
        # A line that did not fit is worth more than one that did: it is never left out here.
        odd = [line for line in fresh[:-MOST_LINES_A_FRAME] if line.verdict != "read"]
        if fresh:
            self.line_seen = fresh[-1].number
        opened_at_us = self.line.opened_at_us
        return [
            _message(
                "lines",
                [judged_out(line, opened_at_us).model_dump() for line in odd + shown + waiting],
            )
        ]


def _message(kind: str, body: Any) -> str:
    return json.dumps({"kind": kind, "body": body}, allow_nan=False)


@router.websocket("/api/rigs/{rig_id}/line/page")
async def bring_line(socket: WebSocket, rig_id: int, label: str = "the page’s port") -> None:
    """A page that has a port open itself sends the bytes here as they come.

    It is told “open” once its line is; what comes back as bytes is for the board.
    """
    desk: Desk = socket.app.state.desk
    await socket.accept()
    loop = asyncio.get_running_loop()

    def to_page(data: bytes) -> None:
        asyncio.run_coroutine_threadsafe(socket.send_bytes(data), loop)

    source = PageSource(to_page)
    try:
        known = await asyncio.to_thread(_rig_is_there, desk, rig_id)
        if not known:
            await socket.close(_GONE, "there is no such rig")
            return
        line = await asyncio.to_thread(
            desk.lines.open_page, rig_id, source, "".join(c for c in label if c.isprintable())[:80]
        )
    except PortError as error:
        await socket.close(_REFUSED, str(error)[:120])
        return
    try:
        await socket.send_text("open")
        while line.state != "ended":
            data = await socket.receive_bytes()
            for first in range(0, len(data), 16_384):
                while not source.feed(data[first : first + 16_384]):
                    await asyncio.sleep(0.01)
        await socket.close(_GONE, line.trouble[:120] or "the line is closed")
    except LineLostError:
        with contextlib.suppress(RuntimeError):
            await socket.close(_GONE, "the line is closed")
    except (WebSocketDisconnect, RuntimeError, KeyError):
        pass
    finally:
        source.end()


def _rig_is_there(desk: Desk, rig_id: int) -> bool:
    with desk.make_session() as session:
        rig = session.get(Rig, rig_id) if 0 < rig_id < 2**63 else None
        return rig is not None and rig.deleted_at is None
