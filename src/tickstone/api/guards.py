"""What keeps other pages and oversized bodies away from the server."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from tickstone.api.problems import Problem, ProblemError, answer

LOOPBACK_NAMES = frozenset({"localhost", "127.0.0.1", "::1"})
MOST_BODY_BYTES = 1024 * 1024
UPLOAD_PATHS = re.compile(r"/api/(imports|archives|rigs/\d+/files)")

_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self'; script-src 'self'; "
    "font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; "
    "form-action 'self'; frame-ancestors 'none'"
)


class Guards:
    """Checks Host and Origin, bounds bodies, and adds a strict Content-Security-Policy.

    hosts: the names this server answers to, without ports.
    """

    def __init__(self, app: ASGIApp, hosts: frozenset[str]) -> None:
        self.app = app
        self.hosts = hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket":
            if self._refusal(Headers(scope=scope), scope) is None:
                await self.app(scope, receive, send)
            else:
                await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                out = MutableHeaders(scope=message)
                out["content-security-policy"] = _POLICY
                out["x-content-type-options"] = "nosniff"
                out["referrer-policy"] = "no-referrer"
                out["cross-origin-opener-policy"] = "same-origin"
            await send(message)

        refusal = self._refusal(Headers(scope=scope), scope)
        if refusal is not None:
            await answer(refusal)(scope, receive, send_guarded)
            return
        bounded = receive if UPLOAD_PATHS.fullmatch(scope["path"]) else _bounded(receive)
        await self.app(scope, bounded, send_guarded)

    def _refusal(self, headers: Headers, scope: Scope) -> Problem | None:
        host = _name(f"//{headers.get('host', '')}")
        if host not in self.hosts:
            return _refused(421, f"This server does not answer to the name “{host[:100]}”.")
        origin = headers.get("origin")
        if origin is not None and not _is_own(origin, headers.get("host", ""), scope["scheme"]):
            return _refused(403, "Another site’s page asked for this; only Tick Stone’s own may.")
        length = headers.get("content-length", "0")
        takes_files = UPLOAD_PATHS.fullmatch(scope["path"])
        if not takes_files and length.isdigit() and int(length) > MOST_BODY_BYTES:
            return _refused(413, f"The request is larger than {MOST_BODY_BYTES} bytes.")
        return None


def _refused(status: int, detail: str) -> Problem:
    return Problem(title="Refused", status=status, detail=detail)


_WEB_SCHEMES = {"ws": "http", "wss": "https"}
_USUAL_PORTS = {"http": 80, "https": 443}


def _is_own(origin: str, host: str, scheme: str) -> bool:
    """Whether a page of this origin came from here: by the same scheme, name and port.

    Under a name given with --also-known-as a proxy may speak https for us.
    """
    try:
        theirs, ours = urlsplit(origin), urlsplit(f"//{host}")
        asked_by = _WEB_SCHEMES.get(scheme, scheme)
        is_proxied = theirs.scheme == "https" and ours.hostname not in LOOPBACK_NAMES
        if theirs.hostname is None or not (theirs.scheme == asked_by or is_proxied):
            return False
        usual = _USUAL_PORTS[theirs.scheme]
        return theirs.hostname == ours.hostname and (theirs.port or usual) == (ours.port or usual)
    except (ValueError, KeyError):
        return False


def _name(address: str) -> str:
    try:
        return urlsplit(address).hostname or ""
    except ValueError:
        return ""


def _bounded(receive: Receive) -> Receive:
    seen = 0

    async def receive_bounded() -> Message:
        nonlocal seen
        message = await receive()
        seen += len(message.get("body", b""))
        if seen > MOST_BODY_BYTES:
            raise ProblemError(
                413, "Refused", f"The request is larger than {MOST_BODY_BYTES} bytes."
            )
        return message

    return receive_bounded
