"""Two rangers that look at one thing, as one: they vote."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from tickstone.core.chain import Chain, Node, Stage
from tickstone.core.chains.kind import Form, Output, Role
from tickstone.core.chains.ranging import (
    DISTANCE_OUTPUTS,
    METRES,
    Ranging,
    RangingParameters,
    mounted,
)
from tickstone.core.digests.agreement import Agreement
from tickstone.core.digests.kind import DigestKind
from tickstone.core.display import grouped
from tickstone.core.finding import Finding
from tickstone.core.findings import share_said, where_said
from tickstone.core.inputs import Choice, choice, number
from tickstone.core.quantity import DISTANCE
from tickstone.core.reading_units import SMALL_LENGTH
from tickstone.core.signal import Signal
from tickstone.core.stages.flight_noise import FlightNoise
from tickstone.core.stages.vote import FIRST, MEAN, NEARER, Vote
from tickstone.core.status import Status
from tickstone.core.surroundings import Surroundings

_OPTION = "-distance-m"


@dataclass(frozen=True, slots=True)
class TwoRangerParameters(RangingParameters):
    """How two rangers are put together. Lengths m."""

    how: str = choice(
        "While they agree",
        (
            Choice(MEAN, "their mean, by what each is worth"),
            Choice(NEARER, "the nearer"),
            Choice(FIRST, "the first"),
        ),
        node="vote",
    )
    apart_m: float = number(
        "At odds when apart by", "m", 0.10, 0.0, 20.0, "the nearer is told then", node="vote"
    )
    first_u_m: float = number(
        "The first scatters by", "m", 0.005, 1e-5, 5.0, "one standard deviation",
        node="first", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip
    second_u_m: float = number(
        "The second scatters by", "m", 0.005, 1e-5, 5.0, "one standard deviation",
        node="second", shown_as=SMALL_LENGTH, decimals=1,
    )  # fmt: skip

    def __post_init__(self) -> None:
        self.check()


class TwoRangers(Ranging):
    """Any two rangers on one scene.

    >>> from tickstone.core.air.conditions import AirConditions
    >>> chain = TwoRangers().build(
    ...     TwoRangerParameters(median_n=1), Surroundings(AirConditions(20.0)))
    >>> seen = {"first": Signal.of([0, 1], [0.30, 0.30], DISTANCE),
    ...         "second": Signal.of([0, 1], [0.32, 0.90], DISTANCE)}
    >>> chain.apply(seen, "distance").value.round(3).tolist()
    [0.31, 0.3]
    """

    name: ClassVar[str] = "two-rangers"
    label: ClassVar[str] = "Two rangers that vote"
    parameters: ClassVar[type] = TwoRangerParameters
    roles: ClassVar[tuple[Role, ...]] = tuple(
        Role(
            name, f"The {name}",
            (Form("distance", "worked out", DISTANCE, METRES, option=f"{name}{_OPTION}"),),
        )
        for name in ("first", "second")
    )  # fmt: skip
    outputs: ClassVar[tuple[Output, ...]] = (
        *DISTANCE_OUTPUTS,
        Output("first", "First", DISTANCE),
        Output("second", "Second", DISTANCE),
    )
    digests: ClassVar[tuple[DigestKind, ...]] = (Agreement(), *Ranging.digests)

    def build(
        self,
        parameters: TwoRangerParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
        forms: Mapping[str, str] | None = None,
        lanes: Mapping[str, int] | None = None,
    ) -> Chain:
        """Both, in range, to one."""
        entries = [role.entry(forms, lanes)[1] for role in self.roles]
        us = (parameters.first_u_m, parameters.second_u_m)
        nodes = [
            Node(entry.name, FlightNoise(1e-6, u, 0.0, 0.0), (entry.at,))
            for entry, u in zip(entries, us, strict=True)
        ]
        vote = Vote(parameters.how, *us, parameters.apart_m)
        nodes.append(Node("vote", vote, ("first", "second")))
        for name, stage in mounted(parameters):
            nodes.append(Node(name, stage, (nodes[-1].name,)))
        outputs = (("distance", nodes[-1].name), ("first", "first"), ("second", "second"))
        return Chain(tuple(entries), tuple(nodes), outputs)

    def findings(
        self, parameters: TwoRangerParameters, surroundings: Surroundings, signal: Signal | None
    ) -> Sequence[Finding]:
        """Where they are at odds, and where one is alone."""
        found: list[Finding] = []
        for status, title in (
            (Status.AT_ODDS, "The two are at odds"),
            (Status.ONE_ALONE, "Only one of them measured"),
        ):
            if signal is None:
                continue
            where = signal.flag == status
            count = int(np.count_nonzero(where))
            if count:
                share = share_said(count, len(signal))
                found.append(
                    Finding(
                        "warning" if count > 0.1 * len(signal) else "note",
                        f"{title} in {grouped(count, 0)} readings.",
                        f"That is {share}, {where_said(signal.time_s, where)}.",
                        "See which of them is right there.",
                    )
                )
        return found

    def raw_for(
        self,
        value: float,
        parameters: TwoRangerParameters,
        surroundings: Surroundings,
        calibrations: Mapping[str, Stage] | None = None,
    ) -> dict[str, Signal] | None:
        """Both at that distance."""
        face_m = min(max(value + parameters.mount_m, parameters.min_m), parameters.max_m)
        return {name: Signal.of([0.0], [face_m], DISTANCE) for name in ("first", "second")}
