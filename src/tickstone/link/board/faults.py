"""What can go wrong on the stand-in board, to learn how it looks."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fault:
    """A fault that can be switched. word: the command's name. looks: what one sees of it."""

    word: str
    label: str
    looks: str


FAULTS = (
    Fault("unplug", "Cable pulled for 3 s", "The line is gone and comes back by itself."),
    Fault("stuck", "Front sensor stuck", "The same number for ever, whatever moves."),
    Fault("swapped", "Two echo leads swapped", "Move the front target and the side answers."),
    Fault("no_pull_up", "Hall pull-up missing", "Counts come in bursts with the wheel at rest."),
    Fault("both_edges", "Both edges counted", "Exactly twice as many pulses as magnets passed."),
    Fault(
        "second_strip", "A second strip on the wheel", "Twice as many pulses, none of them bounce."
    ),
    Fault("far_magnet", "A magnet too far away", "One pulse of a turn is often not heard."),
    Fault("wrong_supply", "Sensors on the wrong supply", "Short reach, and zeros of g that moved."),
    Fault("loose_ground", "Ground lead loose", "Everything analogue jumps; bytes get lost."),
    Fault("saturated", "Detectors saturated", "All strip sensors sit at their lowest count."),
    Fault("dirt", "Soil on the floor", "A second dark patch, left of the strip."),
    Fault("glare", "Low sun from the right", "The right of the strip sensors reads lighter."),
    Fault("unlit", "A lamp of the row is out", "The fourth sensor reads dark whatever is below."),
    Fault("crossed", "Two strip leads swapped", "The line jumps from the second to the fourth."),
    Fault("coarse_range", "Deck unit’s range changed", "At rest it reads an eighth of 1 g."),
    Fault("reset_loop", "Board resets in a loop", "The banner again every two seconds."),
    Fault("wrap", "Counter about to wrap", "The board’s clock falls to zero in five seconds."),
)
FAULT_WORDS = frozenset(fault.word for fault in FAULTS)
