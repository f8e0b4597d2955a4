"""A part with legs: a resistor, a diode, a transistor, a switch, a regulator, and so on."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, ClassVar

from tickstone.core.display import prefixed
from tickstone.core.families.figure import STRICT, check_label

MOST_OHM, LEAST_OHM = 1e8, 0.001
MOST_FARAD, LEAST_FARAD = 0.1, 1e-13


class PartKind(StrEnum):
    """What it is. VARYING: a resistance that follows heat or light. WIRE: nothing but a joint."""

    RESISTOR = "resistor"
    CAPACITOR = "capacitor"
    DIODE = "diode"
    LED = "led"
    TRANSISTOR = "transistor"
    MOSFET = "mosfet"
    SWITCH = "switch"
    POTENTIOMETER = "potentiometer"
    VARYING = "varying"
    REGULATOR = "regulator"
    FUSE = "fuse"
    WIRE = "wire"

    @property
    def words(self) -> str:
        """As a person says it."""
        return _WORDS[self]


_WORDS = {
    PartKind.RESISTOR: "resistor",
    PartKind.CAPACITOR: "capacitor",
    PartKind.DIODE: "diode",
    PartKind.LED: "LED",
    PartKind.TRANSISTOR: "NPN transistor",
    PartKind.MOSFET: "N-channel MOSFET",
    PartKind.SWITCH: "switch",
    PartKind.POTENTIOMETER: "potentiometer",
    PartKind.VARYING: "resistance that varies",
    PartKind.REGULATOR: "linear regulator",
    PartKind.FUSE: "fuse",
    PartKind.WIRE: "wire",
}

TERMINALS: dict[PartKind, tuple[str, ...]] = {
    PartKind.RESISTOR: ("a", "b"),
    PartKind.CAPACITOR: ("a", "b"),
    PartKind.DIODE: ("anode", "cathode"),
    PartKind.LED: ("anode", "cathode"),
    PartKind.TRANSISTOR: ("base", "collector", "emitter"),
    PartKind.MOSFET: ("gate", "drain", "source"),
    PartKind.SWITCH: ("a", "b"),
    PartKind.POTENTIOMETER: ("a", "wiper", "b"),
    PartKind.VARYING: ("a", "b"),
    PartKind.REGULATOR: ("in", "out", "ground"),
    PartKind.FUSE: ("a", "b"),
    PartKind.WIRE: ("a", "b"),
}
"""The legs of each kind."""

NEEDED: dict[PartKind, tuple[str, ...]] = {
    PartKind.RESISTOR: ("ohm",),
    PartKind.CAPACITOR: ("farad",),
    PartKind.LED: ("forward_v", "max_a"),
    PartKind.POTENTIOMETER: ("ohm",),
    PartKind.VARYING: ("least_ohm", "most_ohm"),
    PartKind.REGULATOR: ("output_v",),
    PartKind.FUSE: ("max_a",),
}
"""The figures a kind cannot do without."""

_BOUNDS: dict[str, tuple[float, float]] = {
    "ohm": (LEAST_OHM, MOST_OHM),
    "least_ohm": (LEAST_OHM, MOST_OHM),
    "most_ohm": (LEAST_OHM, MOST_OHM),
    "farad": (LEAST_FARAD, MOST_FARAD),
    "power_w": (0.01, 100.0),
    "forward_v": (0.1, 20.0),
    "max_a": (1e-6, 100.0),
    "gain": (1.0, 100_000.0),
    "threshold_v": (0.1, 20.0),
    "output_v": (0.5, 60.0),
    "dropout_v": (0.0, 10.0),
}


@dataclass(frozen=True, slots=True)
class Part:
    """One part. key: short and its own. ends: what each of its legs goes to.

    ohm, farad: its value, ± tolerance as a fraction. power_w: what the body bears. forward_v: of a
    diode or LED. max_a: what it bears; of a regulator what it gives; of a fuse where it blows.
    gain: least β of a transistor. threshold_v: gate volts at which a MOSFET opens. least_ohm,
    most_ohm: between which a varying resistance moves. output_v, dropout_v: of a regulator.
    source: where its figures come from.

    Raises ValueError naming the field that does not do.

    >>> Part("R1", PartKind.RESISTOR, {"a": "D9", "b": "GND"}, ohm=220.0).words
    '220 Ω'
    """

    __pydantic_config__: ClassVar[dict[str, Any]] = STRICT

    key: str
    kind: PartKind
    ends: dict[str, str] = field(hash=False)
    ohm: float | None = None
    farad: float | None = None
    tolerance: float = 0.05
    power_w: float | None = None
    forward_v: float | None = None
    max_a: float | None = None
    gain: float | None = None
    threshold_v: float | None = None
    least_ohm: float | None = None
    most_ohm: float | None = None
    output_v: float | None = None
    dropout_v: float | None = None
    source: str = ""

    def __post_init__(self) -> None:
        check_label("a part’s key", self.key)
        legs = TERMINALS[self.kind]
        if set(self.ends) != set(legs):
            raise ValueError(
                f"ends: {self.key}, a {self.kind.words}, has the legs {', '.join(legs)}; "
                f"said are {', '.join(self.ends) or 'none'}"
            )
        for what in NEEDED.get(self.kind, ()):
            if getattr(self, what) is None:
                raise ValueError(f"{what}: {self.key}, a {self.kind.words}, needs it")
        for what, (low, high) in _BOUNDS.items():
            value = getattr(self, what)
            if value is not None and not low <= value <= high:
                raise ValueError(f"{what}: {value:g} of {self.key} is outside {low:g} to {high:g}")
        if not 0.0 <= self.tolerance <= 0.5:
            raise ValueError(f"tolerance: of {self.key}, a fraction from 0 to 0.5")
        if self.least_ohm and self.most_ohm and self.least_ohm >= self.most_ohm:
            raise ValueError(f"most_ohm: of {self.key}, has to be above least_ohm")

    @property
    def words(self) -> str:
        """Short, as a person says it: value first, kind where the value does not tell."""
        if self.kind is PartKind.RESISTOR and self.ohm is not None:
            return prefixed(self.ohm, "Ω")
        if self.kind is PartKind.CAPACITOR and self.farad is not None:
            return prefixed(self.farad, "F")
        if self.kind is PartKind.POTENTIOMETER and self.ohm is not None:
            return f"potentiometer of {prefixed(self.ohm, 'Ω')}"
        if self.kind is PartKind.REGULATOR and self.output_v is not None:
            return f"linear regulator to {prefixed(self.output_v, 'V')}"
        if self.kind is PartKind.FUSE and self.max_a is not None:
            return f"fuse of {prefixed(self.max_a, 'A')}"
        return self.kind.words
