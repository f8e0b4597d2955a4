"""A sensor’s five stones, and which stone of a rig to turn to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from tickstone.core.stones.calibrated import calibrated_stone
from tickstone.core.stones.driven import driven_stone
from tickstone.core.stones.facts import SensorFacts
from tickstone.core.stones.heard import heard_stone
from tickstone.core.stones.stone import Stone, StoneState, WorkStage
from tickstone.core.stones.tuned import tuned_stone
from tickstone.core.stones.wired import wired_stone


def stones_for(facts: SensorFacts) -> tuple[Stone, ...]:
    """The five stones of one sensor, in the order of work."""
    calibrated = calibrated_stone(facts)
    tuned = tuned_stone(facts, calibrated)
    return (wired_stone(facts), heard_stone(facts), calibrated, tuned, driven_stone(facts, tuned))


@dataclass(frozen=True, slots=True)
class NextStone:
    """The stone to turn to: index of the sensor, and the stone."""

    sensor: int
    stone: Stone


def next_stone(stones: Sequence[Sequence[Stone]]) -> NextStone | None:
    """The first stone not ticked: wires that are wrong, then what went bad, then what is not done.

    A wiring fault outranks all else: it may destroy a part, and it spoils whatever is heard.
    stones: one row per sensor. Returns None when all is ticked.
    """
    bad = (StoneState.FAILING, StoneState.STALE)
    for stage, wanted in ((WorkStage.WIRED, bad[:1]), (None, bad), (None, (StoneState.HOLLOW,))):
        for index, row in enumerate(stones):
            for stone in row:
                if stone.state in wanted and stage in (None, stone.stage):
                    return NextStone(index, stone)
    return None
