"""What feeds the inputs of a machine: outputs of kinds of sensors, and columns of a log."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from tickstone.core.chains.kind import ChainKind, Output
from tickstone.core.machines.conditions import unit_scales
from tickstone.core.machines.document import MachineError
from tickstone.core.machines.machine import MachineInput


def with_outputs(document: Any, kinds: Mapping[str, ChainKind]) -> Any:
    """Rules with the unit and the words of every input that names a kind of sensor filled in.

    Raises MachineError for a kind or an output that there is none of.

    >>> from tickstone.core.chains import CHAINS
    >>> rules = {"inputs": [{"name": "front", "kind": "echo", "columns": ["front_us"]}]}
    >>> with_outputs(rules, CHAINS)["inputs"][0]["unit"]
    'm'
    """
    if not isinstance(document, dict) or not isinstance(document.get("inputs"), list):
        return document
    inputs = []
    for number, one in enumerate(document["inputs"], 1):
        if isinstance(one, dict) and isinstance(one.get("kind"), str) and one["kind"]:
            where = f"inputs {number}"
            if one["kind"] not in kinds:
                said = f"there is no kind of sensor “{one['kind'][:40]}”; {', '.join(kinds)}"
                raise MachineError(f"{where}, kind", said)
            output = output_of(kinds[one["kind"]], one.get("output", ""), f"{where}, output")
            states = [state.name for state in output.quantity.states]
            one = {**one, "output": output.name, "unit": output.quantity.unit, "states": states}
        inputs.append(one)
    return {**document, "inputs": inputs}


def output_of(kind: ChainKind, name: Any, where: str) -> Output:
    """An output by name, the first without one. Raises MachineError."""
    if not name:
        return kind.outputs[0]
    for one in kind.outputs:
        if one.name == name:
            return one
    known = ", ".join(one.name for one in kind.outputs)
    raise MachineError(where, f"there is no output “{str(name)[:40]}” of {kind.name}; {known}")


def scale_of(one: MachineInput, unit: str) -> float:
    """How many of an input's own unit one of a column's is. Raises ValueError."""
    if not unit or unit == one.unit or one.states:
        return 1.0
    scales = unit_scales(one.unit)
    if unit not in scales:
        known = ", ".join(name for name in scales if name) or "no unit"
        raise ValueError(f"{one.name}: its column is in {unit}; {one.unit or 'it'} wants {known}")
    return scales[unit]
