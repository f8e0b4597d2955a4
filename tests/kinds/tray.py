"""A made-up kind of sensor, as a person would add one: a tray on two load cells.

Two lanes in, one output on a time axis of its own, a calibration with three poses, a rule with
three states. No file of the product knows of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit, Line, Pose, SpanResult
from tickstone.core.calibration.least_squares import linear
from tickstone.core.chain import Chain, ChainInput, Node, Pointwise
from tickstone.core.chains.kind import ChainKind, Form, Output, Role
from tickstone.core.doubt import Sources, lane_of
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import DecisionState, Quantity
from tickstone.core.rules.kind import RuleKind, Suggestion
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Operand, Step
from tickstone.core.uncertainty import Component, rectangular

COUNTS = Quantity("cell counts", "", decimals=0, lanes=("1", "2"))
LOAD = Quantity("load", "kg", decimals=2)
FILL = Quantity(
    "fill",
    "",
    states=(
        DecisionState("free", "free"),
        DecisionState("full", "full", is_alarm=True),
        DecisionState("over", "overloaded", is_alarm=True),
    ),
)


@dataclass(frozen=True, slots=True)
class Parameters:
    every_s: float = number("A reading every", "s", 0.5, 0.01, 60.0, node="sum")
    scale: float = number("Counts a kilogram", "", 100.0, 1e-3, 1e6, node="load")

    def __post_init__(self) -> None:
        check_inputs(self)


@dataclass(frozen=True, slots=True)
class Sum:
    """Both cells added up, the latest at every whole multiple of `every_s`."""

    every_s: float
    name = "sum"
    own_times = True

    def gives(self, *taken):
        return Quantity("sum", "")

    def begin(self):
        return (None, 0.0)

    def run(self, state, *signals):
        cells, (last, held) = signals[0], state
        ticks = np.floor(cells.time_s / self.every_s + 1e-9)
        before = np.concatenate(([np.nan if last is None else last], ticks[:-1]))
        at = np.flatnonzero(ticks != before) if len(cells) else np.empty(0, dtype=int)
        summed = Signal.of(
            cells.time_s[at], cells.values.sum(axis=0)[at], Quantity("sum", ""),
            cells.status.max(axis=0)[at], cells.until_s,
        )  # fmt: skip
        return summed, (float(ticks[-1]), held) if len(cells) else state

    def explain(self, state, *readings):
        one, two = readings[0].lanes
        part = Component("half a count", rectangular(0.5), "", rectangular(0.5), False, "each")
        return Step(
            "sum", "both cells", "", Operand(one.value, "", 0.0), "a + b",
            f"{one.value:g} + {two.value:g}", one.value + two.value, Quantity("sum", ""),
            Status(max(one.status, two.status)), (part,), "made up",
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Weigh(Pointwise):
    """(x − zero)/scale."""

    zero: float
    scale: float
    label: str
    name = "load"

    def gives(self, *taken):
        return LOAD

    def apply(self, *signals):
        return signals[0].replaced((signals[0].values - self.zero) / self.scale, quantity=LOAD)

    def explain(self, state, *readings):
        lane, sources = readings[0].lanes[0], Sources()
        result = lane_of((sources.of(lane) - self.zero) / self.scale, sources, lane)
        return Step(
            "load", self.label, "÷", Operand(self.scale, "", 0.0), "(x − zero)/scale",
            f"({lane.value:g} − {self.zero:g}) ÷ {self.scale:g}", result.value, LOAD,
            result.status, result.components, "made up",
        )  # fmt: skip


class ThreeLoads(CalibrationKind):
    """Empty, two kilograms, five kilograms."""

    name, label, node = "three-loads", "Three loads", "load"
    compares = "sum"
    least_spans = 3
    guide = "Put nothing, two and five kilograms on the tray, and mark each."
    deed = "Mark a load"
    poses = (
        Pose("empty", "Take everything off.", "Hold the tray still."),
        Pose("two", "Put two kilograms on."),
        Pose("five", "Put five kilograms on."),
    )
    known: ClassVar = {"empty": 0.0, "two": 2.0, "five": 5.0}

    def fit(self, spans, parameters):
        given = [span for span in spans if span.name in self.known and len(span.signal)]
        missing = [pose.name for pose in self.poses if pose.name not in {s.name for s in given}]
        if missing:
            raise ValueError(f"{', '.join(missing)} is not marked yet")
        read = np.array([span.signal.value.mean() for span in given])
        true = np.array([self.known[span.name] for span in given])
        parameters, covariance = linear(np.column_stack([np.ones(len(true)), true]), read)
        results = tuple(
            SpanResult(s.name, t, None, r, None, None, len(s.signal), 0, 0, True, True, 0.0)
            for s, t, r in zip(given, true.tolist(), read.tolist(), strict=True)
        )
        return Fit({"zero": parameters[0], "scale": parameters[1]}, covariance, {}, results)

    def stage(self, fit, absorbs_shared, label):
        return Weigh(fit.parameters["zero"], fit.parameters["scale"], "by three loads")

    def certificate(self, fit):
        return (Line("counts a kilogram", f"{fit.parameters['scale']:.1f}"),)

    def short(self, fit):
        return f"{fit.parameters['scale']:.1f} counts/kg"


@dataclass(frozen=True, slots=True)
class Limits:
    full_kg: float = number("Full from", "kg", 3.0, 0.0, 100.0)
    over_kg: float = number("Overloaded from", "kg", 4.5, 0.0, 100.0)

    def __post_init__(self) -> None:
        check_inputs(self)
        if not self.full_kg < self.over_kg:
            raise ValueError("over_kg: has to lie above the other")


@dataclass(frozen=True, slots=True)
class Judge(Pointwise):
    limits: Limits
    name = "threshold"

    def gives(self, *taken):
        return FILL

    def apply(self, *signals):
        states = np.digitize(signals[0].values, [self.limits.full_kg, self.limits.over_kg])
        return signals[0].replaced(states.astype(float), quantity=FILL)

    def explain(self, state, *readings):
        value = float(np.digitize(readings[0].value, [self.limits.full_kg, self.limits.over_kg]))
        return Step(
            "threshold", "how full", "⇒", Operand(None, "", 0.0, "two limits"), "", "", value,
            FILL, readings[0].status, (), "made up",
        )  # fmt: skip


class FillRule(RuleKind):
    name, label, takes, decision = "fill", "How full", "load", FILL
    parameters, evidence, words = Limits, Limits, ("What it carries", "When it tells")

    def stage(self, parameters, chain_parameters):
        return Judge(parameters)

    def suggest(self, evidence, known, tried=None):
        told = {"full_kg": evidence.full_kg, "over_kg": evidence.over_kg}
        return Suggestion(parameters=told, parts=(), note="As asked.")

    def short(self, parameters):
        return f"full from {parameters.full_kg:g} kg"

    def sentence(self, parameters, needed):
        return f"Full from {parameters.full_kg:g} kg."


COUNTED = Form("counts", "counts of a cell", COUNTS, {"": 1.0}, option="counts")


class Tray(ChainKind):
    name, label, parameters = "tray", "Load tray", Parameters
    roles = (Role("cells", "Cells", (COUNTED,), ("cell",), most_lanes=2),)
    outputs = (Output("load", "Load", LOAD), Output("fill", "Fill", FILL))
    calibrations, rules, sample = (ThreeLoads(),), (FillRule(),), "weighings"

    def build(self, parameters, surroundings, calibrations=None, forms=None, lanes=None):
        known = (calibrations or {}).get("three-loads")
        nodes = [
            Node("sum", Sum(parameters.every_s), ("@cells",)),
            Node("load", known or Weigh(0.0, parameters.scale, "as typed"), ("sum",)),
        ]
        return Chain((ChainInput("cells", COUNTS),), tuple(nodes), (("load", "load"),))
