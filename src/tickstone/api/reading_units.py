"""Answers in the units their reader has chosen."""

from __future__ import annotations

from starlette.datastructures import Headers, QueryParams
from starlette.types import ASGIApp, Receive, Scope, Send

from tickstone.core.reading_units import UNIT_SYSTEMS, reading_in

HEADER = "tickstone-units"


class ReadingUnits:
    """Words of an answer are in the units its request asks for; numbers are SI whatever it asks.

    Pages say so in a header, and WebSockets, which cannot, in the address: `?units=imperial`.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        with reading_in(next((one for one in UNIT_SYSTEMS if one == _asked(scope)), "metric")):
            await self.app(scope, receive, send)


def _asked(scope: Scope) -> str:
    if scope["type"] == "http":
        return Headers(scope=scope).get(HEADER, "")
    if scope["type"] == "websocket":
        return QueryParams(scope["query_string"]).get("units", "")
    return ""
