"""``tickstone convert FILE``: a whole log through the chain of a kind of sensor."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import typer

from tickstone.cli.calibration_file import stages_from
from tickstone.cli.log_inputs import (
    FileArgument,
    InputOption,
    KindOption,
    RateOption,
    SetOption,
    kind_named,
    pairs,
    settings_from,
    signals_of,
)
from tickstone.core.chain import Chain
from tickstone.core.chains.kind import ChainKind
from tickstone.core.display import finite
from tickstone.core.findings import signal_findings
from tickstone.core.readings.reading import ASSUMED_AIR
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings
from tickstone.formats.result_csv import write_result_csv


def convert_file(
    file: FileArgument,
    kind: KindOption = "",
    inputs: InputOption = None,
    settings: SetOption = None,
    output: Annotated[
        list[str] | None, typer.Option("--output", help="An output by name; all without it.")
    ] = None,
    calibration: Annotated[
        list[Path] | None,
        typer.Option("--calibration", help="What `tickstone calibrate --json` printed."),
    ] = None,
    out: Annotated[Path | None, typer.Option(help="CSV file to write.")] = None,
    rate_hz: RateOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="A summary as one JSON object instead of text.")
    ] = False,
) -> None:
    """Turn a whole log into the outputs of a kind of sensor.

    For example: tickstone convert wheel.csv --kind pulses --input pulses=hall_count --set
    per_turn=4 --output rpm --out rpm.csv
    """
    try:
        sensor = kind_named(kind)
        parameters = settings_from(sensor.parameters, pairs(settings, "--set"))
        surroundings = Surroundings(ASSUMED_AIR)
        stages = stages_from(calibration or [], sensor)
        found, remarks = signals_of(file, sensor, inputs, rate_hz)
        chain = sensor.build(parameters, surroundings, stages, found.forms, found.lanes)
        names = _outputs(chain, output or [])
        nodes = {name: chain.node_of(name) for name in names}
        headline = chain.node_of(chain.outputs[0][0])
        judged = chain.node_of(sensor.judged) if sensor.judged else headline
        wanted = dict.fromkeys((*nodes.values(), headline, judged))
        folded = chain.fold(found.signals, *wanted).results
        results = {name: folded[node] for name, node in nodes.items()}
        if out is not None:
            _write(out, found.signals, results)
        said = sensor.findings(parameters, surroundings, folded[judged])
        logged = next(iter(found.signals.values()))
        is_events = (
            sensor.role(next(iter(found.forms))).form(next(iter(found.forms.values()))).is_events
        )
        said = [*signal_findings(logged, is_events), *said]
        remarks += [f"{one.title} {one.why}".strip() for one in said]
        us = {name: _u_at_mean(chain, found.signals, nodes[name], results[name]) for name in names}
        summary = _summary(sensor, results, us, folded[headline], remarks)
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    typer.echo(json.dumps(summary, ensure_ascii=False) if as_json else _as_text(summary, out))


def _outputs(chain: Chain, wanted: list[str]) -> list[str]:
    known = [name for name, _ in chain.outputs]
    for name in wanted:
        if name not in known:
            raise ValueError(f"there is no output “{name[:40]}”; there are {', '.join(known)}")
    return list(dict.fromkeys(wanted)) or known


def _write(out: Path, raw: Mapping[str, Signal], results: Mapping[str, Signal]) -> None:
    """One CSV for outputs that share their times. Raises ValueError when they do not."""
    numbers = {n: one for n, one in results.items() if not one.quantity.is_decision}
    decisions = {n: one for n, one in results.items() if one.quantity.is_decision}
    if not numbers:
        raise ValueError("an output that is a number has to be among those written")
    first = next(iter(numbers.values()))
    for name, one in results.items():
        if len(one) != len(first) or not np.array_equal(one.time_s, first.time_s):
            raise ValueError(
                f"the output {name} comes at other times than {next(iter(numbers))}; choose one "
                "of them with --output"
            )
    fresh = out.with_name(f".{out.name}.part")
    with fresh.open("w", encoding="utf-8", newline="") as file:
        file.writelines(write_result_csv(raw, numbers, decisions))
    fresh.replace(out)


def _u_at_mean(
    chain: Chain, signals: Mapping[str, Signal], node: str, result: Signal
) -> float | None:
    """Standard uncertainty of the good reading nearest to the mean."""
    good = np.flatnonzero(result.ok)
    if result.quantity.is_decision or good.size == 0:
        return None
    mean = float(result.value[good].mean())
    place = int(good[np.argmin(np.abs(result.value[good] - mean))])
    u = chain.explain(signals, place, node)[-1].u if chain.nodes else math.nan
    return finite(u)


def _summary(
    sensor: ChainKind,
    results: Mapping[str, Signal],
    us: Mapping[str, float | None],
    headline: Signal,
    remarks: list[str],
) -> dict[str, Any]:
    codes, counts = np.unique(headline.flag, return_counts=True)
    return {
        "kind": sensor.name,
        "outputs": {name: _output(one, us[name]) for name, one in results.items()},
        "statuses": {
            Status(code).code: int(count)
            for code, count in zip(codes.tolist(), counts.tolist(), strict=True)
        },
        "remarks": remarks,
    }


def _output(result: Signal, u: float | None) -> dict[str, Any]:
    told = _first_lane(result, u)
    if len(result.values) > 1:
        names = result.quantity.lanes
        told["lanes"] = {
            name: _first_lane(result.lane(place), None) for place, name in enumerate(names)
        }
    return told


def _first_lane(result: Signal, u: float | None) -> dict[str, Any]:
    quantity = result.quantity
    if quantity.is_decision:
        states = {
            state.name: int(np.count_nonzero(result.value == place))
            for place, state in enumerate(quantity.states)
        }
        return {"unit": "", "samples": len(result), "good": len(result), "states": states}
    good = result.value[result.ok]
    unit = quantity.filed(0.0)[1]

    def said(value: float | None) -> float | None:
        return None if value is None else quantity.filed(float(value))[0]

    return {
        "unit": unit,
        "samples": len(result),
        "good": int(good.size),
        "mean": said(good.mean() if good.size else None),
        "min": said(good.min() if good.size else None),
        "max": said(good.max() if good.size else None),
        "u": said(u),
    }


def _as_text(summary: dict[str, Any], out: Path | None) -> str:
    lines = []
    outputs = {
        name if lane is None else f"{name} {lane}": told
        for name, one in summary["outputs"].items()
        for lane, told in one.get("lanes", {None: one}).items()
    }
    for name, one in outputs.items():
        if "states" in one:
            said = ", ".join(f"{word} {count}" for word, count in one["states"].items())
        elif one["good"]:
            u = f", u {one['u']:.3g}" if one["u"] is not None else ""
            said = f"mean {one['mean']:.6g} {one['unit']}, {one['min']:.6g} to {one['max']:.6g}{u}"
        else:
            said = "no good reading"
        lines.append(f"{name:<12} {one['good']} good of {one['samples']}: {said}")
    lines += [f"{status.replace('_', ' ')}: {n}" for status, n in summary["statuses"].items()]
    lines += summary["remarks"]
    if out is not None:
        lines.append(f"written to {out}")
    return "\n".join(lines)
