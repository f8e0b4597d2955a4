"""Three accelerations at rest, to tilt."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from tickstone.core.chain import Chain, ChainInput, Node
from tickstone.core.chains.inertial import G
from tickstone.core.inputs import check_inputs, number
from tickstone.core.quantity import FORCE, NUMBER
from tickstone.core.readings.reading import OneReading
from tickstone.core.signal import Signal
from tickstone.core.stages.code_scale import CodeScale
from tickstone.core.stages.rest_watch import RestWatch
from tickstone.core.stages.tilt import Tilt

_OUTPUTS = ("roll", "pitch", "inclination")
_EXACT = 1.0
_IN_G = NUMBER.in_lanes("x", "y", "z")


@dataclass(frozen=True)
class AskedTilt:
    """The frame is x forward, y left, z up; at rest the axis that points up reads +1 g.

    >>> reading = AskedTilt(ax=0.0, ay=0.5, az=0.866).reading()
    >>> round(reading.chain.explain(reading.signals, 0, "roll")[-1].value, 3)
    0.524
    """

    what: ClassVar[str] = (
        "Turn three accelerations at rest, in g, into roll, pitch and inclination."
    )
    kind: ClassVar[str] = "six_axis"

    ax: float | None = number("Along x, forward", "g", None, -1e6, 1e6)
    ay: float | None = number("Along y, to the left", "g", None, -1e6, 1e6)
    az: float | None = number("Along z, up", "g", None, -1e6, 1e6)
    each_mg: float = number("Each known to, ±", "mg", 20.0, 0.0, 10_000.0)
    rest_mg: float = number("At rest within, ±", "mg", 50.0, 0.001, 10_000.0, "of 1 g")

    def reading(self) -> OneReading:
        """Tilt by all three."""
        check_inputs(self)
        missing = [name for name in ("ax", "ay", "az") if getattr(self, name) is None]
        if missing:
            raise ValueError(f"{missing[0]} is missing; give --ax, --ay and --az, in g")
        stated = CodeScale(_EXACT, G, FORCE, 0.0, "as given", zero_u=self.each_mg / 2000.0 * G)
        nodes = (
            Node("force", stated, ("@accel",)),
            Node("rest", RestWatch(self.rest_mg / 1000.0 * G), ("force",)),
            *(Node(one, Tilt(one), ("rest",)) for one in ("roll", "pitch", "inclination")),
        )
        chain = Chain((ChainInput("accel", _IN_G),), nodes, tuple((one, one) for one in _OUTPUTS))
        given = [[float(getattr(self, name))] for name in ("ax", "ay", "az")]
        return OneReading(chain, {"accel": Signal.of([0.0], given, _IN_G)}, _OUTPUTS)
