"""Files that are sent as a request's body: to disk as they come, never whole into memory."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path
from typing import Any

from fastapi import Request
from starlette.concurrency import run_in_threadpool

from tickstone.api.problems import ProblemError, disk_full
from tickstone.work.import_desk import MOST_UPLOAD_BYTES, ImportDesk

KEPT_FREE_BYTES = 64 * 1024 * 1024
_LOOK_EVERY_BYTES = 16 * 1024 * 1024

BODY_IS_A_FILE: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string"}}},
    }
}
"""For the description of an address that takes a file."""


async def received(request: Request, imports: ImportDesk) -> tuple[Path, str, int]:
    """Where the file lies, its SHA-256 and its size. Raises ProblemError when it is too large.

    It may take for ever to come: whoever asks for it holds no session meanwhile.
    """
    stated = request.headers.get("content-length", "0")
    if stated.isdigit() and int(stated) > MOST_UPLOAD_BYTES:
        raise _too_large()
    path = imports.new_path()
    digest, size = hashlib.sha256(), 0

    def keep(piece: bytes) -> None:
        digest.update(piece)
        file.write(piece)

    try:
        await run_in_threadpool(_check_room, path)
        with path.open("wb") as file:
            async for piece in request.stream():
                size += len(piece)
                if size > MOST_UPLOAD_BYTES:
                    raise _too_large()
                if size % _LOOK_EVERY_BYTES < len(piece):
                    await run_in_threadpool(_check_room, path)
                await run_in_threadpool(keep, piece)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path, digest.hexdigest(), size


def printable(name: str) -> str:
    """A file's name without what does not print."""
    return "".join(c for c in name if c.isprintable()).strip()


def _too_large() -> ProblemError:
    return ProblemError(
        413,
        "Too large",
        f"A file may hold {MOST_UPLOAD_BYTES // 1024**2} MiB. Split it and bring the parts in one "
        "by one.",
    )


def _check_room(path: Path) -> None:
    if shutil.disk_usage(path.parent).free < KEPT_FREE_BYTES:
        raise disk_full()
