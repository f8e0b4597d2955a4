"""The stand-in board: a process that talks like a real one over a pseudo-terminal.

`world` is what is true and can be moved; `faults` lists what can go wrong; one file for each rig
(`bramble`, `pipit`, `twelve`, `two_eyes`) says what that board prints; `line` is the wire with its
speed.
"""

from tickstone.link.board.bramble import BrambleBoard
from tickstone.link.board.firmware import Firmware
from tickstone.link.board.pipit import PipitBoard
from tickstone.link.board.twelve import TwelveBoard
from tickstone.link.board.two_eyes import TwoEyesBoard

BOARDS: dict[str, type[Firmware]] = {
    "bramble": BrambleBoard,
    "pipit": PipitBoard,
    "twelve": TwelveBoard,
    "two_eyes": TwoEyesBoard,
}
"""What `tickstone board` can be, by name."""
