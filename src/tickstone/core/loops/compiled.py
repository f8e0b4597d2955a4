"""A loop that is compiled at its first call, or fetched as it was compiled before.

The compiler is loaded only then: most commands never need it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any


class Compiled:
    """A function of numbers and arrays that runs as machine code.

    What was compiled is kept beside the source, so only the first run on a machine ever waits;
    `python -m tickstone.core.loops` compiles all of them ahead.
    """

    def __init__(self, plain: Callable[..., Any]) -> None:
        self.plain = plain
        self._fast: Callable[..., Any] | None = None

    @property
    def ways(self) -> int:
        """For how many kinds of arguments it is compiled by now."""
        return 0 if self._fast is None else len(self._fast.signatures)  # type: ignore[attr-defined]

    def __call__(self, *given: Any) -> Any:
        if self._fast is None:
            from numba import njit

            self._fast = njit(cache=True, fastmath={"contract"})(self.plain)
        return self._fast(*given)


def compiled(plain: Callable[..., Any]) -> Compiled:
    """Mark a function as one to be compiled.

    >>> import numpy as np
    >>> from tickstone.core.loops.smoothing import exponential
    >>> values, state = np.array([0.0, 1.0, 1.0]), np.array([np.nan])
    >>> exponential(values, np.ones(3, dtype=np.bool_), np.full(3, 0.5), state)
    >>> values.tolist()
    [0.0, 0.5, 0.75]
    """
    return Compiled(plain)
