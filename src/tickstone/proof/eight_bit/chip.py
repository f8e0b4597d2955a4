"""Compiles a program for the common 8-bit chip and runs it on the simulated one."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from importlib import resources
from pathlib import Path

_FLASH_ENDS, _RAM_ENDS = 0x7FFF, 0x8FF
"""What tells the chip of the common small boards from others the simulator knows (from memory)."""
CLOCK_HZ = 16_000_000
FLASH_BYTES, RAM_BYTES = 32_256, 2_048
"""Of that chip, less what its loader takes (from memory)."""
_FLAGS = (
    f"-DF_CPU={CLOCK_HZ}UL", "-std=gnu++11", "-Os", "-Wall", "-Wextra", "-Werror",
    "-ffunction-sections", "-fdata-sections", "-fno-exceptions", "-fno-threadsafe-statics",
    "-flto", "-fno-fat-lto-objects", "-Wl,--gc-sections",
)  # fmt: skip
_TOO_LARGE = ("overflowed by", "will not fit in region", "is too large")
"""What the compiler and its linker say of a program that has no room."""
_NEEDED = {
    "avr-g++": "a cross compiler for 8-bit boards (Debian: gcc-avr and avr-libc)",
    "avr-size": "its tools (Debian: binutils-avr)",
    "cc": "a C compiler (Debian: gcc and libc6-dev)",
}
_SIMULATOR = Path("/usr/include/simavr/sim_avr.h")
COMPILES_WITHIN_S, RUNS_WITHIN_S = 120.0, 300.0


@dataclass(frozen=True, slots=True)
class Built:
    """A compiled program. flash_bytes: of the chip's program memory. ram_bytes: taken from the
    start; the stack comes on top.
    """

    elf: Path
    flash_bytes: int
    ram_bytes: int


@dataclass(frozen=True, slots=True)
class Ran:
    """What a program did. written: registers of units, as (address, register, value)."""

    lines: tuple[str, ...]
    cycles: int
    stack_bytes: int
    written: tuple[tuple[int, int, int], ...]


class DoesNotCompileError(ValueError):
    """A program that the compiler refuses, with what it says."""


class DoesNotFitError(DoesNotCompileError):
    """A program that is more than the chip's memories hold."""


def missing() -> tuple[str, ...]:
    """What this machine lacks for the proof; nothing when it can be run."""
    lacking = [what for name, what in _NEEDED.items() if shutil.which(name) is None]
    if not _SIMULATOR.exists():
        lacking.append("a simulator of the chip (Debian: libsimavr-dev and libelf-dev)")
    return tuple(lacking)


def build(text: str, folder: Path) -> Built:
    """Compile a program. Raises DoesNotCompileError, also for a mere warning."""
    source, elf, core = folder / "program.ino", folder / "program.elf", _core()
    source.write_text(text, encoding="utf-8")
    with resources.as_file(resources.files(__package__)) as here:
        done = subprocess.run(
            [
                *_compiler(), f"-I{here}", f"-I{folder}", "-include", "core.h", "-x", "c++",
                str(source), "-x", "none", str(core), "-o", str(elf),
            ],
            capture_output=True, text=True, check=False, timeout=COMPILES_WITHIN_S,
        )  # fmt: skip
    if done.returncode != 0:
        said = done.stderr.replace(str(source), "program")
        if any(one in said for one in _TOO_LARGE):
            raise DoesNotFitError("the program is more than the chip's memories hold")
        raise DoesNotCompileError(f"the program does not compile:\n{said[:4_000]}")
    sizes = subprocess.run(
        ["avr-size", str(elf)], capture_output=True, text=True, check=True, timeout=30.0
    )
    code, data, zeroed = (int(one) for one in sizes.stdout.splitlines()[1].split()[:3])
    return Built(elf, code + data, data + zeroed)


def run(built: Built, script: Sequence[str]) -> Ran:
    """Run a compiled program on the bench. script: see bench.c; it needs a line ``run US``.

    Raises RuntimeError when the chip crashes or the script cannot be.
    """
    printed = built.elf.with_suffix(".txt")
    done = subprocess.run(
        [str(_bench()), _chip(), str(built.elf), str(printed)],
        input="\n".join(script) + "\n",
        capture_output=True,
        text=True,
        check=False,
        timeout=RUNS_WITHIN_S,
    )
    if done.returncode != 0:
        raise RuntimeError(f"the simulated chip ended with {done.returncode}: {done.stderr[-500:]}")
    numbers = {word: int(n) for word, n in re.findall(r"^(cycles|stack) (\d+)$", done.stderr, re.M)}
    written = re.findall(r"^written (\d+) (\d+) (\d+)$", done.stderr, re.M)
    return Ran(
        tuple(printed.read_text(encoding="ascii", errors="replace").splitlines()),
        numbers["cycles"],
        numbers["stack"],
        tuple((int(a), int(r), int(v)) for a, r, v in written),
    )


def _workshop() -> Path:
    """Where this person keeps what is compiled once."""
    folder = Path(tempfile.gettempdir()) / f"tickstone-bench-{os.getuid()}"
    folder.mkdir(mode=0o700, exist_ok=True)
    if folder.stat().st_uid != os.getuid():
        raise RuntimeError(f"{folder} is somebody else’s; take it away and try again")
    return folder


def _made_once(source: bytes, suffix: str, command: Callable[[Path], list[str]]) -> Path:
    """What a command makes of a source, made anew only when the source has changed."""
    made = _workshop() / f"{hashlib.sha256(source).hexdigest()[:16]}{suffix}"
    if not made.exists():
        fresh = made.with_name(f"{os.getpid()}-{made.name}")
        subprocess.run(
            command(fresh), input=source, check=True, capture_output=True,
            timeout=COMPILES_WITHIN_S,
        )  # fmt: skip
        fresh.replace(made)
    return made


@cache
def _bench() -> Path:
    source = resources.files(__package__).joinpath("bench.c").read_bytes()
    return _made_once(
        source, "", lambda made: ["cc", "-O2", "-x", "c", "-", "-o", str(made), "-lsimavr"]
    )


@cache
def _chip() -> str:
    """The compiler's and the simulator's own word for the chip of the common small boards."""
    done = subprocess.run(
        [str(_bench()), "find", hex(_FLASH_ENDS), hex(_RAM_ENDS)],
        capture_output=True, text=True, check=True, timeout=30.0,
    )  # fmt: skip
    return done.stdout.strip()


def _compiler() -> list[str]:
    return ["avr-g++", f"-mmcu={_chip()}", *_FLAGS]


@cache
def _core() -> Path:
    with resources.as_file(resources.files(__package__)) as here:
        source = b"".join((here / name).read_bytes() for name in ("core.h", "Wire.h", "core.cpp"))
        return _made_once(
            source,
            ".o",
            lambda made: [
                *_compiler(), f"-I{here}", "-c", str(here / "core.cpp"), "-o", str(made),
            ],
        )  # fmt: skip
