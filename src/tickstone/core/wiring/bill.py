"""The bill of materials: what to lay out before starting."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from tickstone.core.display import prefixed
from tickstone.core.electric.colour_bands import bands_or_none
from tickstone.core.families.part import PartKind
from tickstone.core.reading_units import typed_length
from tickstone.core.wiring.bead import BeadKind
from tickstone.core.wiring.circuit import Circuit
from tickstone.core.wiring.netlist import Wiring
from tickstone.core.wiring.steps import wiring_steps

USUAL_W = 0.25
"""The body of a resistor nobody said one of."""


@dataclass(frozen=True, slots=True)
class BillLine:
    """One kind of thing. bands: colours of a resistor, if it is one. used_at: where it goes."""

    count: int
    what: str
    detail: str = ""
    bands: tuple[str, ...] = ()
    used_at: tuple[str, ...] = ()


def bill_of_materials(wiring: Wiring) -> tuple[BillLine, ...]:
    """Board, devices, resistors by value, capacitors by value, wires by colour."""
    circuit = Circuit(wiring)
    kinds = Counter((d.family.label, d.family.what) for d in wiring.devices if d.family.is_wired)
    lines = [BillLine(1, wiring.board.label, wiring.board.recognise)]
    lines += [
        BillLine(
            count,
            label,
            what,
            used_at=tuple(d.name for d in wiring.devices if d.family.label == label),
        )
        for (label, what), count in kinds.items()
    ]
    parts: dict[tuple[bool, float, float, float], list[str]] = {}
    for thread in circuit.threads:
        for bead in thread.beads:
            if bead.kind is BeadKind.PIN_PULL_UP:
                continue
            key = _same(bead.ohm, bead.farad, bead.tolerance, bead.power_w)
            parts.setdefault(key, []).append(thread.name)
    for one in wiring.parts:
        if one.kind in (PartKind.RESISTOR, PartKind.CAPACITOR):
            key = _same(one.ohm, one.farad, one.tolerance, one.power_w or USUAL_W)
            parts.setdefault(key, []).append(one.key)
    lines += [_part_line(key, parts[key]) for key in sorted(parts)]
    lines += [
        BillLine(1, one.words, f"{prefixed(one.volts.usual, 'V')}, a supply", used_at=(one.plus,))
        for one in wiring.supplies
    ]
    own = Counter(
        (one.kind.words, one.words if one.words != one.kind.words else "")
        for one in wiring.parts
        if one.kind not in (PartKind.WIRE, PartKind.RESISTOR, PartKind.CAPACITOR)
    )
    lines += [
        BillLine(
            count,
            f"{kind} {value}".strip(),
            used_at=tuple(
                part.key
                for part in wiring.parts
                if part.kind.words == kind and value in ("", part.words)
            ),
        )
        for (kind, value), count in own.items()
    ]
    colours = Counter(step.colour for step in wiring_steps(wiring) if step.colour)
    length = f"{typed_length(wiring.settings.wire_m)} each"
    lines += [BillLine(count, f"wire, {colour}", length) for colour, count in colours.most_common()]
    return tuple(lines)


def _same(
    ohm: float | None, farad: float | None, tolerance: float, power_w: float
) -> tuple[bool, float, float, float]:
    """What parts have to have in common to be one line."""
    value = ohm if farad is None else farad
    assert value is not None
    return (farad is not None, value, tolerance, power_w)


def _part_line(key: tuple[bool, float, float, float], used_at: list[str]) -> BillLine:
    is_capacitor, value, tolerance, power = key
    if is_capacitor:
        what = f"capacitor {prefixed(value, 'F')}"
        return BillLine(len(used_at), what, "ceramic", used_at=tuple(used_at))
    return BillLine(
        len(used_at),
        f"resistor {prefixed(value, 'Ω')}",
        f"± {100 * tolerance:g} %, {power:g} W",
        bands_or_none(value, tolerance),
        tuple(used_at),
    )
