"""The working of one sample, dressed for the wire."""

from __future__ import annotations

import math

from tickstone.api.schemas.bench import ShownOut
from tickstone.api.schemas.look import ComponentOut, LaneOut, StepOut
from tickstone.core.display import decimals_for, finite, grouped
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import shown, shown_u
from tickstone.core.step import Lane, Operand, Step
from tickstone.core.uncertainty import expanded


def step_out(step: Step) -> StepOut:
    """A step with its numbers as they are shown: decimals follow the uncertainty."""
    is_bound = step.status.is_bound and math.isfinite(step.value)
    has_value = math.isfinite(step.value) and not step.quantity.is_decision and not is_bound
    state = (
        step.quantity.states[int(step.value)]
        if step.quantity.is_decision and math.isfinite(step.value)
        else None
    )
    first = _lane_out("", step.lanes[0], step.quantity)
    word = state.word if state else step.status.word
    if is_bound:
        word = f"{word}, below {step.quantity.said(step.value)}"
    return StepOut(
        stage=step.stage,
        label=step.label,
        sign=step.sign,
        operand_shown=_operand(step.operand),
        operand_unit=shown(0.0, step.operand.unit)[1],
        operand_note=step.operand.text if step.operand.value is not None else "",
        operand_words=step.operand.value is None,
        formula=step.formula,
        filled=step.filled,
        value=step.value if math.isfinite(step.value) and not is_bound else None,
        shown=first.shown if has_value else word,
        shown_unit=shown(0.0, step.quantity.key)[1] if has_value else "",
        unit=step.unit if has_value else "",
        u=finite(step.u) if has_value else None,
        spread_shown=first.spread_shown if has_value else "",
        small=ShownOut.of(step.quantity.small_key, 1),
        status=step.status.code,
        status_word=word if is_bound else step.status.word,
        state=state.name if state else "",
        state_look=step.quantity.look(int(step.value)) if state else "",
        components=[
            ComponentOut(
                name=part.name,
                u_input=part.u_input,
                input_unit=part.input_unit,
                contribution=finite(part.contribution),
                shared=part.shared,
                basis=part.basis,
            )
            for part in step.components
        ],
        source=step.source,
        note=step.note,
        below=step.below,
        others=[
            _lane_out(name, lane, step.quantity)
            for name, lane in zip(step.quantity.lanes[1:], step.others, strict=False)
            if name not in step.quantity.quiet
        ],
        beside=[[step_out(one) for one in line] for line in step.beside],
    )


def _lane_out(name: str, lane: Lane, quantity: Quantity) -> LaneOut:
    has_value, key = math.isfinite(lane.value), quantity.key
    if quantity.is_decision and has_value:
        word = quantity.states[int(lane.value)].word
        return LaneOut(
            name=name,
            value=lane.value,
            u=None,
            shown=word,
            status=lane.status.code,
            status_word=lane.status.word,
            spread_shown="",
        )
    u = shown_u(lane.u, key)
    # What has no doubt says nothing of how finely it is known: then as usual for its kind.
    decimals = quantity.decimals if u == 0.0 else decimals_for(u)
    return LaneOut(
        name=name,
        value=lane.value if has_value else None,
        u=finite(lane.u) if has_value else None,
        shown=grouped(shown(lane.value, key)[0], decimals) if has_value else lane.status.word,
        status=lane.status.code,
        status_word=lane.status.word,
        spread_shown=grouped(expanded(u), decimals) if has_value and math.isfinite(u) else "",
    )


def _operand(operand: Operand) -> str:
    if operand.value is None:
        return operand.text
    value, _ = shown(operand.value, operand.unit)
    if operand.u > 0.0:
        return grouped(value, decimals_for(shown_u(operand.u, operand.unit)))
    if math.isfinite(value) and value == int(value):
        return grouped(value, 0)
    return f"{value:.4g}"
