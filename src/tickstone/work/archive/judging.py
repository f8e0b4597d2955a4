"""What only the kind of a sensor can judge of an archive: before any row of it is made."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np

from tickstone.core.calibration.kind import Fit, SpanResult
from tickstone.core.chains import CHAINS
from tickstone.core.chains.kind import ChainKind
from tickstone.core.heaps.lanes import LaneHeaps
from tickstone.core.inputs import known_only, with_inputs
from tickstone.store.models import Study
from tickstone.work.archive.versions import UnreadableArchiveError
from tickstone.work.catalogue import Catalogue
from tickstone.work.sensing import rule_stage
from tickstone.work.studies import outcome_of, study_kind


def judge(document: dict[str, Any], catalogue: Catalogue) -> None:
    """Parameters, marks, calibrations, rules and studies, by the kinds of their sensors.

    Raises UnreadableArchiveError naming the first row that cannot be.
    """
    kinds = {
        row["id"]: CHAINS.get(catalogue.devices[row["family"]].chain) for row in document["sensors"]
    }
    parameters: dict[int, Any] = {}
    for number, row in enumerate(document["sensors"], start=1):
        if (kind := kinds[row["id"]]) is not None:
            with _named("sensors", number):
                known = known_only(kind.parameters, row["parameters"])
                parameters[row["id"]] = with_inputs(kind.parameters, known)
    for section, check in (
        ("marks", _check_mark),
        ("calibrations", _check_calibration),
        ("rules", _check_rule),
        ("studies", _check_study),
    ):
        for number, row in enumerate(document[section], start=1):
            if (kind := kinds.get(row["sensor_id"])) is not None:
                with _named(section, number):
                    check(kind, row, parameters[row["sensor_id"]])


@contextmanager
def _named(section: str, number: int) -> Iterator[None]:
    """Says which row it is that cannot be."""
    try:
        yield
    except ValueError as error:
        raise UnreadableArchiveError(f"rig.json, {section}, number {number}: {error}.") from error


def _check_mark(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    calibration = next((one for one in kind.calibrations if one.name == row["calibration"]), None)
    if calibration is not None and row["value"] is not None:
        low, high = calibration.values_within
        if not low <= row["value"] <= high:
            raise ValueError(f"value: {row['value']:g} is outside {low:g} to {high:g}")


def _check_calibration(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    calibration = next((one for one in kind.calibrations if one.name == row["kind"]), None)
    if calibration is None:
        raise ValueError(f"kind: there is no calibration “{row['kind']}”")
    span = SpanResult.__dataclass_fields__
    fit = Fit(
        row["parameters"],
        np.array(row["covariance"], dtype=np.float64),
        row["statistics"],
        tuple(SpanResult(**{k: v for k, v in one.items() if k in span}) for one in row["evidence"]),
        heaps=tuple(LaneHeaps.from_json(one) for one in row["heaps"]),
    )
    calibration.check(fit)


def _check_rule(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    rule_stage(kind, row["kind"], row["parameters"], parameters)


def _check_study(kind: ChainKind, row: dict[str, Any], parameters: Any) -> None:
    """Whether it says anything at all, with the plan it has and the cells that were taken."""
    outcome_of(Study(plan=row["plan"], cells=row["cells"]), study_kind(kind, row["kind"]))
