"""What a starting point is: what it needs to see, and the rules it begins with."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from tickstone.core.machines.machine import Machine


@dataclass(frozen=True, slots=True)
class Need:
    """An input of a starting point. quantity: what it has to be, by the name of a quantity.

    names: words in a sensor's name that speak for it, in small letters. states: of a decision.
    """

    name: str
    label: str
    quantity: str
    unit: str = ""
    states: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    longest_s: float = 0.5


@dataclass(frozen=True, slots=True)
class StartingPoint:
    """Rules to begin with. rules: as in a file, without its inputs."""

    name: str
    label: str
    what: str
    needs: tuple[Need, ...]
    rules: Mapping[str, Any]

    def document(self, fed: Mapping[str, Mapping[str, Any]] | None = None) -> dict[str, Any]:
        """The rules as a file. fed: for each input by name, what of a rig feeds it."""
        inputs = [
            {
                "name": one.name, "unit": one.unit, "states": list(one.states),
                "longest_s": one.longest_s, **(fed or {}).get(one.name, {}),
            }
            for one in self.needs
        ]  # fmt: skip
        return {"name": self.label, "inputs": inputs, **self.rules}

    def machine(self) -> Machine:
        """The machine it is."""
        return Machine.of(self.document())


FRONT = Need("front", "Distance in front", "distance", "m", names=("front", "nose"))
BLIND_STOP = {"how": "hold", "hold_s": 0.3, "go_to": "stopped"}
