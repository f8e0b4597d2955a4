"""What a kind of filter is: what may be set, and the stage it is then."""

from __future__ import annotations

from typing import Any, ClassVar

from tickstone.core.chain import Stage


class FilterKind:
    """One kind of filter.

    name: as it is typed. what: what it is good for and what it costs, a sentence. parameters: a
    dataclass of described inputs, in the unit of what is filtered where they have one.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    what: ClassVar[str]
    parameters: ClassVar[type]

    def stage(self, parameters: Any) -> Stage:
        """The filter. Raises ValueError when it cannot be."""
        raise NotImplementedError
