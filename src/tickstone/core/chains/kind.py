"""What a kind of sensor is to the rest of the program: one object, and everything follows from it.

Page, command line, API, formats and stones read what stands here; none of them knows a kind.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar, cast

from tickstone.core.calibration.kind import CalibrationKind, Fit
from tickstone.core.chain import Chain, ChainInput, Node, Stage
from tickstone.core.checks.kind import CheckKind
from tickstone.core.digests.kind import DigestKind
from tickstone.core.finding import Finding
from tickstone.core.lines.guess import Quantity as Likely
from tickstone.core.quantity import Quantity
from tickstone.core.rules.kind import RuleKind
from tickstone.core.signal import Signal
from tickstone.core.stages.untouched import Untouched
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.core.studies.kind import StudyKind
from tickstone.core.surroundings import Surroundings


@dataclass(frozen=True, slots=True)
class Form:
    """A way in which an input may come.

    quantity: of its raw samples. units: what a column may be printed in, and how many of
    `quantity.unit` one of it is; the first is usual. late: the node whose result it stands for,
    when it enters the chain later than raw ticks do. loses: what is lost by that, one sentence.
    option: its name on the command line, for one sample. comes_as: what its columns are guessed to
    be, see `lines.guess`; the name of the quantity when empty. also: what else they may be guessed
    to be. is_events: whether a sample is there
    only because something happened, so that silence is no gap in the log.
    """

    name: str
    label: str
    quantity: Quantity
    units: Mapping[str, float]
    late: str = ""
    loses: str = ""
    option: str = ""
    comes_as: str = ""
    also: tuple[str, ...] = ()
    is_events: bool = False

    @property
    def likely(self) -> Likely:
        """What its columns are guessed to be."""
        return cast(Likely, self.comes_as or self.quantity.name)

    def may_be(self, quantity: str, unit: str) -> bool:
        """Whether a column of this likely quantity and unit may come so."""
        is_like = quantity == self.likely or quantity in self.also
        return is_like and (not unit or self.scale_of(unit) is not None)

    def in_lanes(self, count: int) -> Quantity:
        """The quantity of so many columns side by side; numbered where it names others."""
        if count == len(self.quantity.lanes):
            return self.quantity
        return self.quantity.in_lanes(*(str(n + 1) for n in range(count)))

    def scale_of(self, unit: str) -> float | None:
        """How many of the quantity's unit one of a unit is; None when it is none of this form's."""
        return self.units.get(unit)


@dataclass(frozen=True, slots=True)
class Role:
    """An input of a kind of sensor.

    names: what its columns are usually called, in lower case. most_lanes: how many columns it may
    have; least_lanes: how many it has to have. is_needed: whether the chain stands still without
    it.
    """

    name: str
    label: str
    forms: tuple[Form, ...]
    names: tuple[str, ...] = ()
    most_lanes: int = 1
    least_lanes: int = 1
    is_needed: bool = True

    def form(self, name: str) -> Form:
        """The form of that name; the usual one when empty. Raises KeyError."""
        if not name:
            return self.forms[0]
        return {one.name: one for one in self.forms}[name]

    def entry(
        self, forms: Mapping[str, str] | None, lanes: Mapping[str, int] | None
    ) -> tuple[Form, ChainInput]:
        """The form it comes in, and what enters the chain. forms, lanes: of every role, by name."""
        form = self.form((forms or {}).get(self.name, ""))
        count = (lanes or {}).get(self.name, len(form.quantity.lanes))
        return form, ChainInput(self.name, form.in_lanes(count))


@dataclass(frozen=True, slots=True)
class Output:
    """What a kind of sensor tells. The first that a chain of the kind gives is its headline.

    is_part: whether another output tells it as well, as one of its lanes: a page leaves it out.
    is_from_zero: whether it counts from where it began, so that it can be zeroed and read.
    """

    name: str
    label: str
    quantity: Quantity
    is_part: bool = False
    is_from_zero: bool = False


class ChainKind:
    """One kind of sensor.

    parameters: a dataclass of described inputs. roles: what enters. outputs: what it tells.
    calibrations, rules, checks, digests, studies: those it offers. sample: what its readings are
    called. fine: flags that say nothing against a recording. surroundings_node: the cell in which
    its surroundings are put in, if they have a say. unfiltered: parameters without which nothing is
    smoothed. filtered: the output that a filter of one's own, the parameter `smooth`, stands on.
    judged: the output that findings look at; the headline when empty.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    parameters: ClassVar[type]
    roles: ClassVar[tuple[Role, ...]]
    outputs: ClassVar[tuple[Output, ...]]
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = ()
    rules: ClassVar[tuple[RuleKind, ...]] = ()
    checks: ClassVar[tuple[CheckKind, ...]] = ()
    digests: ClassVar[tuple[DigestKind, ...]] = ()
    studies: ClassVar[tuple[StudyKind, ...]] = ()
    sample: ClassVar[str] = "readings"
    fine: ClassVar[tuple[Status, ...]] = ()
    surroundings_node: ClassVar[str] = ""
    unfiltered: ClassVar[Mapping[str, Any]] = {}
    filtered: ClassVar[str] = ""
    judged: ClassVar[str] = ""

    def build(
        self,
        parameters: Any,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """The chain. calibrations: stages by kind. forms: how each role comes, and in how many
        lanes, by role.
        """
        raise NotImplementedError

    def with_rules(self, chain: Chain, rules: Mapping[str, Stage]) -> Chain:
        """A chain of this kind with what is decided on what it gives. rules: stages by kind.

        A rule whose node the chain has already takes its place.
        """
        order = [one.name for one in self.outputs]
        for rule in self.rules:
            if rule.name not in rules:
                continue
            name = next(one.name for one in self.outputs if one.quantity == rule.decision)
            try:
                on = self.decides_on(chain, rule)
            except KeyError:
                continue  # What it decides on is not heard here.
            node = Node(rule.node, rules[rule.name], (on,))
            chain = chain.with_node(node, name)
        outputs = sorted(chain.outputs, key=lambda one: order.index(one[0]))
        return Chain(chain.inputs, chain.nodes, tuple(outputs))

    def decides_on(self, chain: Chain, rule: RuleKind) -> str:
        """The node whose results a rule takes."""
        return chain.node_of(rule.takes)

    def compared_with(
        self,
        calibration: CalibrationKind,
        parameters: Any,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage],
        forms: Mapping[str, str],
        lanes: Mapping[str, int] | None = None,
    ) -> tuple[Chain, str]:
        """What a calibration compares: the chain without it, and the node it looks at.

        Raises ValueError when that is not heard.
        """
        others = {**calibrations, calibration.name: Untouched()}
        chain = self.build(parameters, surroundings, others, forms, lanes)
        if calibration.compares:
            return chain, calibration.compares
        node = next((one for one in chain.nodes if one.name == calibration.node), None)
        if node is None:
            raise ValueError(f"nothing that {calibration.label.lower()} compares is heard here")
        return chain, node.after[0]

    def settled(self, parameters: Any, calibrations: Mapping[str, Stage]) -> Any:
        """The parameters with those replaced that a calibration has measured."""
        return parameters

    def headline(self, chain: Chain) -> Output:
        """What the sensor is there for: the first output that a chain of the kind gives."""
        given = dict(chain.outputs)
        return next(one for one in self.outputs if one.name in given)

    @property
    def asks_for(self) -> Quantity | None:
        """What the first calibration that asks for anything asks for."""
        return next((one.asks_for for one in self.calibrations if one.asks_for is not None), None)

    def role(self, name: str) -> Role:
        """The role of that name. Raises KeyError."""
        return {one.name: one for one in self.roles}[name]

    def inputs_like(self, quantity: str, unit: str) -> list[tuple[Role, Form]]:
        """Which inputs a column of this likely quantity and unit may be, and how it comes."""
        return [
            (role, form)
            for role in self.roles
            for form in role.forms
            if form.may_be(quantity, unit)
        ]

    def grounds(self, parameters: Any) -> dict[str, float | str]:
        """The parameters a calibration rests on, by the words a person knows them by."""
        return {}

    def rests_on_air(self, parameters: Any) -> bool:
        """Whether the air has a say in the readings."""
        return False

    def changed(
        self, made: Surroundings, now: Surroundings, parameters: Any
    ) -> tuple[str, str] | None:
        """Why what was made in some surroundings may not hold now: a few words, and a sentence."""
        return None

    def calibration_said(
        self, kind: CalibrationKind, fit: Fit, day: str, surroundings: Surroundings
    ) -> str:
        """What a calibration that holds says of itself, a sentence."""
        return f"{kind.label} of {day}: {kind.short(fit)}."

    def flagged_said(self, statuses: Mapping[Status, int], samples: int) -> tuple[str, str]:
        """How much of a recording is of no use: a few words, and how a sentence on it goes on."""
        share = 100.0 * sum(statuses.values()) / samples
        return f"{share:.0f} % flagged", f"{share:.0f} % of the readings in {{name}} are flagged"

    def findings(
        self, parameters: Any, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """What there is to say of a recording, or of the settings when there is none.

        signal: all of the output that is `judged`.
        """
        return ()

    def no_number(self, parameters: Any) -> str:
        """What to say when its settings keep it from ever reading."""
        return (
            "this sensor never reads anything as it is set. Open its cells and change what keeps "
            "it from reading"
        )

    def remedy(self, source: str) -> str:
        """What would make a source of doubt smaller, the beginning of a sentence; or nothing."""
        return ""

    def raw_for(
        self,
        value: float,
        parameters: Any,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Samples for each role whose last headline is `value`, or nearly so; None when nothing can
        be said.
        """
        return None

    def filter_lag_s(self, parameters: Any, sample_s: float) -> float:
        """How much later than the thing itself its readings are, when one comes every so often."""
        return 0.0

    def beside(self, output: str, step: Step, parameters: Any) -> str:
        """A word worth standing beside a reading, such as how wide it looks; or nothing."""
        return ""


def line_of(
    stages: Sequence[tuple[str, Stage]], entry: ChainInput, late: str = ""
) -> tuple[Node, ...]:
    """Stages one after the other as nodes. entry: what enters the first of them.

    late: what enters is already what this node gives; it and all before it are left out.
    """
    names = [name for name, _ in stages]
    if late:
        stages = stages[names.index(late) + 1 :]
    nodes = []
    before = entry.at
    for name, stage in stages:
        nodes.append(Node(name, stage, (before,)))
        before = name
    return tuple(nodes)
