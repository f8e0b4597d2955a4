"""Files that are sent as a request's body: to disk as they come, never whole into memory."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path
from typing import Any

from fastapi import Request

from tickstone.api.problems import ProblemError
from tickstone.work.importing import MOST_UPLOAD_BYTES, ImportDesk

KEPT_FREE_BYTES = 512 * 1024 * 1024

BODY_IS_A_FILE: dict[str, Any] = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string"}}},
    }
}
"""For the description of an address that takes a file."""


async def received(request: Request, imports: ImportDesk) -> tuple[Path, str, int]:
    """Where the file lies, its SHA-256 and its size. Raises ProblemError when it is too large."""
    stated = request.headers.get("content-length", "0")
    if stated.isdigit() and int(stated) > MOST_UPLOAD_BYTES:
        raise _too_large()
    path = imports.new_path()
    digest, size = hashlib.sha256(), 0
    try:
        with path.open("wb") as file:
            async for piece in request.stream():
                size += len(piece)
                if size > MOST_UPLOAD_BYTES:
                    raise _too_large()
                if size % (64 * 1024 * 1024) < len(piece):
                    _check_room(path)
                digest.update(piece)
                file.write(piece)
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
        raise ProblemError(
            507, "The disk is full", "There is no room left for this file. Make some and try again."
        )
