"""A calibration as JSON: what commands print and take, and what is taken away."""

from __future__ import annotations

from typing import Any

import numpy as np

from tickstone.core.calibration.kind import CalibrationKind, Fit


def calibration_document(kind: CalibrationKind, fit: Fit) -> dict[str, Any]:
    """A fit as it is printed."""
    beside = {**fit.statistics, **fit.curves}
    return {
        "kind": kind.name,
        "parameters": dict(fit.parameters),
        "covariance": np.asarray(fit.covariance).tolist(),
        "statistics": dict(fit.statistics),
        **{name: beside[name] for name in kind.told if name in beside},
        "remarks": [f"{one.title} {one.why}".strip() for one in fit.remarks],
    }
