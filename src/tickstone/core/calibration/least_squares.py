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
    told = linear(np.asarray(found.jac, dtype=np.float64), np.zeros(len(found.fun)))
    return None if told is None else (found.x, told[1])
