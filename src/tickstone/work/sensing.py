"""A stored sensor as a chain: its kind, parameters, calibrations and rule, put together once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session

from tickstone.core.air.conditions import AirConditions
from tickstone.core.calibration.kind import CalibrationKind, Fit, SpanResult
from tickstone.core.chain import Chain, Stage
from tickstone.core.chains import CHAINS
from tickstone.core.chains.kind import ChainKind
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.inputs import known_only, with_inputs
from tickstone.core.misfit import MisfitError, first_misfit
from tickstone.core.rules.kind import RuleKind
from tickstone.core.surroundings import Surroundings
from tickstone.store.models import Calibration, Recording, Rule, Sensor, Take
from tickstone.work.catalogue import Catalogue


@dataclass(frozen=True, slots=True)
class Sensing:
    """All that a chain is built from.

    calibrations, rules: stages by kind. forms, lanes: how each input comes, and in how many lanes.
    """

    kind: ChainKind
    parameters: Any
    surroundings: Surroundings
    calibrations: Mapping[str, Stage] = field(default_factory=dict)
    rules: Mapping[str, Stage] = field(default_factory=dict)
    forms: Mapping[str, str] = field(default_factory=dict)
    lanes: Mapping[str, int] = field(default_factory=dict)

    def chain(self) -> Chain:
        """The chain, without what does not fit what is heard."""
        return self.fitted()[0]

    def fitted(self) -> tuple[Chain, dict[str, MisfitError]]:
        """The chain, and why which calibrations and rules were left out: they were made for other
        inputs, such as a row of more sensors than are heard.
        """
        calibrations, rules = dict(self.calibrations), dict(self.rules)
        names = {one.node: one.name for one in self.kind.calibrations}
        names |= {one.node: one.name for one in self.kind.rules}
        left_out: dict[str, MisfitError] = {}
        while True:
            chain = self.kind.build(
                self.parameters, self.surroundings, calibrations, self.forms, self.lanes
            )
            chain = self.kind.with_rules(chain, rules)
            # As long as nothing is heard, nothing is amiss.
            misfit = first_misfit(chain) if self.lanes else None
            if misfit is None:
                return chain, left_out
            node, error = misfit
            name = names[node]
            (calibrations if name in calibrations else rules).pop(name)
            left_out[name] = error

    def compared_with(self, calibration: CalibrationKind) -> tuple[Chain, str]:
        """What a calibration compares: the chain without it, and the node it looks at."""
        return self.kind.compared_with(
            calibration,
            self.parameters,
            self.surroundings,
            self.calibrations,
            self.forms,
            self.lanes,
        )


def kind_of(sensor: Sensor, catalogue: Catalogue) -> ChainKind | None:
    """What kind of chain a sensor has; None when its family has none."""
    family = catalogue.devices.get(sensor.family)
    return CHAINS.get(family.chain) if family is not None else None


def parameters_of(sensor: Sensor, kind: ChainKind) -> Any:
    """The sensor's parameters: the kind's defaults, its family's, and what the person changed."""
    return with_inputs(kind.parameters, known_only(kind.parameters, sensor.parameters))


def sensing_of(
    session: Session,
    sensor: Sensor,
    kind: ChainKind,
    surroundings: Surroundings,
    with_rules: bool = True,
) -> Sensing:
    """A sensor as it is set now, in some surroundings."""
    parameters = parameters_of(sensor, kind)
    rules = rules_in_use(session, sensor.id) if with_rules else []
    return Sensing(
        kind,
        parameters,
        surroundings,
        calibration_stages(sensor, kind, parameters, surroundings),
        {one.kind: rule_stage(kind, one.kind, one.parameters, parameters) for one in rules},
    )


def calibration_stages(
    sensor: Sensor, kind: ChainKind, parameters: Any, surroundings: Surroundings
) -> dict[str, Stage]:
    """The calibrations in use as stages, for readings taken in these surroundings."""
    known = {one.name: one for one in kind.calibrations}
    return {
        used.kind: calibration_stage(
            known[used.kind], used.calibration, kind, parameters, surroundings
        )
        for used in sensor.in_use
        if used.kind in known
    }


def calibration_stage(
    calibration: CalibrationKind,
    row: Calibration,
    kind: ChainKind,
    parameters: Any,
    surroundings: Surroundings,
) -> Stage:
    """A stored calibration as a stage.

    It takes in the shared errors only in surroundings like those of its marks, and with the same
    chain.
    """
    made_in = surroundings_from(row.surroundings)
    is_alike = kind.changed(made_in, surroundings, parameters) is None
    absorbs = is_alike and row.grounds == kind.grounds(parameters)
    return calibration.stage(fit_of(row), absorbs, label_of(row))


def label_of(row: Calibration) -> str:
    """What a calibration rests on and when it was made, in a few words."""
    count = spans_used(row)
    return f"{count} mark{'' if count == 1 else 's'}, {row.made_at:%-d %b %Y}"


def spans_used(row: Calibration) -> int:
    """How many spans a fit rests on."""
    return sum(bool(span["is_used"]) for span in row.evidence)


def fit_of(row: Calibration) -> Fit:
    """A stored calibration as it was fitted, without its remarks."""
    names = SpanResult.__dataclass_fields__
    return Fit(
        parameters=row.parameters,
        covariance=np.array(row.covariance, dtype=np.float64),
        statistics=row.statistics,
        spans=tuple(
            SpanResult(**{name: span[name] for name in names if name in span})
            for span in row.evidence
        ),
        heaps=tuple(LaneHeaps.from_json(one) for one in row.heaps),
    )


def rule_kind(kind: ChainKind, name: str) -> RuleKind:
    """The kind of rule of that name. Raises ValueError when the sensor's kind offers none such."""
    for one in kind.rules:
        if one.name == name:
            return one
    known = ", ".join(one.name for one in kind.rules) or "none"
    raise ValueError(f"there is no rule “{name[:40]}” for this kind of sensor; known: {known}")


def rule_stage(
    kind: ChainKind, name: str, parameters: Mapping[str, Any], chain_parameters: Any
) -> Stage:
    """A rule as a stage. Raises ValueError when it cannot be."""
    rule = rule_kind(kind, name)
    return rule.stage(with_inputs(rule.parameters, parameters), chain_parameters)


def surroundings_of_take(take: Take) -> Surroundings:
    """What a take was recorded in."""
    return Surroundings(take.air)


def surroundings_from(document: Mapping[str, Any]) -> Surroundings:
    """Surroundings as they are kept."""
    return Surroundings(AirConditions(**document["air"]))


def surroundings_as_json(surroundings: Surroundings) -> dict[str, Any]:
    """Surroundings as they are kept."""
    return asdict(surroundings)


def rules_in_use(session: Session, sensor_id: int) -> list[Rule]:
    """The rules in use: of each kind the newest that is not deleted."""
    return rules_of(session, [sensor_id]).get(sensor_id, [])


def rules_of(session: Session, sensor_ids: Sequence[int]) -> dict[int, list[Rule]]:
    """The rules in use of each sensor that has any, all in one question."""
    rows = session.scalars(
        select(Rule)
        .ext(distinct_on(Rule.sensor_id, Rule.kind))
        .where(Rule.sensor_id.in_(sensor_ids), Rule.deleted_at.is_(None))
        .order_by(Rule.sensor_id, Rule.kind, Rule.set_at.desc(), Rule.id.desc())
    )
    found: dict[int, list[Rule]] = {}
    for row in rows:
        found.setdefault(row.sensor_id, []).append(row)
    return found


def latest_recording(session: Session, sensor_id: int) -> Recording | None:
    """The newest recording that is not deleted."""
    return latest_recordings(session, [sensor_id]).get(sensor_id)


def latest_recordings(session: Session, sensor_ids: Sequence[int]) -> dict[int, Recording]:
    """The newest recording of each sensor that has one, all in one question."""
    rows = session.scalars(
        select(Recording)
        .ext(distinct_on(Recording.sensor_id))
        .where(Recording.sensor_id.in_(sensor_ids), Recording.deleted_at.is_(None))
        .join(Take, Take.id == Recording.take_id)
        .order_by(Recording.sensor_id, Take.recorded_at.desc(), Recording.id.desc())
    )
    return {row.sensor_id: row for row in rows}
