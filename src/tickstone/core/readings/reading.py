"""One reading as a person has it in hand: a few numbers, and the chain that they feed."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol, runtime_checkable

from tickstone.core.air.conditions import AirConditions
from tickstone.core.chain import Chain
from tickstone.core.chains.kind import ChainKind
from tickstone.core.inputs import Input, inputs_of, number, with_inputs
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings

ASSUMED_AIR = AirConditions(
    20.0, 0.5, temperature_tolerance_c=10.0, humidity_tolerance=0.3, pressure_tolerance_pa=5_000.0
)
"""What stands in for the air when nothing is said of it: a room, with room to be wrong."""


@dataclass(frozen=True, slots=True)
class Beside:
    """A result that stands beside the outputs: its value, unit and standard uncertainty."""

    value: float
    unit: str
    u: float


@dataclass(frozen=True, slots=True)
class OneReading:
    """A chain, what feeds it, and which of its outputs are asked for, the first of all first.

    chain: None when there is nothing to read, only results beside.
    """

    chain: Chain | None
    signals: Mapping[str, Signal]
    outputs: tuple[str, ...]
    beside: Mapping[str, Beside] = field(default_factory=dict)


@runtime_checkable
class Asked(Protocol):
    """What is asked of a person for one reading: a frozen dataclass of described inputs."""

    what: ClassVar[str]

    def reading(self) -> OneReading:
        """The reading. Raises ValueError naming the input that cannot be, or that is missing."""
        ...


def asked_of_any(kind: ChainKind) -> type[Asked]:
    """What any kind of sensor asks for: a number for every form of its inputs, its parameters.

    >>> from tickstone.core.chains.echo_ranger import EchoRanger
    >>> asked = asked_of_any(EchoRanger())(us=5831.0)
    >>> reading = asked.reading()
    >>> round(reading.chain.explain(reading.signals, 0, "mount")[-1].value, 2)
    1.0
    """
    forms = [(role, form) for role in kind.roles for form in role.forms if form.option]
    samples: list[tuple[str, type, Any]] = []
    for role, form in forms:
        label = f"{role.label}: {form.label}"
        named = number(label, next(iter(form.units)), None, -1e15, 1e15)
        samples.append((form.option.replace("-", "_"), float, named))
    taken = {name for name, _, _ in samples}
    settings = [
        (one.name, object, _field(one))
        for one in inputs_of(kind.parameters)
        if one.name not in taken
    ]

    def reading(self: Any) -> OneReading:
        signals: dict[str, Signal] = {}
        chosen: dict[str, str] = {}
        for role, form in forms:
            value = getattr(self, form.option.replace("-", "_"))
            if value is not None:
                if role.name in chosen:
                    raise ValueError(f"{role.label} is given twice, as {chosen[role.name]} too")
                chosen[role.name] = form.name
                scale = next(iter(form.units.values()))
                lanes = len(form.quantity.lanes)
                signals[role.name] = Signal.of([0.0], [[value * scale]] * lanes, form.quantity)
        missing = [one for one in kind.roles if one.is_needed and one.name not in chosen]
        if missing:
            known = ", ".join(f"--{form.option}" for role, form in forms if role in missing)
            raise ValueError(f"nothing is given for {missing[0].label}; give {known}")
        parameters: Any = with_inputs(
            kind.parameters, {name: getattr(self, name) for name, _, _ in settings}
        )
        chain = kind.build(parameters, Surroundings(ASSUMED_AIR), forms=chosen)
        told = tuple(n for n, node in chain.outputs if not chain.quantity_of(node).is_decision)
        return OneReading(chain, signals, told)

    return dataclasses.make_dataclass(
        f"Asked{type(kind).__name__}",
        [*samples, *settings],
        namespace={
            "what": f"Turn one reading of {kind.label} into its outputs.",
            "reading": reading,
        },
        frozen=True,
    )


def _field(one: Input) -> Any:
    return dataclasses.field(default=one.default, metadata={"input": one})
