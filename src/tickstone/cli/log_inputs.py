"""What the commands that read whole logs have in common: file, kind, inputs and settings."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from tickstone.core.chains import CHAINS
from tickstone.core.chains.kind import ChainKind
from tickstone.core.inputs import Input, inputs_of, with_inputs
from tickstone.formats.log_signals import LogSignals, RoleColumn, likely_columns, log_signals
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.header import ReadAs

FileArgument = Annotated[Path, typer.Argument(help="A recording in any format, or any log.")]
KindOption = Annotated[str, typer.Option(help=f"Kind of sensor: {', '.join(CHAINS)}.")]
InputOption = Annotated[
    list[str] | None,
    typer.Option(
        "--input",
        help="ROLE=COLUMN, for each input; a column by name or number, several with commas.",
    ),
]
SetOption = Annotated[
    list[str] | None,
    typer.Option("--set", help="NAME=VALUE, for each setting that is not as usual."),
]
RateOption = Annotated[
    float | None, typer.Option(help="Rows a second, for a log that holds no time.", min=1e-6)
]


def kind_named(name: str) -> ChainKind:
    """The kind of that name. Raises ValueError naming all."""
    if name not in CHAINS:
        said = f"there is no kind of sensor “{name[:40]}”; " if name else "no kind is given; "
        raise ValueError(f"{said}--kind is one of {', '.join(CHAINS)}")
    return CHAINS[name]


def pairs(given: list[str] | None, option: str) -> list[tuple[str, str]]:
    """NAME=VALUE as pairs. Raises ValueError for one that is none."""
    found = []
    for one in given or []:
        name, mark, value = one.partition("=")
        if not mark or not name or not value:
            raise ValueError(f"{option} {one}: has to be NAME=VALUE")
        found.append((name, value))
    return found


def settings_from(kind: type, given: list[tuple[str, str]]) -> Any:
    """Described inputs from texts. Raises ValueError naming the one that cannot be."""
    known = {one.name: one for one in inputs_of(kind)}
    values = {}
    for name, text in given:
        plain = name.replace("-", "_")
        if plain not in known:
            raise ValueError(f"there is no setting “{name[:40]}”; there are {', '.join(known)}")
        if plain in values:
            raise ValueError(f"the setting {name} is given twice")
        values[plain] = _value_of(known[plain], text)
    return with_inputs(kind, values)


def _value_of(one: Input, text: str) -> Any:
    if one.form in ("choice", "words"):
        return text
    if one.form == "switch":
        words = {"yes": True, "true": True, "1": True, "no": False, "false": False, "0": False}
        if text.lower() not in words:
            raise ValueError(f"{one.name}: “{text[:40]}” is neither yes nor no")
        return words[text.lower()]
    try:
        if one.form == "numbers":
            return [float(part) for part in text.replace(";", " ").replace(",", " ").split()]
        return float(text)
    except ValueError:
        raise ValueError(f"{one.name}: “{text[:40]}” is no number") from None


def signals_of(
    file: Path, kind: ChainKind, inputs: list[str] | None, rate_hz: float | None
) -> tuple[LogSignals, list[str]]:
    """What a file gives to a kind's chain, and what there is to say of the reading of it.

    Raises ValueError.
    """
    wanted = [
        RoleColumn(role, column)
        for role, columns in pairs(inputs, "--input")
        for column in columns.split(",")
    ]
    if not file.is_file():
        raise ValueError(
            f"{file} is no file that is there, and no kind; kinds are {', '.join(CHAINS)}"
        )
    reading = read_take_file(file, ReadAs(rate_hz=rate_hz))
    remarks = []
    if not wanted:
        wanted = likely_columns(reading, kind)
        if wanted:
            names = ", ".join(one.column for one in wanted)
            remarks.append(f"Taken for its inputs, as nothing was said: {names}.")
    found = log_signals(reading, kind, wanted)
    remarks += [*found.loses, *reading.notes]
    if reading.bad_rows:
        first = reading.bad[0] if reading.bad else None
        where = f"; the first is line {first.line}: {first.reason}" if first else ""
        remarks.append(f"{reading.bad_rows} rows were put aside{where}.")
    return found, remarks
