"""Kinds of sensors: a file for each, registered here. Everything else follows from the entry."""

from __future__ import annotations

from tickstone.core.chains.analogue3 import Analogue3
from tickstone.core.chains.battery import Battery
from tickstone.core.chains.commutation import Commutation
from tickstone.core.chains.echo_ranger import EchoRanger
from tickstone.core.chains.flight import Flight
from tickstone.core.chains.kind import ChainKind
from tickstone.core.chains.pulses import Pulses
from tickstone.core.chains.quadrature import Quadrature
from tickstone.core.chains.reflectance import Reflectance
from tickstone.core.chains.six_axis import SixAxis
from tickstone.core.chains.thermometer import Thermometer
from tickstone.core.chains.triangulation import Triangulation
from tickstone.core.chains.two_rangers import TwoRangers

CHAINS: dict[str, ChainKind] = {
    kind.name: kind
    for kind in (
        EchoRanger(),
        Pulses(),
        Quadrature(),
        Commutation(),
        Reflectance(),
        Triangulation(),
        Flight(),
        TwoRangers(),
        SixAxis(),
        Analogue3(),
        Thermometer(),
        Battery(),
    )
}
