"""What a plant of the bench is: described inputs in, a plant in numbers out."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from tickstone.core.control.plant import Plant
from tickstone.core.quantity import Quantity


class PlantKind:
    """One thing to steer. parameters: a dataclass of described inputs. measured, steered: what its
    reading and the controller's output are. usual: where controller and rig begin, by input.
    """

    name: ClassVar[str]
    label: ClassVar[str]
    what: ClassVar[str]
    parameters: ClassVar[type]
    measured: ClassVar[Quantity]
    steered: ClassVar[Quantity]
    usual: ClassVar[Mapping[str, Any]]
    caution: ClassVar[str] = "Wheels off the floor for the first run, and a stop within reach."

    def plant(self, parameters: Any) -> Plant:
        """The plant in numbers."""
        raise NotImplementedError
