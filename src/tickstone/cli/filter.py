"""``tickstone filter FILE``: filters side by side on a column of a log."""

from __future__ import annotations

import json
from typing import Annotated, Any

import numpy as np
import typer

from tickstone.cli.log_inputs import FileArgument, RateOption
from tickstone.core.blocks import joined
from tickstone.core.display import finite, grouped
from tickstone.core.filters import FILTERS, stage_from_words
from tickstone.core.filters.comparing import Asked, Compared, Known, compare
from tickstone.core.filters.noise_model import innovations, suggest
from tickstone.core.signal import Signal
from tickstone.core.stages.value_kalman import ValueKalman
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.cells import values_of
from tickstone.formats.takes.header import ReadAs, TakeReading


def filter_file(
    file: FileArgument,
    column: Annotated[str, typer.Option(help="The column, by name or number.")] = "",
    given: Annotated[
        list[str] | None,
        typer.Option("--with", help=f"NAME:SETTING=VALUE,…; several. Names: {', '.join(FILTERS)}."),
    ] = None,
    hindsight: Annotated[
        list[str] | None,
        typer.Option("--hindsight", help="The same, run there and back: not in the rig."),
    ] = None,
    speed: Annotated[
        float, typer.Option(help="Of the rig, m/s: what a delay costs.", min=0.0)
    ] = 0.0,
    rate_hz: RateOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Compare filters on a column: noise left, rise, delay, overshoot, spikes, and what they cost.

    For example: tickstone filter run.csv --column front --with kalman:q=1e-3,r=4e-2 --with
    median:n=5
    """
    try:
        if not file.is_file():
            raise ValueError(f"{file} is no file that is there")
        reading = read_take_file(file, ReadAs(rate_hz=rate_hz))
        signal, unit = _column(reading, column, rate_hz)
        filters = [_asked(words) for words in given or []]
        filters += [_asked(words, is_hindsight=True) for words in hindsight or []]
        known, rows = compare(signal, filters, speed)
        document = _as_json(known, rows, unit)
        document["suggested"] = _suggested(signal, known)
        document["innovations"] = {
            one.words: _checked(signal, one.stage)
            for one in filters
            if isinstance(one.stage, ValueKalman) and not one.is_hindsight
        }
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    typer.echo(json.dumps(document, ensure_ascii=False) if as_json else _as_text(document, unit))


def _asked(words: str, is_hindsight: bool = False) -> Asked:
    stage = stage_from_words(words)
    if stage is None:
        raise ValueError(
            f"{'--hindsight' if is_hindsight else '--with'}: is empty; say which filter"
        )
    return Asked(words, stage, is_hindsight)


def _column(reading: TakeReading, column: str, rate_hz: float | None) -> tuple[Signal, str]:
    channels = reading.header.channels
    names = [channel.name for channel in channels]
    if not column and len(names) == 1:
        column = names[0]
    place = names.index(column) if column in names else -1
    if place < 0 and column.isdigit() and 1 <= int(column) <= len(names):
        place = int(column) - 1
    if place < 0:
        said = f"there is no column “{column[:60]}”" if column else "no --column is given"
        raise ValueError(f"{said}; there are {', '.join(names)}")
    if reading.asks_rate and rate_hz is None:
        raise ValueError("it holds no time; say how many rows there are a second, with --rate-hz")
    blocks = list(reading.blocks)
    if not blocks:
        raise ValueError("no row of it could be read")
    whole = joined(blocks)
    values, status = values_of(whole, place), whole.status[place]
    time_s = (whole.time_us - whole.time_us[0]) / 1e6
    flags = np.zeros(len(values), np.uint8) if status is None else status
    return Signal.of(time_s, values, status=flags), channels[place].unit


def _as_json(known: Known, rows: list[Compared], unit: str) -> dict[str, Any]:
    return {
        "unit": unit,
        "known": {
            "noise": known.noise,
            "still_s": [list(one) for one in known.stretches_s],
            "span": known.span,
            "spikes": len(known.spikes),
            "gap_s": known.gap_s,
        },
        "filters": [
            {
                "filter": one.words,
                "in_rig": not one.is_hindsight,
                "noise": finite(one.noise),
                "noise_share": finite(one.noise / known.noise) if known.noise else None,
                "rise_s": finite(one.rise_s),
                "delay_s": finite(one.delay_s),
                "overshoot": finite(one.overshoot),
                "spike": finite(one.spike),
                "spikes_passed": one.spikes,
                "costs_m": finite(one.costs_m),
            }
            for one in rows
        ],
    }


def _suggested(signal: Signal, known: Known) -> dict[str, float]:
    found = suggest(signal, known)
    return {
        "r": found.r, "q_fast": found.q_fast, "fastest_per_s": found.fastest,
        "q_likely": found.q_likely, "r_likely": found.r_likely, "exponential": found.share,
    }  # fmt: skip


def _checked(signal: Signal, kalman: ValueKalman) -> dict[str, Any]:
    found = innovations(signal, kalman)
    return {
        "ratio": finite(found.ratio), "echo": finite(found.echo), "is_fine": found.is_fine,
        "says": found.says, "steady_gain": kalman.gain,
    }  # fmt: skip


def _as_text(document: dict[str, Any], unit: str) -> str:
    known, told = document["known"], document["suggested"]
    where = "held still" if known["still_s"] else "from one reading to the next"
    lines = [
        f"noise {known['noise']:.4g} {unit} {where}; {known['spikes']} spikes; a reading every "
        f"{1000.0 * known['gap_s']:.0f} ms",
        "",
        f"{'filter':<28} {'noise':>10} {'rise':>9} {'delay':>9} {'over':>6} {'spike':>6} "
        f"{'costs':>9}",
    ]
    for row in document["filters"]:
        beside = "" if row["in_rig"] else " (not in the rig)"
        lines.append(
            f"{row['filter'] + beside:<28} {row['noise']:>10.4g} {_ms(row['rise_s']):>9} "
            f"{_ms(row['delay_s']):>9} {_percent(row['overshoot']):>6} "
            f"{_percent(row['spike']):>6} {grouped(1000.0 * (row['costs_m'] or 0.0), 0) + ' mm':>9}"
        )
    lines += [
        "",
        f"R by what was held still: {told['r']:.3g}; Q to follow the fastest change: "
        f"{told['q_fast']:.3g}",
        f"likeliest: Q {told['q_likely']:.3g}, R {told['r_likely']:.3g}, an exponential filter of "
        f"{told['exponential']:.3f}",
    ]
    lines += [f"{words}: {one['says']}" for words, one in document["innovations"].items()]
    return "\n".join(lines)


def _ms(seconds: float | None) -> str:
    return "—" if seconds is None else f"{1000.0 * seconds:.0f} ms"


def _percent(share: float | None) -> str:
    return "—" if share is None else f"{100.0 * share:.0f} %"
