"""Zip files from strangers: looked at before they are unpacked, and never onto the disk."""

from __future__ import annotations

import re
import zipfile
import zlib
from pathlib import Path

MOST_ENTRIES = 2_000
MOST_UNPACKED_BYTES = 8 * 1024**3
MOST_RATIO = 500
_SMALL = 64 * 1024 * 1024
_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9 _.\-]*(?:/[A-Za-z0-9][A-Za-z0-9 _.\-]*)*")


class UnsafeZipError(ValueError):
    """A zip that will not be opened. The message says why."""


def open_zip(path: Path) -> zipfile.ZipFile:
    """A zip file whose entries are few, plainly named and do not unpack to very much more.

    Raises UnsafeZipError.
    """
    try:
        archive = zipfile.ZipFile(path)
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise UnsafeZipError(f"The file is no zip, or a damaged one: {error}.") from error
    entries = archive.infolist()
    if len(entries) > MOST_ENTRIES:
        raise UnsafeZipError(
            f"The zip holds {len(entries)} files; at most {MOST_ENTRIES} are read."
        )
    total = sum(entry.file_size for entry in entries)
    packed = max(1, path.stat().st_size)
    if total > MOST_UNPACKED_BYTES or (total > _SMALL and total / packed > MOST_RATIO):
        raise UnsafeZipError(
            f"The zip says it unpacks from {packed} to {total} bytes. It is not opened."
        )
    names = [entry.filename for entry in entries]
    for name in names:
        if not _NAME.fullmatch(name.rstrip("/")) or ".." in name:
            raise UnsafeZipError(f"The zip holds a file with the name “{name[:80]}”. Not opened.")
    if len(set(names)) != len(names):
        raise UnsafeZipError("The zip holds two files of the same name. It is not opened.")
    return archive


def read_entry(archive: zipfile.ZipFile, name: str, most_bytes: int) -> bytes:
    """One file of a zip, whole. Raises UnsafeZipError when it is absent, damaged or too large."""
    try:
        with archive.open(name) as entry:
            data = entry.read(most_bytes + 1)
    except KeyError as error:
        raise UnsafeZipError(f"The zip holds no {name}.") from error
    except (zipfile.BadZipFile, zlib.error, OSError, RuntimeError, NotImplementedError) as error:
        raise UnsafeZipError(f"{name} in the zip is damaged: {error}.") from error
    if len(data) > most_bytes:
        raise UnsafeZipError(f"{name} in the zip is larger than {most_bytes} bytes.")
    return data


def copy_entry(archive: zipfile.ZipFile, name: str, to: Path) -> None:
    """One file of a zip into a file whose name is ours. Raises UnsafeZipError."""
    left = MOST_UNPACKED_BYTES
    try:
        with archive.open(name) as entry, to.open("wb") as out:
            while piece := entry.read(1024 * 1024):
                left -= len(piece)
                if left < 0:
                    raise UnsafeZipError(f"{name} in the zip unpacks to more than it may.")
                out.write(piece)
    except KeyError as error:
        raise UnsafeZipError(f"The zip holds no {name}.") from error
    except (zipfile.BadZipFile, zlib.error, RuntimeError, NotImplementedError) as error:
        raise UnsafeZipError(f"{name} in the zip is damaged: {error}.") from error
