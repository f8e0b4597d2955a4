"""Runs a chain's code on the simulated chip, row by row, and times each step."""

from __future__ import annotations

import struct
import tempfile
from collections.abc import Sequence
from dataclasses import replace
from functools import cache
from pathlib import Path

from tickstone.core.emit.code import StateOf
from tickstone.core.emit.routine import Entry, Routine, Told
from tickstone.core.emit.terms import Kind, Name
from tickstone.core.quantity import NUMBER
from tickstone.proof.eight_bit.chip import Built, build, run
from tickstone.proof.stepped import Row, Stepped
from tickstone.targets import TARGETS
from tickstone.targets.writing import CppWriter

BAUD = 1_000_000
CYCLES_A_TICK = 8
MOST_ROWS = 400
"""As many as the chip's program memory takes beside the code."""
MOST_BYTES = 14_000


def most_rows(routine: Routine) -> int:
    """How many rows of what goes into it the chip has room for beside the code."""
    taken = sum(len(entry.parameters) for entry in routine.entries)
    return MOST_BYTES // (4 * (1 + taken))


def step_on_chip(routine: Routine, rows: Sequence[Row], folder: Path) -> Stepped:
    """Every row through the code, compiled for the chip.

    Raises DoesNotCompileError, RuntimeError when the chip crashes or does not come to an end, and
    ValueError for more rows than it has room for.
    """
    taken = [one for entry in routine.entries for one in entry.parameters]
    if len(rows) > most_rows(routine):
        raise ValueError(f"{len(rows)} rows of {len(taken)} values are more than the chip holds")
    (folder / "sums.h").write_text(TARGETS["cpp"].sums("proof", [routine]).text, encoding="utf-8")
    built = build(_program(routine, rows, taken), folder)
    ran = run(built, [f"run {200_000 + 12_000 * len(rows)}"])
    if not ran.lines or ran.lines[-1] != "end":
        raise RuntimeError("the simulated chip did not come to the end of the rows")
    kept = {one.name: one.kind for one in routine.states}
    kinds = [kept[name] for one in routine.told for name in one.values]
    lanes = len(kinds)
    values, statuses, cycles = [], [], []
    for line in ran.lines[:-1]:
        ticks, *told = line.split()
        cycles.append(int(ticks) * CYCLES_A_TICK)
        values.append(
            tuple(
                _single(text) if kind is Kind.REAL else _signed(text)
                for text, kind in zip(told[:lanes], kinds, strict=True)
            )
        )
        statuses.append(tuple(int(text) for text in told[lanes:]))
    rest = _bare()
    given = len(rows) * 4 * (1 + len(taken))
    return Stepped(
        tuple(values),
        tuple(statuses),
        tuple(cycles),
        built.flash_bytes - given - rest.flash_bytes,
        built.ram_bytes - rest.ram_bytes,
    )


@cache
def _bare() -> Built:
    """The same program around a routine that does nothing."""
    entry = Entry("x", ("x",), NUMBER)
    told = Told("x", NUMBER, ("y",), ("y_status",))
    kept = (StateOf("y", Kind.REAL, 0.0), StateOf("y_status", Kind.STATUS, 0.0))
    routine = Routine("bare", (entry,), kept, (), (), (), (told,), frozenset())
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sums = TARGETS["cpp"].sums("proof", [routine]).text
        (folder / "sums.h").write_text(sums, encoding="utf-8")
        built = build(_program(routine, [Row(0, {"x": 0.0})], entry.parameters), folder)
        return replace(built, flash_bytes=built.flash_bytes - 8)


def _signed(bits: str) -> float:
    number = int(bits)
    return float(number - 2**32 if number >= 2**31 else number)


def _single(bits: str) -> float:
    return float(struct.unpack("<f", struct.pack("<I", int(bits)))[0])


_READS = {
    Kind.REAL: "float_at", Kind.STATUS: "pgm_read_dword", Kind.WHOLE: "(int32_t)pgm_read_dword",
}  # fmt: skip


def _given(kind: Kind, value: float) -> str:
    return _bits(value) if kind is Kind.REAL else f"{int(value) % 2**32}UL"


def _bits(value: float) -> str:
    return f"0x{struct.unpack('<I', struct.pack('<f', value))[0]:08x}UL"


def _program(routine: Routine, rows: Sequence[Row], taken: Sequence[Name]) -> str:
    """Reads its rows from program memory, and prints what each step told as bits."""
    given = ",\n".join(
        ", ".join(_given(one.kind, row.given[one.text]) for one in taken) for row in rows
    )
    times = ", ".join(f"{row.now_us % 2**32}UL" for row in rows)
    told = [name for one in routine.told for name in one.values]
    flags = [name for one in routine.told for name in one.statuses]
    arguments = "".join(
        f", {_READS[one.kind]}(&GIVEN[{len(taken)} * n + {k}])" for k, one in enumerate(taken)
    )
    kinds = {one.name: one.kind for one in routine.states}
    prints = "".join(
        f"  print_bits(it.{name});\n"
        if kinds[name] is Kind.REAL
        else f"  Serial.print(' ');\n  Serial.print(static_cast<uint32_t>(it.{name}));\n"
        for name in told
    )
    prints += "".join(f"  Serial.print(' ');\n  Serial.print(it.{name});\n" for name in flags)
    return f"""#include "sums.h"
static const uint32_t GIVEN[] PROGMEM = {{{given}}};
static const uint32_t TIMES[] PROGMEM = {{{times}}};
static {CppWriter(routine).structure} it;

static float __attribute__((unused)) float_at(const uint32_t *at) {{
  const uint32_t bits = pgm_read_dword(at);
  float value;
  __builtin_memcpy(&value, &bits, 4);
  return value;
}}
static void __attribute__((unused)) print_bits(float value) {{
  uint32_t bits;
  __builtin_memcpy(&bits, &value, 4);
  Serial.print(' ');
  Serial.print(bits);
}}
void setup() {{
  Serial.begin({BAUD});
  TCCR1A = 0;
  TCCR1B = _BV(CS11);
}}
void loop() {{
  static uint16_t n = 0;
  if (n == {len(rows)}) {{
    Serial.println(F("end"));
    n++;
  }}
  if (n > {len(rows)}) return;
  const uint32_t now_us = pgm_read_dword(&TIMES[n]);
  Serial.flush();
  noInterrupts();
  TCNT1 = 0;
  it.step(now_us{arguments});
  const uint16_t ticks = TCNT1;
  interrupts();
  Serial.print(ticks);
{prints}  Serial.println();
  n++;
}}
"""
