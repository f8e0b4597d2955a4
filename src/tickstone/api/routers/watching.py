"""WebSockets: pages that watch a line, and pages that bring one."""

from __future__ import annotations

import asyncio
import contextlib
import json
import math
from typing import Any

from fastapi import APIRouter, WebSocket, WebSocketDisconnect

from tickstone.api.desk import Desk
from tickstone.api.live_out import frame_out, judged_out, line_out
from tickstone.api.working import step_out
from tickstone.link.page_port import PageSource
from tickstone.link.source import PortError
from tickstone.store.models import Rig
from tickstone.work.live.frames import LiveChain, Painter, working_of
from tickstone.work.live.line import LiveLine

router = APIRouter()

FRAME_EVERY_S = 0.04
STATE_EVERY_S = 0.25
WORKING_EVERY_S = 0.2
CHAINS_EVERY_S = 1.0
MOST_LINES_A_FRAME = 12
MOST_MESSAGE_BYTES = 256 * 1024
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
    reading = asyncio.create_task(watcher.listen())
    try:
        await watcher.send()
    except (WebSocketDisconnect, RuntimeError):
        pass
    finally:
        reading.cancel()
        with contextlib.suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
            await reading


class _Watcher:
    """One page. Sending waits for the page, so a slow one gets fewer pictures and harms nobody."""

    def __init__(self, socket: WebSocket, desk: Desk, line: LiveLine) -> None:
        self.socket = socket
        self.desk = desk
        self.line = line
        self.painter = Painter()
        self.focus: int | None = None
        self.wants_lines = True
        self.line_seen = self.newest_seen = 0
        self.chains: dict[int, LiveChain] = {}

    async def listen(self) -> None:
        """What the page wants: its window, its width, the channel in hand."""
        while True:
            try:
                wish = json.loads(await self.socket.receive_text())
                window_s, columns = float(wish["window_s"]), int(wish["columns"])
                focus = wish.get("focus")
                if math.isfinite(window_s):
                    self.painter.window_s = min(120.0, max(0.5, window_s))
                self.painter.columns = min(4_000, max(50, columns))
                self.focus = int(focus) if focus is not None else None
                self.wants_lines = bool(wish.get("lines", True))
            except (ValueError, KeyError, TypeError, AttributeError):
                continue

    async def send(self) -> None:
        """Pictures, state and lines until the page or the line is gone."""
        loop = asyncio.get_running_loop()
        state_at = chains_at = working_at = 0.0
        revision = -1
        while True:
            now = loop.time()
            if now - chains_at > CHAINS_EVERY_S or revision != self.line.revision:
                self.chains = await asyncio.to_thread(self._chains)
                chains_at = now
            if now - state_at > STATE_EVERY_S or revision != self.line.revision:
                revision, state_at = self.line.revision, now
                await self._say("state", line_out(self.line).model_dump(mode="json"))
            ring = self.line.ring
            if ring is not None:
                frame = self.painter.frame(ring, self.chains)
                if frame is not None:
                    await self._say("frame", frame_out(frame))
                    if now - working_at > WORKING_EVERY_S:
                        working_at = now
                        await self._say_working(ring)
            if self.wants_lines:
                await self._say_lines()
            if self.line.state == "ended":
                await self._say("state", line_out(self.line).model_dump(mode="json"))
                await self.socket.close(1000, "the line is closed")
                return
            await asyncio.sleep(FRAME_EVERY_S)

    def _chains(self) -> dict[int, LiveChain]:
        with self.desk.make_session() as session:
            return self.desk.lines.chains(session, self.line)

    async def _say_working(self, ring: Any) -> None:
        if self.focus is None or self.focus not in self.chains:
            return
        steps = working_of(ring, self.focus, self.chains[self.focus])
        await self._say(
            "working",
            {"channel": self.focus, "steps": [step_out(s).model_dump(mode="json") for s in steps]},
        )

    async def _say_lines(self) -> None:
        lines = list(self.line.lines)
        fresh = [line for line in lines[-60:] if line.number > self.line_seen]
        waiting = self.line.waiting[-MOST_LINES_A_FRAME:]
        newest = max((line.number for line in fresh + waiting), default=0)
        if newest <= self.newest_seen and not fresh:
            return
        self.newest_seen = max(newest, self.newest_seen)
        shown = fresh[-MOST_LINES_A_FRAME:]
        # A line that did not fit is worth more than one that did: it is never left out here.
        odd = [line for line in fresh[:-MOST_LINES_A_FRAME] if line.verdict != "read"]
        await self._say(
            "lines",
            [
                judged_out(line, self.line.opened_at_us).model_dump()
                for line in odd + shown + waiting
            ],
        )
        if fresh:
            self.line_seen = fresh[-1].number

    async def _say(self, kind: str, body: Any) -> None:
        await self.socket.send_text(json.dumps({"kind": kind, "body": body}, allow_nan=False))


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
    except (WebSocketDisconnect, RuntimeError, KeyError):
        pass
    finally:
        source.end()


def _rig_is_there(desk: Desk, rig_id: int) -> bool:
    with desk.make_session() as session:
        rig = session.get(Rig, rig_id) if 0 < rig_id < 2**63 else None
        return rig is not None and rig.deleted_at is None
