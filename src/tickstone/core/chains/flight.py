"""The time-of-flight ranger: millimetres with a status word."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind
from tickstone.core.calibration.offset_cover import OffsetCoverKind
from tickstone.core.chain import Chain, ChainInput, Node, Stage
from tickstone.core.chains.kind import Form, Role
from tickstone.core.chains.ranging import METRES, Ranging, RangingParameters, mounted
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said, where_said
from tickstone.core.inputs import number, numbers
from tickstone.core.quantity import DISTANCE, Quantity
from tickstone.core.reading_units import SMALL_LENGTH
from tickstone.core.signal import Signal
from tickstone.core.stages.flight_noise import FlightNoise
from tickstone.core.stages.word_gate import WordGate
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

WORD = Quantity("status word", "", decimals=0)


@dataclass(frozen=True, slots=True)
class FlightParameters(RangingParameters):
    """What is known of one time-of-flight ranger. Lengths m.

    1 mm steps and precise to about 0.3 m are common practice, the rest from memory.
    """

    min_m: float = number("Nearest", "m", 0.03, 0.0, 20.0, node="range")
    max_m: float = number("Farthest", "m", 1.2, 0.0, 40.0, node="range")
    step_m: float = number(
        "It prints steps of",
        "m",
        0.001,
        1e-6,
        1.0,
        node="flight",
        shown_as=SMALL_LENGTH,
        decimals=1,
    )
    near_u_m: float = number(
        "Scatter up to there", "m", 0.002, 0.0, 1.0, "one standard deviation",
        node="flight", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    near_m: float = number("Precise to", "m", 0.3, 0.0, 40.0, node="flight", decimals=2)
    far_u: float = number(
        "Then for each metre", "m", 0.02, 0.0, 1.0, node="flight", shown_as=SMALL_LENGTH, decimals=0
    )
    good_words: tuple[float, ...] = numbers(
        "Good status words", "", 0.0, 65_535.0, "those that its datasheet calls valid", (0.0,),
        node="word", decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        self.check()
        if not self.good_words:
            raise ValueError("good_words: one at least has to be good")


class Flight(Ranging):
    """Light there and back, timed by the sensor itself.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Flight().build(FlightParameters(median_n=1), Surroundings(AirConditions(20.0)),
    ...                        forms={"range": "distance", "word": "word"})
    >>> told = chain.apply({"range": Signal.of([0, 1], [0.3, 0.4], DISTANCE),
    ...                     "word": Signal.of([0, 1], [0, 4], WORD)}, "distance")
    >>> told.flag.tolist()
    [0, 30]
    """

    name: ClassVar[str] = "flight"
    label: ClassVar[str] = "Time-of-flight ranger"
    parameters: ClassVar[type] = FlightParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "range", "Distance",
            (Form("distance", "distance, as it tells it", DISTANCE, METRES, option="distance-m"),),
            ("tof", "laser", "dist", "range"),
        ),
        Role(
            "word", "Status word", (Form("word", "status word", WORD, {"": 1.0}, option="word"),),
            ("status", "word", "state"), is_needed=False,
        ),
    )  # fmt: skip
    calibrations: ClassVar[tuple[CalibrationKind, ...]] = (OffsetCoverKind(),)

    def build(
        self,
        parameters: FlightParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """The sensor's own distance, its word, offset and cross-talk, mount and median."""
        _, entry = self.roles[0].entry(forms, lanes)
        entries = [entry]
        noise = FlightNoise(
            parameters.step_m, parameters.near_u_m, parameters.near_m, parameters.far_u
        )
        nodes = [Node("flight", noise, (entry.at,))]
        if "word" in (forms or {}):
            word = ChainInput("word", WORD)
            entries.append(word)
            nodes.append(Node("word", WordGate(parameters.good_words), ("flight", word.at)))
        rest = mounted(parameters)
        known = (calibrations or {}).get(OffsetCoverKind.name)
        if known is not None:
            rest = [("cover", known), *rest]
        for name, stage in rest:
            nodes.append(Node(name, stage, (nodes[-1].name,)))
        return Chain(tuple(entries), tuple(nodes), (("distance", nodes[-1].name),))

    def findings(
        self, parameters: FlightParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Readings that the sensor itself calls none."""
        if signal is None:
            return ()
        said_no = signal.flag == Status.SENSOR_SAYS_NO
        count = int(np.count_nonzero(said_no))
        if not count:
            return ()
        return (
            Finding(
                "warning" if count > 0.1 * len(signal) else "note",
                f"{grouped(count, 0)} readings the sensor itself calls none.",
                f"That is {share_said(count, len(signal))}, {where_said(signal.time_s, said_no)}. "
                "Sun, a dark or slanted target, or none within reach does that.",
                "They are flagged, not used.",
            ),
        )

    def remedy(self, source: str) -> str:
        """For noise and offset."""
        return {
            "flight noise": "A lighter target, shade, or a longer timing budget",
            "cover and offset": "More marks, near and far,",
            "mount": "Measuring the mount better",
        }.get(source, "")

    def raw_for(
        self,
        value: float,
        parameters: FlightParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """What the sensor prints at a distance, nearly: offset and cross-talk left out."""
        face_m = min(max(value + parameters.mount_m, parameters.min_m), parameters.max_m)
        return {"range": Signal.of([0.0], [face_m], DISTANCE)}
