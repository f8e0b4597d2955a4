"""``tickstone calibrate KIND FILE``: a calibration from stretches of a log."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from tickstone.cli.calibration_file import stages_from
from tickstone.cli.log_inputs import (
    FileArgument,
    InputOption,
    RateOption,
    SetOption,
    pairs,
    settings_from,
    signals_of,
)
from tickstone.core.calibration.kind import CalibrationKind, Fit, Span
from tickstone.core.chains import CHAINS
from tickstone.core.chains.kind import ChainKind
from tickstone.core.quantity import Quantity
from tickstone.core.readings.reading import ASSUMED_AIR
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings
from tickstone.core.uncertainty import expanded
from tickstone.formats.calibration_json import calibration_document
from tickstone.formats.log_signals import LogSignals


def _offered() -> dict[str, tuple[ChainKind, CalibrationKind]]:
    """Every kind of calibration, with the first kind of sensor that offers it."""
    kinds = reversed(CHAINS.values())
    return {one.name: (kind, one) for kind in kinds for one in kind.calibrations}


def calibrate(
    calibration: Annotated[
        str, typer.Argument(metavar="KIND", help=f"Which: {', '.join(sorted(_offered()))}.")
    ],
    file: FileArgument,
    inputs: InputOption = None,
    settings: SetOption = None,
    spans: Annotated[
        list[str] | None,
        typer.Option(
            "--span",
            help="NAME=FROM:TO[:TRUE[:U]], s of the log, and what was true there, SI. A number as "
            "NAME is what was true. The whole log without any.",
        ),
    ] = None,
    known: Annotated[
        list[Path] | None,
        typer.Option("--calibration", help="One that holds already, of another kind."),
    ] = None,
    rate_hz: RateOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Fit a calibration to stretches of a log in which something known was held or done.

    For example: tickstone calibrate roll-out wheel.csv --input pulses=hall_count --set per_turn=4
    --span tape=2.0:14.5:2.35:0.005 --json
    """
    try:
        offered = _offered()
        if calibration not in offered:
            names = ", ".join(sorted(offered))
            raise ValueError(f"there is no calibration “{calibration[:40]}”; there are {names}")
        sensor, kind = offered[calibration]
        told, true = _truths(pairs(settings, "--set"), spans or [])
        parameters = settings_from(sensor.parameters, told)
        found, remarks = signals_of(file, sensor, inputs, rate_hz)
        compared = _compared(sensor, kind, parameters, found, known or [])
        settled = sensor.settled(parameters, stages_from(known or [], sensor))
        fit = kind.fit(_spans(kind, compared, spans or [], true), settled)
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    if as_json:
        document = calibration_document(kind, fit)
        document["remarks"] += remarks
        typer.echo(json.dumps(document, ensure_ascii=False))
    else:
        typer.echo(_as_text(kind, fit, remarks, compared.quantity))


def _truths(
    told: list[tuple[str, str]], spans: list[str]
) -> tuple[list[tuple[str, str]], dict[str, str]]:
    """Settings of the chain, and what was true in a span, which may be set by the span's name."""
    names = {span.partition("=")[0] for span in spans}
    true = {name: value for name, value in told if name in names}
    return [(name, value) for name, value in told if name not in names], true


def _compared(
    sensor: ChainKind,
    kind: CalibrationKind,
    parameters: object,
    found: LogSignals,
    known: list[Path],
) -> Signal:
    others = stages_from(known, sensor)
    others.pop(kind.name, None)
    chain, node = sensor.compared_with(
        kind, parameters, Surroundings(ASSUMED_AIR), others, found.forms, found.lanes
    )
    return chain.fold(found.signals, node).results[node]


def _spans(
    kind: CalibrationKind, signal: Signal, given: list[str], true: Mapping[str, str]
) -> list[Span]:
    if not given:
        whole = (float(signal.time_s[0]), signal.until_s) if len(signal) else (0.0, 0.0)
        # Where any one pose will do, the first is the one that needs no more than the log.
        pose = kind.poses[0].name if kind.takes_any_pose else "all"
        return [_span(kind, signal, pose, whole, None, None)]
    spans = []
    for one in given:
        name, numbers = _numbers(one)
        value = numbers[2] if len(numbers) > 2 else _number(true.get(name, name))
        if kind.asks_for is not None and value is None:
            raise ValueError(
                f"--span {one}: what was true there? Add it, in {kind.asks_for.unit}: "
                f"{name}={numbers[0]:g}:{numbers[1]:g}:TRUE"
            )
        spans.append(_span(kind, signal, name, (numbers[0], numbers[1]), value, *numbers[3:]))
    return spans


def spans_within(given: list[str], option: str = "--span") -> list[tuple[str, float, float]]:
    """NAME=FROM:TO as a name and two times. Raises ValueError for what is none."""
    found = []
    for one in given:
        name, numbers = _numbers(one, option)
        if len(numbers) != 2:
            raise ValueError(f"{option} {one}: has to be NAME=FROM:TO, in s")
        found.append((name, numbers[0], numbers[1]))
    return found


def _numbers(one: str, option: str = "--span") -> tuple[str, list[float]]:
    """The name and the numbers of a span."""
    name, _, rest = one.partition("=")
    try:
        numbers = [float(part) for part in rest.split(":")]
    except ValueError:
        numbers = []
    if not name or not 2 <= len(numbers) <= 4 or not numbers[0] < numbers[1]:
        raise ValueError(f"{option} {one}: has to be NAME=FROM:TO, or NAME=FROM:TO:TRUE:U, in s")
    return name, numbers


def _number(text: str) -> float | None:
    try:
        return float(text)
    except ValueError:
        return None


def _span(
    kind: CalibrationKind,
    signal: Signal,
    name: str,
    within_s: tuple[float, float],
    true: float | None,
    u: float | None = None,
) -> Span:
    start_s, end_s = within_s
    low, high = kind.values_within
    if true is not None and kind.asks_for is not None and not low <= true <= high:
        raise ValueError(f"“{name}”: {true:g} {kind.asks_for.unit} cannot be; {low:g} to {high:g}")
    first, last = np.searchsorted(signal.time_s, [start_s, end_s])
    return Span(
        name, signal.between(int(first), int(last), end_s), true,
        kind.usual_u if u is None and true is not None else u, start_s, end_s,
    )  # fmt: skip


def _as_text(kind: CalibrationKind, fit: Fit, remarks: list[str], quantity: Quantity) -> str:
    lines = [f"{kind.label}: {kind.short(fit)}"]
    lines += [f"{line.label:<24} {line.text}" for line in kind.certificate(fit)]
    for span in fit.spans:
        if span.residual is not None:
            if span.true is None:
                lines.append(f"“{span.name}”: left over {quantity.said(span.residual, 4)}")
                continue
            u = f" ± {expanded(span.u):.3g}" if span.u else ""
            lines.append(f"“{span.name}”: {span.true}{u}, left over {span.residual:+.4g}")
    lines += [f"{one.severity}: {one.title} {one.why} {one.remedy}".rstrip() for one in fit.remarks]
    return "\n".join([*lines, *remarks])
