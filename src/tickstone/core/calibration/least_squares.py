"""Least squares, as every kind of calibration shares it: weighted, with its covariance.

Linear models by QR, others by Levenberg and Marquardt (SciPy). The covariance is that of JCGM 100
annex H.3: of the weights as stated, not scaled by what is left over.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from tickstone.core.signal import FloatArray

_WORST_CONDITION = 1e14
_POLISHING = 8
_STEP = 1e-3


def linear(
    design: FloatArray, y: FloatArray, sigma: FloatArray | float = 1.0
) -> tuple[FloatArray, FloatArray] | None:
    """Parameters and covariance of y = design @ parameters; None when they cannot be told apart.

    design: shape (n, k). y, sigma: shape (n,), sigma the standard uncertainty of each y.

    >>> design = np.column_stack([np.ones(3), [1.0, 2.0, 3.0]])
    >>> parameters, _ = linear(design, np.array([2.0, 4.0, 6.0]))
    >>> (parameters.round(9) + 0.0).tolist()
    [0.0, 2.0]
    """
    weights = np.broadcast_to(1.0 / np.asarray(sigma, dtype=np.float64), y.shape)
    weighted = design * weights[:, np.newaxis]
    size = np.sqrt((weighted * weighted).sum(axis=0))
    if not (np.isfinite(size).all() and (size > 0.0).all()):
        return None
    # Columns of one length: a condition then speaks of the model, not of its units.
    q, r = np.linalg.qr(weighted / size)
    if np.linalg.cond(r) > _WORST_CONDITION:
        return None
    inverse = np.linalg.solve(r, np.eye(len(r)))
    parameters = (inverse @ (q.T @ (y * weights))) / size
    # What rounding left over is fitted once more: the last digits of hard sets come from here.
    left = (y - design @ parameters) * weights
    parameters = parameters + (inverse @ (q.T @ left)) / size
    covariance = (inverse @ inverse.T) / np.outer(size, size)
    return parameters, covariance


def nonlinear(
    residuals: Callable[[FloatArray], FloatArray], start: npt.ArrayLike
) -> tuple[FloatArray, FloatArray] | None:
    """Parameters and covariance that make weighted residuals smallest; None when none are found.

    residuals: from parameters to (model − y)/sigma, shape (n,) with n at least as many as they are.

    >>> x = np.linspace(0.0, 4.0, 9)
    >>> found = nonlinear(lambda p: p[0] * np.exp(-p[1] * x) - 3.0 * np.exp(-0.5 * x), [1.0, 1.0])
    >>> found[0].round(6).tolist()
    [3.0, 0.5]
    """
    from scipy.optimize import least_squares  # half a second, and seldom needed

    first = np.asarray(start, dtype=np.float64)
    found = least_squares(
        residuals,
        first,
        jac="3-point",
        method="trf",
        x_scale="jac",
        ftol=1e-15,
        xtol=1e-15,
        gtol=1e-15,
        max_nfev=2_000,
    )
    if not found.success or not np.isfinite(found.x).all():
        return None
    return _polished(residuals, np.asarray(found.x, dtype=np.float64))


def _polished(
    residuals: Callable[[FloatArray], FloatArray], parameters: FloatArray
) -> tuple[FloatArray, FloatArray] | None:
    """A few steps of Gauss and Newton, by QR: the last digits that a search stops short of."""
    told = None
    for _ in range(_POLISHING):
        left = np.asarray(residuals(parameters), dtype=np.float64)
        told = linear(_slopes(residuals, parameters), -left)
        if told is None:
            return None
        better = parameters + told[0]
        if not np.sum(np.square(residuals(better))) <= np.sum(np.square(left)):
            break
        parameters = better
    return None if told is None else (parameters, told[1])


def _slopes(residuals: Callable[[FloatArray], FloatArray], parameters: FloatArray) -> FloatArray:
    """Central differences of fourth order, one column a parameter."""
    columns = []
    for place, value in enumerate(parameters.tolist()):
        step = _STEP * (abs(value) or 1.0)
        at = []
        for times in (-2.0, -1.0, 1.0, 2.0):
            moved = parameters.copy()
            moved[place] = value + times * step
            at.append(np.asarray(residuals(moved), dtype=np.float64))
        columns.append((at[0] - 8.0 * at[1] + 8.0 * at[2] - at[3]) / (12.0 * step))
    return np.column_stack(columns)
