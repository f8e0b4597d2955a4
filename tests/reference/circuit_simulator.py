"""Debian's general circuit simulator asked for the operating point of a network, state by state."""

from __future__ import annotations

import os
import re
import subprocess
import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt

from tickstone.core.electric.network import ALWAYS, Network
from tickstone.core.electric.variants import LEAST_S

PROGRAM = "ngspice"
Floats = npt.NDArray[np.float64]


def deck_lines(network: Network, state: int, prefix: str) -> Iterator[str]:
    """One state of a network, at its usual figures, as lines of a deck; node 0 is nobody's."""

    def node(place: int) -> str:
        return f"{prefix}n{place}"

    for place in range(network.free):
        yield f"r{prefix}g{place} {node(place)} 0 {1.0 / LEAST_S:.9g}"
    for place, volts in enumerate(network.fixed):
        yield f"v{prefix}f{place} {node(network.free + place)} 0 {volts.usual:.12g}"
    positions = network.states[state]
    for place, one in enumerate(network.resistors):
        if one.switch == ALWAYS or positions[one.switch] == one.on:
            yield f"r{prefix}r{place} {node(one.a)} {node(one.b)} {one.ohm.usual:.12g}"
    for place, diode in enumerate(network.diodes):
        model = f"{prefix}dm{place}"
        yield f"d{prefix}d{place} {node(diode.anode)} {node(diode.cathode)} {model}"
        yield (
            f".model {model} d(is={diode.saturation_a.usual:.12g} n={diode.emission:.12g} "
            f"rs={diode.ohm:.12g})"
        )
    for place, one in enumerate(network.bipolars):
        model = f"{prefix}qm{place}"
        legs = f"{node(one.collector)} {node(one.base)} {node(one.emitter)}"
        yield f"q{prefix}q{place} {legs} {model}"
        yield (
            f".model {model} npn(is={one.saturation_a:.12g} bf={one.gain.usual:.12g} "
            f"br={one.reverse_gain:.12g})"
        )
    for place, one in enumerate(network.mosfets):
        model = f"{prefix}mm{place}"
        gate, drain, source = node(one.gate), node(one.drain), node(one.source)
        # The bulk far below everything: the body diode is a part of its own in our networks.
        yield f"m{prefix}m{place} {drain} {gate} {source} bulk {model} w=100u l=100u"
        yield (
            f".model {model} nmos(level=1 vto={one.threshold_v.usual:.12g} "
            f"kp={one.steepness:.12g} is=1e-30)"
        )
    for place, load in enumerate(network.loads):
        across = f"v({node(load.a)},{node(load.b)})"
        amps, least = f"{load.amps.usual:.12g}", f"{load.least_v:.12g}"
        yield (
            f"b{prefix}b{place} {node(load.a)} {node(load.b)} "
            f"i=({across} > {least}) ? {amps} : (({across} > 0) ? {amps}*{across}/{least} : 0)"
        )


def simulated(networks: Sequence[Network]) -> list[Floats]:
    """Volts of every node in every state, (states, nodes), of each network.

    Raises RuntimeError with the simulator's words when it gives no answer.
    """
    lines = ["volts of many small circuits", "vbulk bulk 0 -100"]
    wanted: list[tuple[int, int, int, str]] = []
    for number, network in enumerate(networks):
        for state in range(len(network.states)):
            prefix = f"c{number}s{state}"
            lines += deck_lines(network, state, prefix)
            wanted += [
                (number, state, place, f"{prefix}n{place}")
                for place in range(network.free + len(network.fixed))
            ]
    lines += [".options reltol=1e-7 abstol=1e-14 vntol=1e-9 gmin=1e-19 itl1=2000", ".control", "op"]
    lines += [f"print v({name})" for *_, name in wanted]
    lines += [".endc", ".end"]
    with tempfile.TemporaryDirectory() as folder:
        deck = Path(folder) / "deck.cir"
        deck.write_text("\n".join(lines) + "\n", encoding="ascii")
        run = subprocess.run(
            [PROGRAM, "-b", str(deck)],
            capture_output=True,
            text=True,
            timeout=300,
            check=False,
            cwd=folder,
            env={**os.environ, "SPICE_ASCIIRAWFILE": "1"},
        )
    found = dict(re.findall(r"^v\((\w+)\) = (\S+)$", run.stdout, re.MULTILINE))
    answers = [np.full((len(one.states), one.free + len(one.fixed)), np.nan) for one in networks]
    for number, state, place, name in wanted:
        if name not in found:
            raise RuntimeError(f"no volts of {name}: {run.stderr[-2000:]} {run.stdout[-500:]}")
        answers[number][state, place] = float(found[name])
    return answers
