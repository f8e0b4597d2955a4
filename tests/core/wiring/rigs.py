"""Small wirings for the tests to break."""

from __future__ import annotations

from typing import Any

from tickstone.core.wiring.bead import Bead
from tickstone.core.wiring.finding import WiringFinding
from tickstone.core.wiring.judging import check_wiring
from tickstone.core.wiring.netlist import Connection, Device, Settings, Wiring
from tickstone.formats.family_file import shipped_boards, shipped_devices

BOARDS, DEVICES = shipped_boards(), shipped_devices()
FIVE = "five_volt_8bit"
THREE = "three_volt_dual_core"
WIRELESS = "three_volt_wireless"


def device(key: str, family: str, **said: Any) -> Device:
    return Device(key, key, DEVICES[family], **said)


def wire(end: str, to: str, *beads: Bead) -> Connection:
    """``wire("ranger.VCC", "5V")``."""
    key, _, lead = end.partition(".")
    return Connection(key, lead, to, beads)


def wiring(board: str, devices: list[Device], wires: list[Connection], **settings: Any) -> Wiring:
    return Wiring(BOARDS[board], tuple(devices), tuple(wires), Settings(**settings))


def ranger(board: str, *beads: Bead, supply: str = "5V", echo: str = "") -> Wiring:
    """A four-lead ranger, its echo through these parts."""
    trig, pin = ("D7", "D8") if board.startswith("five") else ("GP2", "GP3")
    return wiring(
        board,
        [device("ranger", "ultrasonic_ranger")],
        [
            wire("ranger.VCC", supply),
            wire("ranger.GND", "GND"),
            wire("ranger.TRIG", trig),
            wire("ranger.ECHO", echo or pin, *beads),
        ],
    )


def found(one: Wiring) -> dict[str, WiringFinding]:
    """Findings by id."""
    return {finding.id: finding for finding in check_wiring(one)}
