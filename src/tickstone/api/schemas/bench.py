"""What the bench of a sensor is made of: inputs, outputs, settings, calibrations and rules.

Page and command line follow this description; neither knows a kind of sensor.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from tickstone.api.schemas.base import Answer
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.chains.kind import ChainKind, Output
from tickstone.core.checks.kind import CheckKind
from tickstone.core.digests.kind import DigestKind
from tickstone.core.inputs import Input, inputs_of
from tickstone.core.quantity import Quantity
from tickstone.core.reading_units import displays
from tickstone.core.rules.kind import Level, RuleKind
from tickstone.core.studies.kind import StudyKind

Value = bool | int | float | str | Annotated[list[float], Field(max_length=64)]
Values = dict[str, Value | None]


class DisplayOut(Answer):
    """How an SI value is shown: value × scale + offset, with so many decimals."""

    unit: str
    scale: float
    offset: float
    decimals: int


class ShownOut(Answer):
    """The same in every system of units."""

    metric: DisplayOut
    imperial: DisplayOut

    @classmethod
    def of(cls, key: str, decimals: int) -> ShownOut:
        shown = {
            system: DisplayOut(
                unit=how.unit,
                scale=how.scale,
                offset=how.offset,
                decimals=max(0, decimals + how.digits),
            )
            for system, how in displays(key).items()
        }
        return cls(metric=shown["metric"], imperial=shown["imperial"])


class ChoiceOut(Answer):
    """One of a few words."""

    value: str
    label: str
    group: str


class WhenOut(Answer):
    """Another input, and the value of it without which this one says nothing."""

    name: str
    value: str


class InputOut(Answer):
    """A described input. from_rig: where a value comes from that is left out; it may be then."""

    name: str
    label: str
    form: Literal["number", "whole", "switch", "choice", "words", "numbers"]
    unit: str
    shown: ShownOut
    help: str
    default: Value | None
    low: float | None
    high: float | None
    choices: list[ChoiceOut]
    node: str
    when: WhenOut | None
    from_rig: str
    is_rare: bool

    @classmethod
    def of(cls, one: Input) -> InputOut:
        return cls(
            name=one.name,
            label=one.label,
            form=one.form,
            unit=one.unit,
            shown=ShownOut.of(one.shown_as or one.unit, one.decimals),
            help=one.help,
            default=one.default,
            low=one.low,
            high=one.high,
            choices=[ChoiceOut.model_validate(choice) for choice in one.choices],
            node=one.node,
            when=WhenOut(name=one.when[0], value=one.when[1]) if one.when else None,
            from_rig=one.from_rig,
            is_rare=one.is_rare,
        )


def inputs_out(kind: type) -> list[InputOut]:
    """All inputs of a kind of settings."""
    return [InputOut.of(one) for one in inputs_of(kind)]


StateLook = Literal["calm", "alarm", "worst"]


class DecisionStateOut(Answer):
    """What a decision can be, and how it is to look."""

    name: str
    word: str
    look: StateLook


class QuantityOut(Answer):
    """What numbers are. small: how small amounts of it are read. states: of a decision."""

    name: str
    unit: str
    shown: ShownOut
    small: ShownOut
    lanes: list[str]
    states: list[DecisionStateOut]

    @classmethod
    def of(cls, quantity: Quantity) -> QuantityOut:
        return cls(
            name=quantity.name,
            unit=quantity.unit,
            shown=ShownOut.of(quantity.key, quantity.decimals),
            small=ShownOut.of(quantity.small_key, 1),
            lanes=list(quantity.lanes),
            states=[
                DecisionStateOut(name=state.name, word=state.word, look=quantity.look(place))
                for place, state in enumerate(quantity.states)
            ],
        )


class FormOut(Answer):
    """A way in which an input may come. loses: what is lost by it, or nothing."""

    name: str
    label: str
    quantity: QuantityOut
    units: list[str]
    loses: str


class RoleOut(Answer):
    """An input of the chain."""

    name: str
    label: str
    forms: list[FormOut]
    most_lanes: int
    is_needed: bool


class OutputOut(Answer):
    """What the chain tells. is_from_zero: whether it can be zeroed and read."""

    name: str
    label: str
    quantity: QuantityOut
    is_from_zero: bool

    @classmethod
    def of(cls, output: Output) -> OutputOut:
        return cls(
            name=output.name,
            label=output.label,
            quantity=QuantityOut.of(output.quantity),
            is_from_zero=output.is_from_zero,
        )


class PoseOut(Answer):
    """One thing to do for a calibration."""

    name: str
    what: str
    still: str


class CalibrationKindOut(Answer):
    """A kind of calibration. asks_for: what is told of each span, or nothing. is_guided: whether
    what is held can be seen on an open line.
    """

    name: str
    label: str
    node: str
    asks_for: QuantityOut | None
    usual_u: float
    poses: list[PoseOut]
    takes_any_pose: bool
    least_spans: int
    guide: str
    deed: str
    truth: str
    done: str
    undone_by: list[str]
    is_guided: bool

    @classmethod
    def of(cls, kind: CalibrationKind) -> CalibrationKindOut:
        return cls(
            name=kind.name,
            label=kind.label,
            node=kind.node,
            asks_for=QuantityOut.of(kind.asks_for) if kind.asks_for else None,
            usual_u=kind.usual_u,
            poses=[PoseOut.model_validate(pose) for pose in kind.poses],
            takes_any_pose=kind.takes_any_pose,
            least_spans=kind.least_spans,
            guide=kind.guide,
            deed=kind.deed,
            truth=kind.truth or (f"True {kind.asks_for.name}" if kind.asks_for else ""),
            done=kind.done,
            undone_by=list(kind.undone_by),
            is_guided=kind.is_guided,
        )


class LevelOut(Answer):
    """A level on a plot, the side of it that is meant, and whether that is an alarm."""

    at: float
    label: str
    side: Literal["above", "below"]
    is_alarm: bool

    @classmethod
    def of(cls, levels: Sequence[Level]) -> list[LevelOut]:
        return [cls.model_validate(level) for level in levels]


class RuleKindOut(Answer):
    """A kind of decision. takes: the output it decides on."""

    name: str
    label: str
    takes: str
    node: str
    decision: QuantityOut
    parameters: list[InputOut]
    evidence: list[InputOut]
    evidence_heading: str
    parameters_heading: str
    hint: str
    caution: str
    keep: str

    @classmethod
    def of(cls, kind: RuleKind) -> RuleKindOut:
        return cls(
            name=kind.name,
            label=kind.label,
            takes=kind.takes,
            node=kind.node,
            decision=QuantityOut.of(kind.decision),
            parameters=inputs_out(kind.parameters),
            evidence=inputs_out(kind.evidence),
            evidence_heading=kind.words[0],
            parameters_heading=kind.words[1],
            hint=kind.hint,
            caution=kind.caution,
            keep=kind.keep,
        )


class CheckKindOut(Answer):
    """Something a reading can be held against. takes: the output it looks at."""

    name: str
    label: str
    what: str
    takes: str
    asks: list[InputOut]
    caution: str

    @classmethod
    def of(cls, kind: CheckKind) -> CheckKindOut:
        return cls(
            name=kind.name,
            label=kind.label,
            what=kind.what,
            takes=kind.takes,
            asks=inputs_out(kind.asks),
            caution=kind.caution,
        )


class MarkableOut(Answer):
    """What can be marked as known to be true. name: of the mark; its value is in `unit`."""

    name: str
    label: str
    unit: str
    shown: ShownOut


class DigestKindOut(Answer):
    """Something a recording can be summed up as. is_calibrated: as good as its calibration. marks:
    what it is held against where a person marks it.
    """

    name: str
    label: str
    is_calibrated: bool
    marks: list[MarkableOut]

    @classmethod
    def of(cls, kind: DigestKind) -> DigestKindOut:
        return cls(
            name=kind.name,
            label=kind.label,
            is_calibrated=kind.is_calibrated,
            marks=[
                MarkableOut(
                    name=one.name,
                    label=one.label,
                    unit=one.quantity.unit,
                    shown=ShownOut.of(one.quantity.key, one.quantity.decimals),
                )
                for one in kind.marks
            ],
        )


class StudyKindOut(Answer):
    """A kind of study. varies: what its levels are."""

    name: str
    label: str
    what: str
    plan: list[InputOut]
    varies: QuantityOut

    @classmethod
    def of(cls, kind: StudyKind) -> StudyKindOut:
        return cls(
            name=kind.name,
            label=kind.label,
            what=kind.what,
            plan=inputs_out(kind.plan),
            varies=QuantityOut.of(kind.varies),
        )


class BenchOut(Answer):
    """A sensor's bench. sample: what one of its readings is called, in the plural. fine: statuses
    that say nothing against a recording.
    """

    kind: str
    label: str
    sample: str
    fine: list[str]
    roles: list[RoleOut]
    outputs: list[OutputOut]
    inputs: list[InputOut]
    surroundings_node: str
    calibrations: list[CalibrationKindOut]
    rules: list[RuleKindOut]
    checks: list[CheckKindOut]
    digests: list[DigestKindOut]
    studies: list[StudyKindOut]

    @classmethod
    def of(cls, kind: ChainKind) -> BenchOut:
        return cls(
            kind=kind.name,
            label=kind.label,
            sample=kind.sample,
            fine=[status.code for status in kind.fine],
            roles=[
                RoleOut(
                    name=role.name,
                    label=role.label,
                    forms=[
                        FormOut(
                            name=form.name,
                            label=form.label,
                            quantity=QuantityOut.of(form.quantity),
                            units=list(form.units),
                            loses=form.loses,
                        )
                        for form in role.forms
                    ],
                    most_lanes=role.most_lanes,
                    is_needed=role.is_needed,
                )
                for role in kind.roles
            ],
            outputs=[OutputOut.of(one) for one in kind.outputs],
            inputs=inputs_out(kind.parameters),
            surroundings_node=kind.surroundings_node,
            calibrations=[CalibrationKindOut.of(one) for one in kind.calibrations],
            studies=[StudyKindOut.of(study) for study in kind.studies],
            digests=[DigestKindOut.of(digest) for digest in kind.digests],
            checks=[CheckKindOut.of(check) for check in kind.checks],
            rules=[RuleKindOut.of(one) for one in kind.rules],
        )
