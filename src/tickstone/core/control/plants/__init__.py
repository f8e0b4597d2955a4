"""Things to steer, one file each; the order is that of the bench."""

from tickstone.core.control.plants.ball_beam import BallBeam
from tickstone.core.control.plants.fitted import Fitted
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.control.plants.line_heading import LineHeading
from tickstone.core.control.plants.wall_distance import WallDistance
from tickstone.core.control.plants.wheel_speed import WheelSpeed

PLANTS: dict[str, PlantKind] = {
    one.name: one for one in (BallBeam(), LineHeading(), WheelSpeed(), WallDistance(), Fitted())
}
