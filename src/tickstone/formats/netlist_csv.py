"""The netlist as CSV: one row for each wire, its parts in one cell."""

from __future__ import annotations

import shlex
from collections import Counter

from tickstone.core.part_benches.values import part_value, short_value
from tickstone.core.wiring.bead import Bead, BeadKind
from tickstone.core.wiring.netlist import MOST_BEADS, Connection, Wiring
from tickstone.formats.safe_csv import read_table, written

HEADER = ("device", "lead", "to", "parts", "colour", "fixed")
MOST_ROWS = 5_000


def netlist_csv(wiring: Wiring) -> str:
    """Every connection, by the devices' names."""
    names = {device.key: device.name for device in wiring.devices}
    return written(
        HEADER,
        (
            (
                names[one.device],
                one.lead,
                one.to,
                "; ".join(bead_text(bead) for bead in one.beads),
                one.colour,
                "yes" if one.is_fixed else "",
            )
            for one in wiring.connections
        ),
    )


def read_netlist_csv(text: str, wiring: Wiring) -> tuple[Connection, ...]:
    """The connections of a file, for the devices of a rig, by their names or keys.

    Raises ValueError naming the line and what does not do.
    """
    named = Counter(device.name for device in wiring.devices)
    keys = {device.key: device.key for device in wiring.devices}
    keys |= {device.name: device.key for device in wiring.devices if named[device.name] == 1}
    connections = []
    for row in read_table(text, HEADER[:3], MOST_ROWS):
        where = f"line {row['line']}"
        if named[row["device"]] > 1:
            raise ValueError(f"{where}: two devices are called “{row['device']}”; name them apart")
        if row["device"] not in keys:
            raise ValueError(f"{where}: there is no device “{row['device'][:60]}” on this rig")
        try:
            beads = read_beads(row.get("parts", ""))
        except ValueError as error:
            raise ValueError(f"{where}: parts: {error}") from error
        connections.append(
            Connection(
                keys[row["device"]],
                row["lead"],
                row["to"],
                beads,
                row.get("colour", ""),
                row.get("fixed", "").lower() in ("yes", "true", "1"),
            )
        )
    return tuple(connections)


def bead_text(bead: Bead) -> str:
    """A part in a few words that read back.

    >>> bead_text(Bead(BeadKind.PULL_UP, ohm=10_000.0, rail="3V3"))
    'pull_up 10k to 3V3'
    >>> bead_text(Bead(BeadKind.PULL_UP, ohm=10_000.0, rail="AUX; left"))
    "pull_up 10k to 'AUX; left'"
    """
    if bead.kind is BeadKind.PIN_PULL_UP:
        return bead.kind.value
    value = bead.ohm if bead.farad is None else bead.farad
    assert value is not None
    text = f"{bead.kind.value} {short_value(value)}"
    if bead.rail:
        text += f" to {shlex.quote(bead.rail)}"
    usual = 0.2 if bead.farad is not None else 0.05
    if bead.tolerance != usual:
        text += f" {100 * bead.tolerance:g}%"
    if bead.power_w != 0.25:
        text += f" {bead.power_w:g}W"
    return text


def read_beads(text: str) -> tuple[Bead, ...]:
    """The parts of a wire, with semicolons between. Raises ValueError when they say none.

    >>> [bead.words for bead in read_beads("series 1.8k; pull_up 10k to 'AUX 5 V'")]
    ['1.8 kΩ in the wire', '10 kΩ up to AUX 5 V']
    """
    lexer = shlex.shlex(text, posix=True, punctuation_chars=";")
    lexer.whitespace_split, lexer.commenters = True, ""
    parts: list[list[str]] = [[]]
    try:
        for word in lexer:
            if set(word) == {";"}:
                parts.append([])
            else:
                parts[-1].append(word)
    except ValueError as error:
        raise ValueError(f"“{text.strip()[:40]}” has a quote that is not closed") from error
    said = [words for words in parts if words]
    if len(said) > MOST_BEADS:
        raise ValueError(f"{len(said)} parts on one wire; {MOST_BEADS} at most")
    return tuple(_bead(words) for words in said)


def _bead(words: list[str]) -> Bead:
    known = [kind.value for kind in BeadKind]
    text = " ".join(words)[:40]
    if words[0] not in known:
        raise ValueError(f"“{text}” is no part; {', '.join(known)} and a value")
    kind = BeadKind(words[0])
    if kind is BeadKind.PIN_PULL_UP:
        return Bead(kind)
    if len(words) < 2:
        raise ValueError(f"“{text}” needs a value")
    value = part_value(words[1])
    tolerance, power, rail = 0.2 if kind is BeadKind.CAPACITOR else 0.05, 0.25, ""
    rest = words[2:]
    while rest:
        word = rest.pop(0)
        if word == "to" and rest:
            rail = rest.pop(0)
        elif word.endswith("%"):
            tolerance = _number(word[:-1]) / 100.0
        elif word.endswith("W"):
            power = _number(word[:-1])
        else:
            raise ValueError(f"“{word[:40]}” does not belong to a part")
    if kind is BeadKind.CAPACITOR:
        return Bead(kind, farad=value, tolerance=tolerance, power_w=power)
    return Bead(kind, ohm=value, rail=rail, tolerance=tolerance, power_w=power)


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError as error:
        raise ValueError(f"“{text[:40]}” is no number") from error
