"""``tickstone tune threshold FILE``: a threshold for every sensor, by its heaps."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
import typer

from tickstone.cli.calibrate import spans_within
from tickstone.cli.log_inputs import FileArgument, InputOption, RateOption, signals_of
from tickstone.core.calibration.black_white_heaps import BLACK, WAVE, WHITE, heaps_under
from tickstone.core.calibration.black_white_remarks import remarks_on
from tickstone.core.calibration.kind import Span
from tickstone.core.chains import CHAINS
from tickstone.core.chains.reflectance import Reflectance, ReflectanceParameters
from tickstone.core.finding import worst_first
from tickstone.core.heaps.heap import Heap, d_prime
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.rules.line_thresholds import RECOMMENDED, misread_said
from tickstone.core.signal import Signal
from tickstone.core.thresholds import METHODS
from tickstone.core.thresholds.choosing import Candidate, Chosen, choose
from tickstone.core.thresholds.method import Wanted


@dataclass(frozen=True, slots=True)
class _Tuned:
    column: str
    heaps: LaneHeaps
    chosen: Chosen
    taken: Candidate


@dataclass(frozen=True, slots=True)
class _Untuned:
    column: str
    why_not: str


# What is told of a sensor beside its column and the reason: null, where it has no threshold.
_FIGURES = (
    "polarity", "method", "threshold", "hysteresis", "misread_rate", "misread_low", "misread_high",
    "misread_gaussian", "d_prime", BLACK, WHITE, "others", "all",
)  # fmt: skip


def tune_threshold(
    file: FileArgument,
    inputs: InputOption = None,
    spans: Annotated[
        list[str] | None,
        typer.Option(
            "--span",
            help="NAME=FROM:TO, s of the log; NAME is black, white, wave, or another surface. "
            "Without any, both heaps are looked for in all of it.",
        ),
    ] = None,
    method: Annotated[
        str, typer.Option(help=f"{RECOMMENDED}, or one of {', '.join(METHODS)}.")
    ] = RECOMMENDED,
    fixed: Annotated[
        float | None, typer.Option(help="The threshold of the method fixed, as it is counted.")
    ] = None,
    cost_missed: Annotated[float, typer.Option(help="What a missed line costs.", min=1e-6)] = 1.0,
    cost_false: Annotated[float, typer.Option(help="What a false one costs.", min=1e-6)] = 1.0,
    line_is: Annotated[str, typer.Option(help="dark or light.")] = "dark",
    sigmas: Annotated[float, typer.Option(help="Half the band, in σ.", min=0.0, max=10.0)] = 3.0,
    rate_hz: RateOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Choose a threshold for each sensor of a row, with how often it will misread.

    For example: tickstone tune threshold strip.csv --span black=0:5 --span white=6:11 --json
    """
    try:
        if method != RECOMMENDED and method not in METHODS:
            raise ValueError(f"there is no method “{method[:40]}”; {', '.join(METHODS)}")
        if method == "fixed" and fixed is None:
            raise ValueError("the method fixed wants a number: give --fixed")
        parameters = ReflectanceParameters(line_is=_checked(line_is))
        kind = CHAINS[Reflectance.name]
        found, remarks = signals_of(file, kind, inputs, rate_hz)
        signal = found.signals["light"]
        columns = found.columns.get("light", [])
        given = _spans(signal, spans or [])
        heaps = heaps_under(given, parameters)
        wanted = Wanted(fixed, cost_missed, cost_false)
        is_dark = parameters.line_is == "dark"
        sensors = [
            _tune(
                columns[n] if n < len(columns) else one.lane, one, is_dark, method, wanted, sigmas
            )
            for n, one in enumerate(heaps)
        ]
        why_not = [f"{one.column}: {one.why_not}" for one in sensors if isinstance(one, _Untuned)]
        if len(why_not) == len(sensors):
            raise ValueError("; ".join(why_not))
        remarks += why_not
        remarks += [said for one in sensors if isinstance(one, _Tuned) for said in _remarks(one)]
        known = [one for one in heaps if not one.why_not]
        said = worst_first(remarks_on(known, given, parameters))
        remarks += [f"{one.title} {one.why} {one.remedy}".strip() for one in said]
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    if as_json:
        document = {"sensors": [_as_json(one) for one in sensors], "remarks": remarks}
        typer.echo(json.dumps(document, ensure_ascii=False))
    else:
        typer.echo("\n".join([*map(_as_text, sensors), *remarks]))


def _checked(line_is: str) -> str:
    if line_is not in ("dark", "light"):
        raise ValueError(f"--line-is {line_is[:40]}: the line is dark or light")
    return line_is


def _spans(signal: Signal, given: list[str]) -> list[Span]:
    """Stretches by name; all of it as a wave without any."""
    if not given:
        end_s = signal.until_s if len(signal) else 0.0
        return [Span(WAVE, signal, start_s=0.0, end_s=end_s)]
    spans = []
    for name, start_s, end_s in spans_within(given):
        first, last = np.searchsorted(signal.time_s, [start_s, end_s])
        if first == last:
            raise ValueError(f"--span {name}: no sample lies from {start_s:g} to {end_s:g} s")
        part = signal.between(int(first), int(last), end_s)
        spans.append(Span(name, part, start_s=start_s, end_s=end_s))
    return spans


def _tune(
    column: str,
    heaps: LaneHeaps,
    line_is_dark: bool,
    method: str,
    wanted: Wanted,
    sigmas: float,
) -> _Tuned | _Untuned:
    """One sensor's threshold. A dead sensor of a row does not take the others along."""
    if heaps.why_not:
        return _Untuned(column, heaps.why_not)
    try:
        chosen = choose(*heaps.against(line_is_dark), METHODS, wanted, sigmas)
    except ValueError as error:
        return _Untuned(column, str(error))
    return _Tuned(column, heaps, chosen, chosen.candidates.get(method, chosen.taken))


def _remarks(one: _Tuned) -> list[str]:
    remarks = []
    if one.chosen.why_not:
        remarks.append(f"{one.column}: no threshold can do here; {one.chosen.why_not}.")
    if one.heaps.between:
        remarks.append(f"{one.column}: {one.heaps.between} samples on the edge were left out.")
    return remarks


def _polarity(one: _Tuned) -> str:
    return "dark_is_high" if one.heaps.dark.mean > one.heaps.light.mean else "dark_is_low"


def _as_json(one: _Tuned | _Untuned) -> dict[str, Any]:
    if isinstance(one, _Untuned):
        return {"column": one.column, **dict.fromkeys(_FIGURES), "why": one.why_not}
    low, high = one.taken.misread.interval
    return {
        "column": one.column,
        "polarity": _polarity(one),
        "method": one.taken.method.name,
        "threshold": one.taken.at,
        "hysteresis": one.chosen.half_band,
        "misread_rate": one.taken.misread.rate,
        "misread_low": low,
        "misread_high": high,
        "misread_gaussian": one.taken.misread.gaussian,
        "d_prime": min(1e6, d_prime(one.heaps.dark, one.heaps.light)),
        BLACK: _heap_as_json(one.heaps.dark),
        WHITE: _heap_as_json(one.heaps.light),
        "others": [{"name": o.name, **_heap_as_json(o)} for o in one.heaps.others],
        "all": {name.replace("-", "_"): way.at for name, way in one.chosen.candidates.items()},
        "why": one.chosen.why,
    }


def _heap_as_json(heap: Heap) -> dict[str, float | int]:
    return {"mean": heap.mean, "sd": heap.sd, "n": heap.n}


def _as_text(one: _Tuned | _Untuned) -> str:
    if isinstance(one, _Untuned):
        return f"{one.column:<12} no threshold"
    dark, light = one.heaps.dark, one.heaps.light
    sign = ">" if dark.mean > light.mean else "<"
    return (
        f"{one.column:<12} dark {sign} {one.taken.at:.4g} ± {one.chosen.half_band:.2g}, "
        f"{one.taken.method.label.lower()}; {misread_said(one.taken.misread)}; "
        f"black {dark.mean:.4g} ± {dark.sd:.2g}, white {light.mean:.4g} ± {light.sd:.2g}, "
        f"d′ {d_prime(dark, light):.1f}"
    )
