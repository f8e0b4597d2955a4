"""``tickstone convert KIND``: one reading, with its working."""

from __future__ import annotations

import json
import math
from collections.abc import Callable
from typing import Any

from tickstone.cli.options import Options, command_of
from tickstone.core.chains.kind import ChainKind
from tickstone.core.display import decimals_for, grouped, measured
from tickstone.core.inputs import with_inputs
from tickstone.core.reading_units import filed, shown, shown_u
from tickstone.core.readings import asked_of
from tickstone.core.readings.reading import OneReading
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.core.uncertainty import expanded

Worked = dict[str, tuple[Step, ...]]


def reading_command(kind: ChainKind) -> Callable[..., None]:
    """The command for one reading of a kind of sensor."""
    asked = asked_of(kind)

    def work(options: Options, as_json: bool) -> str:
        reading = with_inputs(asked, options).reading()
        worked = _worked(reading)
        if as_json:
            return json.dumps(_as_json(kind, reading, worked), ensure_ascii=False)
        return _as_text(reading, worked)

    return command_of(asked, f"{asked.what}\n\n{_more(asked)}".strip(), work)


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


def _finite(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _result(step: Step) -> dict[str, Any]:
    value, unit = filed(step.value, step.unit)
    u, _ = filed(step.u, step.unit)
    if step.status.is_bound:
        return {"value": None, "unit": unit, "u": None, "below": _finite(value)}
    return {"value": _finite(value), "unit": unit, "u": _finite(u)}


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
                **{key: one for key, one in _result(step).items() if key != "below"},
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
    for steps in worked.values():
        if steps and math.isfinite(steps[-1].value):
            lines.append(_said(steps[-1]))
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


def _said(step: Step) -> str:
    value, unit = shown(step.value, step.quantity.key)
    if step.status.is_bound:
        return f"{step.status.word}, below {step.quantity.said(step.value)}"
    said = measured(value, shown_u(step.u, step.quantity.key), unit)
    return f"{said}   ({step.status.word}; k = 2)"


def _budget(step: Step) -> list[str]:
    key = step.quantity.small_key
    unit = shown(0.0, key)[1]
    parts = sorted(step.components, key=lambda part: -abs(part.contribution))
    return [
        f"  {part.name:<22} ± {expanded(shown_u(abs(part.contribution), key)):8.4g} {unit:<5} "
        f"{part.basis}"
        for part in parts
    ]
