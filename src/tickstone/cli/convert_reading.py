"""``tickstone convert KIND``: one reading, with its working."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from typing import Any

from tickstone.cli.options import Options, command_of
from tickstone.core.chains.kind import ChainKind
from tickstone.core.display import decimals_for, finite, grouped, measured
from tickstone.core.inputs import with_inputs
from tickstone.core.reading_units import shown, shown_u
from tickstone.core.readings import asked_of
from tickstone.core.readings.reading import Asked, OneReading
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.core.uncertainty import expanded

_OF_A_STEP = ("value", "unit", "u")
Worked = dict[str, tuple[Step, ...]]


def reading_command(kind: ChainKind, asked: type[Asked] | None = None) -> Callable[..., None]:
    """The command for one reading of a kind of sensor. asked: in what words, where not its own."""
    asked = asked or asked_of(kind)

    def work(options: Options, as_json: bool) -> str:
        return said_of(kind, with_inputs(asked, options).reading(), as_json)

    return command_of(asked, f"{asked.what}\n\n{_more(asked)}".strip(), work)


def said_of(kind: ChainKind, reading: OneReading, as_json: bool) -> str:
    """A reading with its working, as it is printed."""
    worked = _worked(reading)
    if as_json:
        return json.dumps(_as_json(kind, reading, worked), ensure_ascii=False)
    return _as_text(reading, worked)


def _more(asked: type) -> str:
    """What the kind says of its reading, without its example."""
    said = (asked.__doc__ or "").split(">>>")[0].strip()
    return said if not said.startswith(asked.__name__) else ""


def _worked(reading: OneReading) -> Worked:
    chain = reading.chain
    if chain is None:
        return {}
    worked = {}
    for name in reading.outputs:
        node = chain.node_of(name)
        count = len(chain.fold(reading.signals, node).results[node])
        worked[name] = chain.explain(reading.signals, count - 1, node) if count else ()
    return worked


def _line(reading: OneReading, worked: Worked) -> tuple[Step, ...]:
    """The longest working: the others are parts of it or branch off it."""
    return max(worked.values(), key=len, default=())


def _result(step: Step) -> dict[str, Any]:
    value, unit = step.quantity.filed(step.value)
    u, _ = step.quantity.filed(step.u)
    if step.status.is_bound:
        return {"value": None, "unit": unit, "u": None, "below": finite(value)}
    has_value = math.isfinite(value)
    told: dict[str, Any] = {
        "value": finite(value), "unit": unit, "u": finite(u) if has_value else None,
    }  # fmt: skip
    if step.others:
        told["lanes"] = {
            name: {
                "value": finite(step.quantity.filed(lane.value)[0]),
                "u": finite(step.quantity.filed(lane.u)[0]),
                "status": lane.status.code,
            }
            for name, lane in zip(step.quantity.lanes, step.lanes, strict=True)
        }
    return told


def _as_json(kind: ChainKind, reading: OneReading, worked: Worked) -> dict[str, Any]:
    line = _line(reading, worked)
    results = {name: _result(steps[-1]) for name, steps in worked.items() if steps}
    for name, one in reading.beside.items():
        results[name] = {"value": one.value, "unit": one.unit, "u": one.u}
    return {
        "kind": kind.name,
        "status": line[-1].status.code if line else Status.OK.code,
        "results": results,
        "working": [
            {
                "stage": step.stage,
                "formula": step.formula,
                **{key: one for key, one in _result(step).items() if key in _OF_A_STEP},
            }
            for step in line
        ],
    }


def _as_text(reading: OneReading, worked: Worked) -> str:
    line = _line(reading, worked)
    lines = []
    for step in line:
        value, unit = shown(step.value, step.quantity.key)
        u = shown_u(step.u, step.quantity.key)
        decimals = 5 if step.unit == "m" else max(1, decimals_for(u) if u > 0.0 else 1)
        result = f"{grouped(value, decimals)} {unit}" if math.isfinite(value) else step.status.word
        lines.append(f"{step.label:<16} {step.filled:<62} = {result.rstrip()}")
    if lines:
        lines.append("")
    last = line[-1] if line else None
    for name, steps in worked.items():
        if steps and math.isfinite(steps[-1].value):
            lines += _said(f"{name.replace('_', ' '):<16} " if len(worked) > 1 else "", steps[-1])
    lines += [
        f"{name.replace('_', ' '):<16} {one.value:.6g} {one.unit}"
        for name, one in reading.beside.items()
        if last is None or one.u == 0.0
    ]
    if last is not None and math.isfinite(last.value) and last.components:
        lines += ["", "what the ± is made of:", *_budget(last)]
    if last is not None and last.status != Status.OK:
        lines.append(f"{last.status.word}: {last.status.meaning}")
    notes = {step.note for step in line if step.note and step.status == Status.OK}
    return "\n".join([*lines, *sorted(notes)])


def _said(label: str, step: Step) -> list[str]:
    """A result, lane by lane."""
    if step.status.is_bound:
        return [f"{label}{step.status.word}, below {step.quantity.said(step.value)}"]
    lines = []
    for name, lane in zip(step.quantity.lanes, step.lanes, strict=True):
        value, unit = shown(lane.value, step.quantity.key)
        said = measured(value, shown_u(lane.u, step.quantity.key), unit)
        of_lane = f"{label.rstrip()} {name}" if name else label.rstrip()
        lines.append(f"{f'{of_lane:<16} ' if of_lane else ''}{said}   ({lane.status.word}; k = 2)")
    return lines


def _budget(step: Step) -> list[str]:
    key = step.quantity.small_key
    unit = shown(0.0, key)[1]
    parts = sorted(step.components, key=lambda part: -abs(part.contribution))
    return [
        f"  {part.name:<22} ± {expanded(shown_u(abs(part.contribution), key)):8.4g} {unit:<5} "
        f"{part.basis}"
        for part in parts
    ]
