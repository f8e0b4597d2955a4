"""Calibrations as the JSON that ``tickstone calibrate --json`` prints."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from tickstone.core.calibration.kind import Fit
from tickstone.core.chain import Stage
from tickstone.core.chains.kind import ChainKind


def stages_from(paths: Sequence[Path], sensor: ChainKind) -> dict[str, Stage]:
    """Stages from files. Raises ValueError saying which file is none of this kind's."""
    stages: dict[str, Stage] = {}
    known = {one.name: one for one in sensor.calibrations}
    for path in paths:
        try:
            document = json.loads(path.read_text("utf-8"))
            kind = known[document["kind"]]
            fit = Fit(
                parameters=document["parameters"],
                covariance=np.array(document["covariance"], dtype=np.float64),
                statistics=document.get("statistics", {}),
                spans=(),
            )
            kind.check(fit)
        except KeyError as error:
            names = ", ".join(known) or "none"
            raise ValueError(
                f"{path}: {error} is missing, or no calibration of {sensor.name}; known: {names}"
            ) from error
        except (ValueError, TypeError, AttributeError) as error:
            raise ValueError(f"{path}: is no calibration: {error}") from error
        if kind.name in stages:
            raise ValueError(f"{path}: a calibration of this kind, {kind.name}, is given twice")
        stages[kind.name] = kind.stage(fit, absorbs_shared=False, label=path.name)
    return stages
