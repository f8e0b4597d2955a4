"""The working of one sample, dressed for the wire."""

from __future__ import annotations

import math

from tickstone.api.schemas.view import ComponentOut, StepOut
from tickstone.core.chain import Operand, Step
from tickstone.core.display import decimals_for, grouped
from tickstone.core.reading_units import shown, shown_u
from tickstone.core.stages.stop_threshold import Decision
from tickstone.core.uncertainty import expanded


def step_out(step: Step) -> StepOut:
    """A step with its numbers as they are shown: decimals follow the uncertainty."""
    has_value = math.isfinite(step.value) and step.unit != "decision"
    value, unit = shown(step.value, step.unit)
    u = shown_u(step.u, step.unit)
    decimals = decimals_for(u)
    return StepOut(
        stage=step.stage,
        label=step.label,
        sign=step.sign,
        operand_shown=_operand(step.operand),
        operand_unit=shown(0.0, step.operand.unit)[1],
        operand_note=step.operand.text if step.operand.value is not None else "",
        formula=step.formula,
        filled=step.filled,
        value=step.value if math.isfinite(step.value) else None,
        shown=grouped(value, decimals) if has_value else _word(step),
        shown_unit=unit if has_value else "",
        unit=step.unit if has_value else "",
        u=step.u if has_value and math.isfinite(step.u) else None,
        spread_shown=(
            grouped(expanded(u), decimals) if has_value and math.isfinite(step.u) else ""
        ),
        status=step.status.code,
        components=[
            ComponentOut(
                name=part.name,
                u_input=part.u_input,
                input_unit=part.input_unit,
                contribution=part.contribution if math.isfinite(part.contribution) else None,
                shared=part.shared,
                basis=part.basis,
            )
            for part in step.components
        ],
        source=step.source,
        note=step.note,
    )


def _word(step: Step) -> str:
    return Decision(int(step.value)).word if step.unit == "decision" else step.status.word


def _operand(operand: Operand) -> str:
    if operand.value is None:
        return operand.text
    value, _ = shown(operand.value, operand.unit)
    if operand.u > 0.0:
        return grouped(value, decimals_for(shown_u(operand.u, operand.unit)))
    if value == int(value):
        return grouped(value, 0)
    return f"{value:.4g}"
