"""Trials of the stages that inertial units and filters are made of."""

from __future__ import annotations

import numpy as np
from hypothesis import strategies as st
from tests.core.stage_trials import Trial, lanes, signals, small

from tickstone.core.attitude import Trust
from tickstone.core.axes import AXES, mounting
from tickstone.core.chain import Stage
from tickstone.core.quantity import (
    ATTITUDE,
    COUNTS,
    DISTANCE,
    FORCE,
    ROTATION,
    TEMPERATURE,
    VOLTAGE,
)
from tickstone.core.signal import Signal
from tickstone.core.stages.axes_matrix import AxesMatrix
from tickstone.core.stages.axis_kalman import AxisKalman
from tickstone.core.stages.bump_watch import BumpWatch
from tickstone.core.stages.code_scale import CodeScale
from tickstone.core.stages.complementary import Complementary
from tickstone.core.stages.divided import Divided
from tickstone.core.stages.each_of import EachOf
from tickstone.core.stages.exponential import Exponential
from tickstone.core.stages.hampel_gate import HampelGate
from tickstone.core.stages.lane_scale import LaneScale
from tickstone.core.stages.lane_shift import LaneShift
from tickstone.core.stages.lean_of import LeanOf
from tickstone.core.stages.level_turn import LevelTurn
from tickstone.core.stages.low_pass import LowPass
from tickstone.core.stages.madgwick import Madgwick
from tickstone.core.stages.mahony import Mahony
from tickstone.core.stages.mount_rotation import MountRotation
from tickstone.core.stages.moving_average import MovingAverage
from tickstone.core.stages.own_heat import OwnHeat
from tickstone.core.stages.plumb_rate import PlumbRate
from tickstone.core.stages.rest_watch import RestWatch
from tickstone.core.stages.slew_limit import SlewLimit
from tickstone.core.stages.speed_kalman import SpeedKalman
from tickstone.core.stages.stated_accuracy import StatedAccuracy
from tickstone.core.stages.tilt import Tilt
from tickstone.core.stages.turned import Turned
from tickstone.core.stages.value_kalman import ValueKalman
from tickstone.core.stages.vector_size import VectorSize
from tickstone.core.stages.vibration import Vibration
from tickstone.core.stages.volts_force import VoltsForce
from tickstone.core.stages.worked_out import WorkedOut

felt = st.floats(-20.0, 20.0) | st.sampled_from([0.0, 9.81])
turning = st.floats(-6.0, 6.0)
positive = st.floats(1e-3, 2.0)
forces = st.tuples(lanes(FORCE, felt))
rotations = st.tuples(lanes(ROTATION, turning))


@st.composite
def units(draw: st.DrawFn) -> tuple[Signal, ...]:
    """What is felt and how it turns, at the same times, each with flags of its own."""
    force = draw(lanes(FORCE, felt))
    n = len(force)
    row = st.lists(turning, min_size=n, max_size=n)
    rate = draw(st.lists(row, min_size=3, max_size=3))
    status = draw(st.lists(st.sampled_from([0, 0, 0, 5, 20]), min_size=n, max_size=n))
    return force, Signal.of(force.time_s, rate, ROTATION, [status] * 3, force.until_s)


@st.composite
def matrices(draw: st.DrawFn) -> AxesMatrix:
    """Any correction, with a covariance that can be."""
    part = st.floats(-0.1, 0.1)
    matrix = np.eye(3) + np.array(draw(st.tuples(*[part] * 9))).reshape(3, 3)
    root = np.array(draw(st.lists(st.floats(-0.01, 0.01), min_size=24, max_size=24)))
    spread = root.reshape(12, 2) @ root.reshape(12, 2).T
    covariance = draw(st.sampled_from([(), tuple(tuple(row) for row in spread.tolist())]))
    offset = draw(st.tuples(part, part, part))
    rows = tuple(tuple(row) for row in matrix.tolist())
    return AxesMatrix(offset, rows, covariance, "6 faces", draw(st.booleans()))


@st.composite
def mounts(draw: st.DrawFn) -> MountRotation:
    """Any of the 24 ways and a little more, with either sign."""
    up = draw(st.sampled_from(AXES))
    forward = draw(st.sampled_from([one for one in AXES if one[1] != up[1]]))
    turned = draw(st.tuples(*[st.just(0.0) | st.floats(-0.3, 0.3)] * 3))
    return MountRotation(mounting(up, forward, turned), draw(st.sampled_from([1, -1])), "somehow")


trusts = st.builds(Trust, st.sampled_from([0.0, 1.0]), small, small)

INERTIAL: dict[type[Stage], Trial] = {
    CodeScale: Trial(
        st.builds(CodeScale, positive, positive, st.just(FORCE), small, st.just("as stated"),
                  st.sampled_from([0.0, 36.5]), small),
        drawn=st.tuples(lanes(COUNTS, st.integers(-32_768, 32_767).map(float))),
    ),
    VoltsForce: Trial(
        st.builds(VoltsForce, st.tuples(*[st.floats(1, 2)] * 3), st.tuples(*[positive] * 3),
                  st.tuples(*[small] * 3), st.tuples(*[small] * 3), st.just("2 extremes"), small,
                  st.just("supply"), st.booleans()),
        drawn=st.tuples(lanes(VOLTAGE, st.floats(0, 5))),
    ),
    AxesMatrix: Trial(matrices(), drawn=forces),
    MountRotation: Trial(mounts(), drawn=forces),
    LevelTurn: Trial(
        st.builds(LevelTurn, st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), small, st.just("1 mark")),
        drawn=forces,
    ),
    RestWatch: Trial(st.builds(RestWatch, positive), drawn=forces),
    Tilt: Trial(st.sampled_from(["roll", "pitch", "inclination", "level"]).map(Tilt), drawn=forces),
    VectorSize: Trial(st.just(VectorSize()), drawn=forces),
    LeanOf: Trial(
        st.just(LeanOf()),
        drawn=st.tuples(lanes(ATTITUDE, st.floats(-1.5, 1.5))),
    ),
    BumpWatch: Trial(
        st.builds(BumpWatch, st.floats(0.1, 3), positive, st.floats(0.05, 1)), DISTANCE, 0, 5
    ),
    Vibration: Trial(st.builds(Vibration, positive), drawn=forces),
    LaneShift: Trial(
        st.builds(LaneShift, st.tuples(*[turning] * 3), st.tuples(*[small] * 3), st.just("rest")),
        drawn=rotations,
    ),
    LaneScale: Trial(
        st.builds(LaneScale, st.tuples(*[positive] * 3), st.tuples(*[small] * 3), st.just("turns")),
        drawn=rotations,
    ),
    PlumbRate: Trial(
        st.just(PlumbRate()),
        drawn=units().map(lambda two: (two[1], two[0].replaced(two[0].values, quantity=ATTITUDE))),
    ),
    Turned: Trial(
        st.builds(Turned, st.integers(0, 2), st.sampled_from([0.1, 5.0]), small, small, small),
        drawn=rotations,
    ),
    Complementary: Trial(
        st.builds(Complementary, positive, trusts, st.sampled_from([0.0, 0.02])), drawn=units()
    ),
    AxisKalman: Trial(st.builds(AxisKalman, *[positive] * 3, trusts), drawn=units()),
    Madgwick: Trial(st.builds(Madgwick, positive, trusts), drawn=units()),
    Mahony: Trial(st.builds(Mahony, positive, small, trusts), drawn=units()),
    MovingAverage: Trial(st.sampled_from([1, 2, 5, 9]).map(MovingAverage), DISTANCE, 0, 5),
    Exponential: Trial(st.floats(0.01, 1.0).map(Exponential), DISTANCE, 0, 5),
    LowPass: Trial(
        st.builds(LowPass, st.floats(0.1, 20), st.sampled_from([1, 2])), drawn=forces
    ),
    HampelGate: Trial(
        st.builds(HampelGate, st.sampled_from([3, 5, 7]), positive, small), DISTANCE, 0, 5
    ),
    ValueKalman: Trial(st.builds(ValueKalman, positive, positive), drawn=forces),
    SpeedKalman: Trial(st.builds(SpeedKalman, positive, positive), DISTANCE, 0, 5),
    SlewLimit: Trial(st.builds(SlewLimit, positive), DISTANCE, 0, 5),
    StatedAccuracy: Trial(
        st.just(StatedAccuracy(0.5, 0.0625, (85.0, 0.0))),
        drawn=st.tuples(signals(TEMPERATURE, 0, 90)),
    ),
    WorkedOut: Trial(st.builds(WorkedOut, small, small), drawn=forces),
    OwnHeat: Trial(st.builds(OwnHeat, small, small), TEMPERATURE, -10, 50),
    Divided: Trial(
        st.builds(Divided, st.floats(0, 1e5), st.floats(1e3, 1e5), small), VOLTAGE, 0, 5
    ),
    EachOf: Trial(st.builds(EachOf, st.integers(1, 6), st.just("cells")), VOLTAGE, 0, 30),
}  # fmt: skip
