"""``tickstone replay FILE --rules rules.json``: rules over a log, and what becomes of them."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Annotated, Any

import typer

from tickstone.cli.calibrate import spans_within
from tickstone.cli.log_inputs import FileArgument, RateOption, kind_named, pairs, settings_from
from tickstone.core.chains import CHAINS
from tickstone.core.display import finite
from tickstone.core.machines.checking import check_machine
from tickstone.core.machines.feeding import scale_of, with_outputs
from tickstone.core.machines.machine import Machine, MachineInput
from tickstone.core.machines.measures import (
    RESTLESS_S,
    Confusion,
    Held,
    Rate,
    Stay,
    Truth,
    confusion,
    reaction_said,
    stays,
)
from tickstone.core.machines.running import Runner, Visits, cause_said
from tickstone.core.readings.reading import ASSUMED_AIR
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings
from tickstone.formats.log_signals import RoleColumn, column_signals, log_signals
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.header import ReadAs

MOST_RULES_BYTES = 1_000_000
MOST_VISITS_TOLD = 2_000


def replay(
    file: FileArgument,
    rules: Annotated[Path, typer.Option(help="The rules, as a JSON file; see docs/formats.md.")],
    truth: Annotated[
        list[str] | None,
        typer.Option(help="STATE=FROM:TO, s of the log: what would have been right then."),
    ] = None,
    restless_s: Annotated[
        float, typer.Option(help="A shorter visit that leads back is chatter.", min=0.0)
    ] = RESTLESS_S,
    rate_hz: RateOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Run rules over a log: states, counts, dwell, chatter, and how often they were wrong.

    For example: tickstone replay run.csv --rules rules.json --truth stopped=4:9 --json
    """
    try:
        machine = rules_from(rules)
        signals, marked = _heard(file, machine, rate_hz)
        runner = Runner(machine)
        visits = runner.replay(signals, start_s=0.0)  # times are from its first row
        truths = [Truth(*one) for one in spans_within(truth or [], "--truth")] or marked
        held = None
        if truths:
            sampled = max(runner.heard(signals).values(), key=len)
            held = confusion(machine, visits, truths, sampled.time_s)
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    told = stays(machine, visits, restless_s)
    if as_json:
        document = _as_json(machine, visits, told, held)
        typer.echo(json.dumps(document, ensure_ascii=False))
    else:
        typer.echo(_as_text(machine, told, held))


def rules_from(path: Path) -> Machine:
    """The machine of a rules file. Raises ValueError that names the place in it."""
    if not path.is_file():
        raise ValueError(f"--rules {path}: there is no such file")
    if path.stat().st_size > MOST_RULES_BYTES:
        raise ValueError(f"--rules {path}: larger than any rules are")
    try:
        document = json.loads(path.read_text(encoding="utf-8"))
    except (UnicodeDecodeError, RecursionError) as error:
        raise ValueError(f"{path.name}: it is no JSON text") from error
    except json.JSONDecodeError as error:
        raise ValueError(f"{path.name}, line {error.lineno}: {error.msg}") from error
    try:
        return Machine.of(with_outputs(document, CHAINS))
    except ValueError as error:
        raise ValueError(f"{path.name}: {error}") from error


def _heard(
    file: Path, machine: Machine, rate_hz: float | None
) -> tuple[dict[str, Signal], list[Truth]]:
    """What each input hears in a log, and what is marked in it as one of the states."""
    if not file.is_file():
        raise ValueError(f"{file} is no file that is there")
    own = [one for one in machine.inputs if not one.together]
    found = {one.name: _through_chain(file, one, rate_hz) for one in own if one.kind}
    plain = [one for one in own if not one.kind]
    reading = read_take_file(file, ReadAs(rate_hz=rate_hz))
    marks = reading.header.marks
    truths = [
        Truth(mark["name"], float(mark["start_s"]), float(mark["end_s"]))
        for mark in marks
        if mark.get("name") in machine.numbers and mark.get("end_s", 0.0) > mark.get("start_s", 0.0)
    ]
    if plain:
        for one in plain:
            if len(one.columns) > 1:
                raise ValueError(f"{one.name}: several columns want a kind of sensor")
        columns = [one.columns[0] if one.columns else one.name for one in plain]
        for one, (signal, unit) in zip(plain, column_signals(reading, columns), strict=True):
            found[one.name] = signal.replaced(signal.values * scale_of(one, unit))
    return found, truths


def _through_chain(file: Path, one: MachineInput, rate_hz: float | None) -> Signal:
    """An input that is an output of a kind of sensor, fed by columns."""
    kind = kind_named(one.kind)
    reading = read_take_file(file, ReadAs(rate_hz=rate_hz))
    if not one.columns:
        raise ValueError(f"{one.name}: name the columns that are its {kind.name}")
    wanted = [
        RoleColumn(*(column.split("=", 1) if "=" in column else (kind.roles[0].name, column)))
        for column in one.columns
    ]
    try:
        parameters = settings_from(kind.parameters, pairs(list(one.settings), "settings"))
        given = log_signals(reading, kind, wanted)
        chain = kind.build(parameters, Surroundings(ASSUMED_AIR), {}, given.forms, given.lanes)
        return chain.apply(given.signals, one.output)
    except KeyError as error:
        raise ValueError(
            f"{one.name}: {kind.name} tells no {one.output} of these columns"
        ) from error
    except ValueError as error:
        raise ValueError(f"{one.name}: {error}") from error


def _as_json(
    machine: Machine, visits: Visits, told: tuple[Stay, ...], held: Confusion | None
) -> dict[str, Any]:
    names = [one.name for one in machine.states]
    shown = min(len(visits), MOST_VISITS_TOLD)
    return {
        "rules": machine.name,
        "from_s": float(visits.from_s[0]),
        "to_s": float(visits.to_s[-1]),
        "states": names,
        "counts": {one.state: one.visits for one in told},
        "dwell": {
            one.state: {
                "total_s": one.total_s,
                "share": one.share,
                "mean_s": finite(one.mean_s),
                "min_s": finite(one.shortest_s),
                "max_s": finite(one.longest_s),
            }
            for one in told
        },
        "chatter": {one.state: one.chatter for one in told},
        "transitions": len(visits) - 1,
        "visits": [
            {
                "state": names[visits.state[n]],
                "from_s": float(visits.from_s[n]),
                "to_s": float(visits.to_s[n]),
                "why": cause_said(machine, int(visits.cause[n])),
            }
            for n in range(shown)
        ],
        "visits_left_out": len(visits) - shown,
        "confusion": None if held is None else _confusion_as_json(held),
        "findings": [
            {"severity": one.severity, "title": one.title, "why": one.why, "remedy": one.remedy}
            for one in check_machine(machine)
        ],
    }


def _confusion_as_json(held: Confusion) -> dict[str, Any]:
    return {
        "states": list(held.states),
        "samples": [list(row) for row in held.samples],
        "seconds": [list(row) for row in held.seconds],
        "right": _rate(held.right),
        "of": {one.state: _held_as_json(one) for one in held.held},
        "worst": [
            {"from_s": one.from_s, "to_s": one.to_s, "true": one.true, "told": one.told}
            for one in held.worst
        ],
    }


def _held_as_json(one: Held) -> dict[str, Any]:
    return {
        "precision": _rate(one.precision),
        "recall": _rate(one.recall),
        "precision_visits": _rate(one.precision_visits),
        "recall_stretches": _rate(one.recall_stretches),
        "react": {name: finite(value) for name, value in reaction_said(one).items()},
        "missed_at_s": list(one.missed),
    }


def _rate(one: Rate) -> dict[str, Any]:
    low, high = one.interval
    return {
        "value": finite(one.value),
        "low": finite(low),
        "high": finite(high),
        "hits": one.hits,
        "of": one.of,
    }


def _as_text(machine: Machine, told: tuple[Stay, ...], held: Confusion | None) -> str:
    width = max(len(one.state) for one in told)
    lines = [
        f"{one.state:<{width}}  {one.visits:>6} ×  {one.total_s:10.2f} s  {100 * one.share:5.1f} %"
        + (f"  {one.shortest_s:.3g} to {one.longest_s:.3g} s" if one.visits else "")
        + (f"  chatter {one.chatter}" if one.chatter else "")
        for one in told
    ]
    if held is None:
        lines.append("No truth is marked, so how often it was wrong is not known.")
    else:
        lines += ["", *(_held_as_text(one) for one in held.held)]
        lines += [
            f"wrong from {one.from_s:.2f} to {one.to_s:.2f} s: {one.told} for {one.true}"
            for one in held.worst[:5]
        ]
    for one in check_machine(machine):
        lines.append(f"{one.severity}: {one.title} {one.why} {one.remedy}".rstrip())
    return "\n".join(lines)


def _held_as_text(one: Held) -> str:
    def said(name: str, rate: Rate) -> str:
        if not rate.of or math.isnan(rate.value):
            return f"{name} not known"
        low, high = (100 * end for end in rate.interval)
        return f"{name} {rate.hits} of {rate.of} ({low:.0f} to {high:.0f} %)"

    return (
        f"{one.state}: {said('stretches reached', one.recall_stretches)}, "
        f"{said('visits right', one.precision_visits)}"
    )
