"""Rules to begin with, one file each; the order is that of a list of them."""

from tickstone.core.machines.starting.edge_keeping import EDGE_KEEPING
from tickstone.core.machines.starting.lamp_bands import LAMP_BANDS
from tickstone.core.machines.starting.level_keeping import LEVEL_KEEPING
from tickstone.core.machines.starting.line_keeping import LINE_KEEPING
from tickstone.core.machines.starting.point import StartingPoint
from tickstone.core.machines.starting.stop_and_go import STOP_AND_GO
from tickstone.core.machines.starting.stop_reverse_turn import STOP_REVERSE_TURN
from tickstone.core.machines.starting.wall_following import WALL_FOLLOWING

STARTING_POINTS: dict[str, StartingPoint] = {
    one.name: one
    for one in (
        STOP_AND_GO,
        STOP_REVERSE_TURN,
        EDGE_KEEPING,
        LINE_KEEPING,
        LAMP_BANDS,
        WALL_FOLLOWING,
        LEVEL_KEEPING,
    )
}
