"""Reflective sensors, one or a row: light that comes back, and where a line lies under them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from tickstone.core.calibration.black_white import BlackWhiteKind
from tickstone.core.calibration.black_white_heaps import COMPARED
from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.chain import Chain, Node, Stage
from tickstone.core.chains.converter import CODE_UNITS, converter_stages
from tickstone.core.chains.kind import ChainKind, Form, Output, Role, line_of
from tickstone.core.digests.kind import DigestKind
from tickstone.core.digests.line_schemes import LineSchemes
from tickstone.core.digests.line_states import LineStates
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said, where_said
from tickstone.core.inputs import Choice, check_inputs, choice, number, numbers, whole
from tickstone.core.line_row import MOST_SENSORS, Row, even_places_m
from tickstone.core.quantity import (
    COUNTS,
    DRIFT,
    LEVEL,
    LIGHTNESS,
    PLACE,
    REFLECTED,
    VOLTAGE,
)
from tickstone.core.reading_units import MILLISECONDS, SMALL_LENGTH
from tickstone.core.rules.kind import RuleKind
from tickstone.core.rules.line_table import LineTable
from tickstone.core.rules.line_thresholds import LineThresholds
from tickstone.core.signal import Signal
from tickstone.core.stages.lane_state import SURFACE, LaneState
from tickstone.core.stages.lightness import Lightness, Surfaces
from tickstone.core.stages.line_action import ACTION
from tickstone.core.stages.line_place import LinePlace
from tickstone.core.stages.line_situation import SITUATION, LineSituation
from tickstone.core.stages.no_place import NoPlace
from tickstone.core.stages.rate_of_change import RateOfChange
from tickstone.core.status import Status
from tickstone.core.studies.angle import AngleStudy
from tickstone.core.studies.board_check import BoardCheck
from tickstone.core.studies.height import HeightStudy
from tickstone.core.studies.kind import StudyKind
from tickstone.core.studies.load import LoadStudy
from tickstone.core.surroundings import Surroundings

_USUAL = Surfaces(800.0, 200.0, 5.0, 5.0)
"""Of a sensor nobody has shown black and white, where one has to be had for a sum."""


@dataclass(frozen=True, slots=True)
class ReflectanceParameters:
    """What is known of the sensors and of the line. Lengths m, volts V, times s.

    The defaults are common practice, but for spot and saturation, which are from memory.

    Raises ValueError naming the first parameter that cannot be.
    """

    bits: int = whole(
        "Converter", 10, 4, 24, "bits", (8, 10, 12, 16), node="counts", option=("bits", 1.0)
    )
    reference_v: float = number("Reference", "V", 5.0, 0.05, 60.0, node="volts", decimals=2)
    reference_percent: float = number("Known to, ±", "%", 2.0, 0.0, 50.0, node="volts", decimals=1)
    saturated_v: float = number(
        "At its end within", "V", 0.15, 0.0, 5.0, "of a rail the sensor takes in all it can",
        node="lightness", decimals=2,
    )  # fmt: skip
    more_light: str = choice(
        "More light reads",
        (
            Choice("unknown", "what black and white show"),
            Choice("lower", "lower: resistor to the supply"),
            Choice("higher", "higher: resistor to ground"),
        ),
        help_text="learnt as a rule; say it only if you know",
        node="lightness",
    )
    height_m: float = number(
        "Above the floor", "m", 0.006, 0.0, 1.0, "black and white hold for one height",
        node="lightness", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    line_is: str = choice(
        "The line is", (Choice("dark", "dark, on light"), Choice("light", "light, on dark")),
        node="situation",
    )  # fmt: skip
    line_m: float = number(
        "It is wide", "m", 0.019, 1e-4, 2.0, node="position", shown_as=SMALL_LENGTH, decimals=1
    )
    spot_m: float = number(
        "A sensor sees", "m", 0.006, 1e-4, 0.5, "across; about its height",
        node="position", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    pitch_m: float = number(
        "Sensor to sensor", "m", 0.010, 1e-4, 1.0, node="position",
        shown_as=SMALL_LENGTH, decimals=2,
    )  # fmt: skip
    places_m: tuple[float, ...] = numbers(
        "Places, if uneven", "m", -5.0, 5.0, "from left to right, rising; one for each sensor",
        node="position", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    first_is: str = choice(
        "The first is", (Choice("left", "on the left"), Choice("right", "on the right")),
        node="position",
    )  # fmt: skip
    middle_m: float = number(
        "Row right of the middle", "m", 0.0, -2.0, 2.0, "negative if it sits to the left",
        node="position", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    bar_after_s: float = number(
        "A bar after", "s", 0.3, 0.0, 60.0, "all sensors on it; shorter is a crossing",
        node="situation", shown_as=MILLISECONDS, decimals=0,
    )  # fmt: skip
    drift_s: float = number(
        "Drift over", "s", 0.2, 0.01, 60.0, node="drift", shown_as=MILLISECONDS, decimals=0
    )

    def __post_init__(self) -> None:
        check_inputs(self)
        if any(not b > a for a, b in zip(self.places_m, self.places_m[1:], strict=False)):
            raise ValueError("places_m: they have to rise from left to right, each once")

    def row(self, count: int) -> Row | None:
        """The row of so many sensors; None when it is told where another number of them sits."""
        places = self.places_m or even_places_m(count, self.pitch_m)
        if len(places) != count:
            return None
        return Row(places, self.line_m, self.spot_m)


_FORMS = (
    Form(
        "counts", "converter counts", COUNTS, CODE_UNITS, option="counts",
        comes_as="converter counts",
    ),
    Form(
        "volts", "volts", VOLTAGE, {"V": 1.0, "mV": 1e-3}, late="volts", option="volts",
        loses="Which code of the converter it was is gone, so that its ends cannot be told.",
    ),
    Form(
        "percent", "reflectance, already worked out", REFLECTED, {"%": 0.01}, late="volts",
        option="percent", loses="What the sensor takes for black and white is in every reading.",
    ),
    Form(
        "level", "dark or light, from a comparator", LEVEL, {"": 1.0}, late="volts",
        option="level", comes_as="pulse",
        loses="How dark it was is gone: only the side of the trimmer’s threshold is left.",
    ),
)  # fmt: skip


class Reflectance(ChainKind):
    """Reflective sensors over a floor: 1 to 16 of them.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> known = Lightness((Surfaces(800.0, 200.0),) * 3)
    >>> chain = Reflectance().build(
    ...     ReflectanceParameters(spot_m=0.01), Surroundings(AirConditions(20.0)),
    ...     {"black-white": known}, lanes={"light": 3})
    >>> counts = Signal.of([0, 1], [[200, 200], [800, 500], [200, 800]], COUNTS.in_lanes(*"123"))
    >>> chain.apply(counts, "position").value.round(3).tolist()
    [-0.0, 0.009]
    """

    name: ClassVar[str] = "reflectance"
    label: ClassVar[str] = "Reflective sensors"
    parameters: ClassVar[type] = ReflectanceParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "light", "Reflected light", _FORMS, ("ir", "line", "strip", "refl", "s"),
            most_lanes=MOST_SENSORS,
        ),
    )  # fmt: skip
    outputs: ClassVar[tuple[Output, ...]] = (
        Output("position", "Line", PLACE),
        Output("lightness", "Lightness", LIGHTNESS),
        Output("volts", "Volts", VOLTAGE),
        Output("drift", "Drift", DRIFT),
        Output("situation", "Sees", SITUATION),
        Output("action", "Does", ACTION),
        Output("state", "Dark or light", SURFACE),
    )
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (BlackWhiteKind(),)
    rules: ClassVar[tuple[RuleKind, ...]] = (LineThresholds(), LineTable())
    digests: ClassVar[tuple[DigestKind, ...]] = (LineStates(), LineSchemes())
    studies: ClassVar[tuple[StudyKind, ...]] = (
        BoardCheck(), HeightStudy(), AngleStudy(), LoadStudy(),
    )  # fmt: skip
    fine: ClassVar[tuple[Status, ...]] = (
        Status.UNCALIBRATED, Status.LOST, Status.ALL_ON_LINE, Status.SEEN_TWICE, Status.SATURATED,
        Status.LIFTED,
    )  # fmt: skip

    def build(
        self,
        parameters: ReflectanceParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """What enters to lightness and states; a row also tells where the line is."""
        form, entry = self.roles[0].entry(forms, lanes)
        count = len(entry.quantity.lanes)
        light = (calibrations or {}).get(BlackWhiteKind.name)
        light = light or _unshown(parameters, form.name, count)
        ends, volts = converter_stages(parameters)
        stages: list[tuple[str, Stage]] = [ends, volts]
        if form.name in ("counts", "volts") and isinstance(light, Lightness):
            # Known in codes they are as good in volts, through the same converter.
            if light.of == COUNTS.name or (not light.of and form.name == "counts"):
                light = _in_volts(light, volts[1].lsb_v)
            dark_v = parameters.reference_v - parameters.saturated_v
            light = _with_end(light, parameters.saturated_v, dark_v)
        stages += [("lightness", light), ("state", LaneState())]
        nodes = line_of(stages, entry, form.late)
        outputs = [("lightness", "lightness"), ("state", "state")]
        if form.name in ("counts", "volts"):
            outputs.append(("volts", "volts" if form.name == "counts" else entry.at))
        row = parameters.row(count) if count > 1 else None
        if count > 1 and row is None:
            unplaced = NoPlace(len(parameters.places_m))
            nodes = (*nodes, Node("position", unplaced, ("lightness",)))
            outputs.append(("position", "position"))
        if row is not None:
            nodes = (*nodes, *_row_nodes(parameters, row, light))
            outputs += [("position", "position"), ("situation", "situation"), ("drift", "drift")]
        return Chain((entry,), nodes, tuple(outputs))

    def compared_with(
        self,
        calibration: CalibrationKind,
        parameters: Any,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage],
        forms: Mapping[str, str],
        lanes: Mapping[str, int] | None = None,
    ) -> tuple[Chain, str]:
        """The counts, or whatever else comes in their place."""
        chain = self.build(parameters, surroundings, {}, forms, lanes)
        is_there = any(one.name == calibration.compares for one in chain.nodes)
        return chain, calibration.compares if is_there else chain.inputs[0].at

    def grounds(self, parameters: ReflectanceParameters) -> dict[str, float | str]:
        """Converter and height."""
        return {"converter": float(parameters.bits), "height": parameters.height_m}

    def findings(
        self,
        parameters: ReflectanceParameters,
        surroundings: Surroundings,
        signal: Signal | None,
    ) -> Sequence[Finding]:
        """Where the line was lost, and where room light came in."""
        if signal is None:
            return ()
        return (*_unplaced(parameters, signal), *_row_findings(signal))

    def no_number(self, parameters: ReflectanceParameters) -> str:
        """Black and white are missing."""
        return (
            "these sensors tell nothing yet: what is black and what is white to each is not known. "
            "Wave the row across the line on the bench before this one"
        )

    def remedy(self, source: str) -> str:
        """For what hides between the sensors, and noise."""
        return {
            "gap between sensors": "A narrower pitch, a wider spot, or another width of line",
            "reading noise": "More light back, or the mean of several readings,",
            "black and white": "A longer wave",
        }.get(source, "")

    def raw_for(
        self,
        value: float,
        parameters: ReflectanceParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """What a row reads with the line there, in what its black and white are known; of one
        sensor, what it reads at that lightness.
        """
        known = (calibrations or {}).get(BlackWhiteKind.name)
        surfaces = known.lanes if isinstance(known, Lightness) and known.lanes else ()
        of = known.of if isinstance(known, Lightness) else ""
        quantity = next((one for one in COMPARED if one.name == of), COUNTS)
        count = len(surfaces) or len(parameters.places_m)
        row = parameters.row(count) if count else None
        if row is None:
            return None
        surfaces = surfaces or (_USUAL,) * count
        if count == 1:
            light = np.array([value])
        else:
            dark = row.covered(_mirrored(value, parameters))
            light = 1.0 - dark if parameters.line_is == "dark" else dark
            light = light if parameters.first_is == "left" else light[::-1]
        read = [
            [one.black + share * (one.white - one.black)]
            for one, share in zip(surfaces, light.tolist(), strict=True)
        ]
        names = [str(n + 1) for n in range(count)] if count > 1 else [""]
        return {"light": Signal.of([0.0], read, quantity.in_lanes(*names))}


def _mirrored(value: float, parameters: ReflectanceParameters) -> float:
    """A place under the cart as one under the row, m."""
    return value - parameters.middle_m


def _unshown(parameters: ReflectanceParameters, form: str, count: int) -> Lightness:
    """What stands in for black and white that nobody has shown: nothing, unless what comes says by
    itself how light it is.
    """
    if form == "percent":
        return Lightness((Surfaces(0.0, 1.0),) * count, label="as the sensor tells it")
    if form == "level" and parameters.more_light != "unknown":
        high, low = Surfaces(0.0, 1.0), Surfaces(1.0, 0.0)
        way = high if parameters.more_light == "higher" else low
        return Lightness((way,) * count, label="as its settings say")
    return Lightness(())


def _in_volts(light: Lightness, lsb_v: float) -> Lightness:
    """Black and white known in codes, for what enters in volts."""
    lanes = tuple(one.scaled(lsb_v, 0.5 * lsb_v) for one in light.lanes)
    return replace(light, lanes=lanes, of=VOLTAGE.name)


def _with_end(light: Lightness, low_v: float, high_v: float) -> Lightness:
    """Where the sensor itself takes in all the light it can: at the rail on the light side."""
    if not light.lanes:
        return light
    if light.lanes[0].white < light.lanes[0].black:
        return replace(light, low_end=low_v)
    return replace(light, high_end=high_v)


def _row_nodes(parameters: ReflectanceParameters, row: Row, light: Stage) -> tuple[Node, ...]:
    """What only several sensors together tell."""
    is_dark = parameters.line_is == "dark"
    is_flipped = parameters.first_is == "right"
    noise = light.noise if isinstance(light, Lightness) else 0.01
    place = LinePlace(row, is_dark, parameters.middle_m, noise, is_flipped)
    situation = LineSituation(row, is_dark, parameters.bar_after_s, is_flipped)
    return (
        Node("situation", situation, ("state",)),
        Node("position", place, ("lightness", "situation")),
        Node("drift", RateOfChange(parameters.drift_s, DRIFT), ("position",)),
    )


def _unplaced(parameters: ReflectanceParameters, signal: Signal) -> list[Finding]:
    """What to say when it is told where every sensor sits, but of another number of them."""
    if not (signal.flag == Status.UNPLACED).any():
        return []
    return [
        Finding(
            "error",
            f"Places are told for {len(parameters.places_m)} sensors; the row has another number.",
            "So there is no place of the line.",
            "Open the cell of the weighted mean: tell a place for each, or none for an even pitch.",
        )
    ]


def _row_findings(signal: Signal) -> list[Finding]:
    found = []
    for status, severity, title, remedy in (
        (Status.FLOODED, "warning", "Room light gets under the row", "Shade it, or lower it."),
        (Status.LOST, "note", "The line was lost", "A wider row, a slower bend, a quicker loop."),
        (Status.LIFTED, "note", "The row was off the floor", ""),
        (Status.SEEN_TWICE, "note", "The line was seen twice", "Clean the floor; is it a fork?"),
    ):  # fmt: skip
        where = signal.flag == status
        count = int(np.count_nonzero(where))
        if count:
            said = f"{share_said(count, len(signal))}, {where_said(signal.time_s, where)}."
            found.append(
                Finding(
                    severity, f"{title} in {grouped(count, 0)} readings.", f"That is {said}", remedy
                )
            )
    if len(signal) and (signal.flag == Status.UNCALIBRATED).all():
        found.append(
            Finding(
                "note",
                "Black and white are not known yet.",
                "Until then there are volts, but no dark and no light, and no place of the line.",
                "Wave the row across the line, and mark that on the Calibrated bench.",
            )
        )
    return found
