"""Thermometer: what it prints, its own warmth taken off, and the mean of the last few."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from tickstone.core.chain import Chain, Stage
from tickstone.core.chains.kind import ChainKind, Form, Output, Role, line_of
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said, where_said
from tickstone.core.inputs import check_inputs, number, numbers, whole
from tickstone.core.quantity import TEMPERATURE
from tickstone.core.signal import Signal
from tickstone.core.stages.moving_average import MovingAverage
from tickstone.core.stages.own_heat import OwnHeat
from tickstone.core.stages.stated_accuracy import StatedAccuracy
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

_OUTPUT = TEMPERATURE


@dataclass(frozen=True, slots=True)
class ThermometerParameters:
    """What is known of the thermometer. Temperatures °C, differences K, times s.

    ± 0.5, steps of 1/16 and the two values that mean a failure are common practice; warmth and lag
    are from memory.

    Raises ValueError naming the first parameter that cannot be.
    """

    accuracy_k: float = number("Right to, ±", "K", 0.5, 0.0, 50.0, node="accuracy", decimals=2)
    step_k: float = number("Prints steps of", "K", 0.0625, 0.0, 10.0, node="accuracy", decimals=4)
    failures: tuple[float, ...] = numbers(
        "Means a failure", "°C", -300.0, 1000.0, "what it prints when it was not ready, or is gone",
        (85.0, -127.0), node="accuracy", decimals=1,
    )  # fmt: skip
    heat_k: float = number(
        "Own warmth", "K", 0.0, -20.0, 20.0, "or that of a warm part beside it; is taken off",
        node="own-heat", decimals=1,
    )  # fmt: skip
    heat_within_k: float = number("Known to, ±", "K", 0.5, 0.0, 20.0, node="own-heat", decimals=1)
    mean_n: int = whole("Mean of", 30, 1, 1000, "readings", (1, 5, 10, 30), node="mean")
    lag_s: float = number(
        "Follows the air in", "s", 30.0, 0.0, 3600.0, "63 % of a change; in a case longer",
        node="mean", decimals=0,
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_inputs(self)


class Thermometer(ChainKind):
    """A digital thermometer.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = Thermometer().build(ThermometerParameters(), Surroundings(AirConditions(20.0)))
    >>> chain.apply(Signal.of([0, 1, 2], [21.0, 21.5, -127.0], TEMPERATURE)).value.tolist()
    [21.0, 21.25, -127.0]
    """

    name: ClassVar[str] = "thermometer"
    label: ClassVar[str] = "Thermometer"
    parameters: ClassVar[type] = ThermometerParameters
    roles: ClassVar[tuple[Role, ...]] = (
        Role(
            "temperature", "Temperature",
            (
                Form(
                    "celsius", "°C, as it prints them", TEMPERATURE, {"°C": 1.0, "": 1.0},
                    option="celsius", comes_as="temperature",
                ),
            ),
            ("temp", "air", "t"),
        ),
    )  # fmt: skip
    unfiltered: ClassVar[Mapping[str, Any]] = {"mean_n": 1}
    outputs: ClassVar[tuple[Output, ...]] = (Output("temperature", "Temperature", _OUTPUT),)

    def build(
        self,
        parameters: ThermometerParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """As it prints it, less its own warmth, and the mean."""
        form, entry = self.roles[0].entry(forms, lanes)
        stages: list[tuple[str, Stage]] = [
            (
                "accuracy",
                StatedAccuracy(parameters.accuracy_k, parameters.step_k, parameters.failures),
            ),
            ("own-heat", OwnHeat(parameters.heat_k, parameters.heat_within_k)),
        ]
        if parameters.mean_n > 1:
            stages.append(("mean", MovingAverage(parameters.mean_n)))
        nodes = line_of(stages, entry, form.late)
        return Chain((entry,), nodes, (("temperature", stages[-1][0]),))

    def findings(
        self, parameters: ThermometerParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Where it failed, and that it lags."""
        if signal is None or len(signal) == 0:
            return ()
        found = []
        failed = signal.flag == Status.SENSOR_SAYS_NO
        count = int(np.count_nonzero(failed))
        if count:
            those = "1 reading is" if count == 1 else f"{grouped(count, 0)} readings are"
            found.append(
                Finding(
                    "warning",
                    f"{those} what it prints when it failed.",
                    f"That is {share_said(count, len(signal))}, "
                    f"{where_said(signal.time_s, failed)}: not ready yet, or not connected.",
                    "Wait for its conversion, and check the data lead and its pull-up.",
                )
            )
        lasted_s = float(signal.time_s[-1] - signal.time_s[0])
        if lasted_s < 5.0 * parameters.lag_s:
            found.append(
                Finding(
                    "note",
                    "It may not have come to the air’s temperature yet.",
                    f"It follows in about {parameters.lag_s:.0f} s, and this lasted "
                    f"{lasted_s:.0f} s.",
                    f"Give it {5.0 * parameters.lag_s:.0f} s in the very air it is to tell.",
                )
            )
        return found

    def filter_lag_s(self, parameters: ThermometerParameters, sample_s: float) -> float:
        """That of the mean, and its own."""
        return (parameters.mean_n - 1) / 2 * sample_s + parameters.lag_s

    def remedy(self, source: str) -> str:
        """For its own warmth."""
        return {
            "accuracy": "A better thermometer",
            "own warmth": "A longer lead, away from warm parts,",
        }.get(source, "")

    def raw_for(
        self,
        value: float,
        parameters: ThermometerParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """What it prints at that."""
        return {"temperature": Signal.of([0.0], [value + parameters.heat_k], TEMPERATURE)}
