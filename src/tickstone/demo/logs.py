"""The example logs that ship with Tick Stone, and how they are made.

``python -m tickstone.demo.logs`` writes them anew; a test holds the files to the generator.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import numpy.typing as npt

from tickstone.core.air.conditions import AirConditions
from tickstone.core.axes import three
from tickstone.core.control.controller import Controller
from tickstone.core.control.loop import Relay, Rig, simulate
from tickstone.core.control.plant import Plant
from tickstone.core.models.hall import HallModel, PulseCounter
from tickstone.core.models.inertial import BRAMBLE_DECK, AnalogueAccelerometerModel
from tickstone.core.models.motion import Motion, driven, faces_in_turn
from tickstone.core.models.ranger import RangerModel, Silence, held_and_moved
from tickstone.core.models.reflective import ReflectiveRow, Scene

FRONT_RULER = "front-ranger-ruler.csv"
FRONT_CURTAIN = "front-ranger-curtain.csv"
LEFT_RULER = "left-ranger-ruler.csv"

REAR_RUN = "rear-wheel-tape.csv"
AXLE_RUN = "front-axle-lane.csv"
NOSE_WAVE = "nose-strip-wave.csv"
NOSE_LAP = "nose-strip-lap.csv"
NOSE_HEIGHTS = "nose-strip-heights.csv"
DECK_FACES = "deck-level-faces.csv"
DECK_REST = "deck-level-rest.csv"
DECK_RAMP = "deck-level-ramp.csv"
SHED_MORNING = "shed-air-morning.csv"
METER_ENDS = "g-meter-ends.csv"
METER_DESCENT = "g-meter-descent.csv"
YARD_ROUND = "yard-round.csv"
WHEEL_STEP = "rear-axle-step.csv"
WHEEL_LOOP = "rear-axle-loop.csv"

EXAMPLE_LOGS = {
    FRONT_RULER: (
        "echo",
        "A board held at 0.300, 0.600 and 1.000 m from Bramble’s front; shed at 14.0 °C.",
    ),
    REAR_RUN: (
        "pulses",
        "Bramble’s rear wheel: rolled 2.34 m along a tape twice, then spun freely.",
    ),
    NOSE_WAVE: (
        "reflectance",
        "Bramble’s five strip sensors, waved across the strip and back, then held over concrete.",
    ),
    DECK_FACES: (
        "six_axis",
        "Bramble’s deck unit, stood on each of its six faces in turn, then left to lie still.",
    ),
    DECK_RAMP: (
        "six_axis",
        "Bramble’s deck unit: up a ramp of 8°, a stop, a turn, and down again.",
    ),
    SHED_MORNING: (
        "thermometer",
        "Bramble’s thermometer, out of a warm pocket into a cold shed.",
    ),
    METER_ENDS: (
        "analogue3",
        "Pipit’s analogue accelerometer, each axis held straight up and straight down.",
    ),
}
"""The kind of sensor, and what the log holds."""

_FOLDER = Path(__file__).parent / "logs"
_SEED = 20_260_714

FRONT_AIR = AirConditions(14.0, 0.62)
CURTAIN_AIR = AirConditions(16.0, 0.58)
YARD_AIR = AirConditions(15.0, 0.6)
LEFT_AIR = AirConditions(2.5, 0.81)


def log_path(name: str) -> Path:
    """Where an example log lies. name: one of ours, never a person's."""
    return _FOLDER / name


def front_ruler() -> str:
    """Three ruler positions, placed as well as a hand does, a soft jacket for two seconds, a banner
    and a few torn lines."""
    rng = np.random.default_rng(_SEED)
    time_ms = np.cumsum(rng.integers(50, 52, 832)) + 812
    time_s = (time_ms - time_ms[0]) / 1000.0
    truth = held_and_moved(time_s, [(0, 11.5, 0.3004), (13.8, 23.0, 0.5993), (29.5, 60.0, 1.0005)])
    model = RangerModel(FRONT_AIR, 0.008, 0.0055, 1.0032, 5.0, 0.004, 0.002)
    echo = model.echoes_us(time_s, truth, [Silence(30.6, 32.1, 0.9)], rng)
    battery = np.rint(4_930 - 0.4 * time_s + rng.normal(0, 4, len(time_s))).astype(int)
    lines = [f"{t},{e},{b}" for t, e, b in zip(time_ms, echo, battery, strict=True)]
    lines[287] = lines[287][:6]
    lines.insert(511, f"{time_ms[510] + 3},ovf,4921")
    return "Bramble front ranger, ready\nt_ms,echo_us,battery_mv\n" + "\n".join(lines) + "\n"


def front_curtain() -> str:
    """A first try against a curtain: near a third of the echoes never came back."""
    rng = np.random.default_rng(_SEED + 1)
    time_ms = np.cumsum(rng.integers(50, 52, 420)) + 790
    time_s = (time_ms - time_ms[0]) / 1000.0
    truth = held_and_moved(time_s, [(0, 8, 0.720), (12, 30, 0.480)])
    model = RangerModel(CURTAIN_AIR, 0.008, 0.0055, 1.0032, 9.0, 0.31, 0.004)
    echo = model.echoes_us(time_s, truth, [], rng)
    lines = [f"{t},{e}" for t, e in zip(time_ms, echo, strict=True)]
    return "t_ms,echo_us\n" + "\n".join(lines) + "\n"


def left_ruler() -> str:
    """Four ruler positions on a cold morning; seconds and decimal commas."""
    rng = np.random.default_rng(_SEED + 2)
    time_s = np.cumsum(rng.normal(0.060, 0.0004, 900))
    time_s -= time_s[0]
    truth = held_and_moved(
        time_s, [(0, 11, 0.1497), (13, 25, 0.4006), (28, 39, 0.7994), (43, 60, 1.4005)]
    )
    model = RangerModel(LEFT_AIR, 0.0, 0.004, 0.9979, 5.0, 0.006, 0.001)
    echo = model.echoes_us(time_s, truth, [Silence(40.2, 41.4, 0.5)], rng)
    lines = [f"{t:.4f};{e / 1000:.3f}" for t, e in zip(time_s, echo, strict=True)]
    return "time_s;echo_ms\n" + "\n".join(lines).replace(".", ",") + "\n"


def rear_run() -> str:
    """Rolled five turns along a tape twice, then spun by hand and left to run; polled."""
    rng = np.random.default_rng(_SEED + 3)
    profile = [
        (2.0, 0.0), (1.0, 0.9), (4.606, 0.9), (0.9, 0.0), (2.4, 0.0), (0.8, 1.2), (3.417, 1.2),
        (0.7, 0.0), (3.0, 0.0), (1.2, 3.1), (14.0, 2.9), (5.0, 0.0), (3.0, 0.0),
    ]  # fmt: skip
    hall = HallModel((0.0, 0.243, 0.508, 0.747), bounce=0.01, miss=0.006)
    rows = _polled(hall, profile, 0.04, 16, rng)
    lines = [f"{t},{count},{gap}" for t, count, gap in rows]
    return "t_us,hall_count,hall_gap_us\n" + "\n".join(lines) + "\n"


def axle_run() -> str:
    """A kart let down a lane and braked; labels with values, two magnets a turn."""
    rng = np.random.default_rng(_SEED + 4)
    profile = [(1.5, 0.0), (9.0, 4.4), (6.0, 4.6), (3.0, 1.1), (4.0, 1.0), (1.5, 0.0), (3.0, 0.0)]
    hall = HallModel((0.0, 0.486), bounce=0.006, miss=0.004)
    rows = _polled(hall, profile, 0.05, 32, rng)
    return "\n".join(f"ms:{t // 1000} hall:{n} gap:{gap}us" for t, n, gap in rows) + "\n"


def _polled(
    hall: HallModel,
    profile: list[tuple[float, float]],
    every_s: float,
    bits: int,
    rng: np.random.Generator,
) -> list[tuple[int, int, int]]:
    """µs, running count and last gap in µs, as a program prints them.

    profile: stretches, s, and the turns a second each of them ends with.
    """
    step_s = 0.0005
    ends = np.cumsum([duration for duration, _ in profile])
    times = np.arange(0.0, ends[-1], step_s)
    rates = np.interp(times, np.concatenate(([0.0], ends)), [0.0, *(rate for _, rate in profile)])
    turns = np.cumsum(rates) * step_s + 0.62
    counter = PulseCounter()
    rows = []
    at = 0
    for start_s in np.arange(0.0, ends[-1] - every_s, every_s).tolist():
        end = int((start_s + every_s) / step_s)
        for place, falls in hall.edges(float(turns[at]), float(turns[end]), rng):
            where = float(np.interp(place, turns[at : end + 1], times[at : end + 1]))
            counter.take(round(1e6 * where / 4.0) * 4, falls)
        at = end
        late = int(rng.integers(0, 40)) * 4
        rows.append((round(1e6 * times[end]) + late, counter.count % 2**bits, counter.gap_us))
    return rows


_PLACES_MM = (-38.0, -19.0, 0.0, 19.0, 38.0)
_STRIP_MM = 38.0


def nose_wave() -> str:
    """Held over concrete, waved across the strip twice and back, held again; the shed's lamp on."""
    rng = np.random.default_rng(_SEED + 5)
    time_ms = np.cumsum(rng.integers(20, 22, 900)) + 640
    time_s = (time_ms - time_ms[0]) / 1000.0
    at_s = [0.0, 2.0, 5.6, 6.0, 9.6, 10.0, 13.0, 16.0, 60.0]
    line = np.interp(time_s, at_s, [-75, -75, 72, 72, -72, -72, 70, -75, -75])
    scenes = [Scene(float(x), _STRIP_MM, ambient=0.12) for x in line]
    return _strip_log(time_ms, scenes, rng)


def nose_lap() -> str:
    """Following the strip on another day: low sun through the door, a joint across the strip, a
    bend too tight for it, and soil beside it.
    """
    rng = np.random.default_rng(_SEED + 6)
    time_ms = np.cumsum(rng.integers(20, 22, 1_900)) + 512
    time_s = (time_ms - time_ms[0]) / 1000.0
    weave = 7.0 * np.sin(2.0 * np.pi * 0.55 * time_s) + 5.0 * np.sin(2.0 * np.pi * 0.13 * time_s)
    bend = np.interp(time_s, [0, 24.0, 25.2, 26.8, 27.6, 60], [0, 0, -78, -78, 0, 0])
    scenes = []
    for t, x in zip(time_s.tolist(), (weave + bend).tolist(), strict=True):
        over = 14.0 < t < 14.16
        soil = ((20.0, 44.0),) if 33.0 < t < 33.9 else ()
        width = 200.0 if over else _STRIP_MM
        scenes.append(Scene(0.0 if over else x, width, ambient=0.62, dirt=soil, glare=0.35))
    return _strip_log(time_ms, scenes, rng)


STUDY_HEIGHTS_MM = (2.0, 4.0, 6.0, 9.0, 14.0)
STUDY_CELLS_S = tuple(
    (f"{height / 1000:g}{again} {lamp}", 6.0 * place + 0.3, 6.0 * place + 5.5)
    for place, (height, again, lamp) in enumerate(
        [(h, "", lamp) for h in STUDY_HEIGHTS_MM for lamp in ("on", "off")]
        + [(STUDY_HEIGHTS_MM[0], " again", "on")]
    )
)
"""Key of the cell, and from when to when it is held in the log of the study, s."""


def nose_heights() -> str:
    """The height study: at each of five heights waved with lamps on and held with lamps off, the
    first height again at the end.
    """
    rng = np.random.default_rng(_SEED + 7)
    time_ms = np.cumsum(rng.integers(38, 42, round(6.0 * len(STUDY_CELLS_S) / 0.04))) + 700
    time_s = (time_ms - time_ms[0]) / 1000.0
    scenes = []
    for t in time_s.tolist():
        place = min(len(STUDY_CELLS_S) - 1, int(t / 6.0))
        key = STUDY_CELLS_S[place][0]
        height = 1000.0 * float(key.split()[0])
        within = t - 6.0 * place
        line = float(np.interp(within, [0.3, 2.8, 5.4], [-72, 72, -72]))
        if key.endswith("off"):
            scenes.append(Scene(-120.0, _STRIP_MM, height, ambient=0.12, lamp=0.0))
        else:
            scenes.append(Scene(line, _STRIP_MM, height, ambient=0.12))
    return _strip_log(time_ms, scenes, rng)


def _strip_log(
    time_ms: npt.NDArray[np.int64], scenes: list[Scene], rng: np.random.Generator
) -> str:
    counts = ReflectiveRow(_PLACES_MM).along(scenes, time_ms / 1000.0, rng).astype(int)
    lines = [f"{t}," + ",".join(map(str, row)) for t, row in zip(time_ms, counts.T, strict=True)]
    return "t_ms,ir1,ir2,ir3,ir4,ir5\n" + "\n".join(lines) + "\n"


def deck_faces() -> str:
    """Six faces in any order, as hands do it; one of them twice, once not quite let go of."""
    rng = np.random.default_rng(_SEED + 8)
    order = ((0, 0, 1), (1, 0, 0), (0, 0, -1), (0, 1, 0), (0, 1, 0), (-1, 0, 0), (0, -1, 0))
    return _deck_log(faces_in_turn(order, 3.6, 1.2, 0.02, rng), rng)


def deck_rest() -> str:
    """Left alone on a slab for a minute and a half, before anybody moved it."""
    rng = np.random.default_rng(_SEED + 9)
    count = 4_500
    time_s = (np.arange(count) * 0.02).astype(np.float64)
    still = Motion(time_s, np.tile([[0.0], [0.0], [1.0]], count), np.zeros((3, count)))
    return _deck_log(still, rng)


def deck_ramp() -> str:
    """Up a ramp of 8°, a stop on it, on to the flat, a half turn, a hard stop; it shakes as it
    rolls.
    """
    rng = np.random.default_rng(_SEED + 10)
    pitch = [(3.0, 0.0), (2.5, -8.0), (6.0, -8.0), (1.5, 0.0), (9.0, 0.0), (1.5, 8.0), (6.0, 8.0),
             (1.5, 0.0), (6.0, 0.0)]  # fmt: skip
    yaw = [(15.0, 0.0), (6.0, 180.0), (16.0, 180.0)]
    speed = [(2.0, 0.0), (1.5, 0.7), (3.0, 0.7), (0.8, 0.0), (2.0, 0.0), (1.2, 0.7), (3.0, 0.7),
             (0.8, 0.0), (7.5, 0.0), (1.2, 0.8), (8.0, 0.8), (0.45, 0.0), (6.0, 0.0)]  # fmt: skip
    return _deck_log(driven(speed, pitch, yaw, 0.02, 0.05, rng), rng)


def shed_morning() -> str:
    """Bramble's thermometer, out of a warm pocket into a cold shed; not ready at its first."""
    rng = np.random.default_rng(_SEED + 13)
    time_s = np.arange(420.0)
    air_c = 8.4 + 0.15 * np.sin(time_s / 90.0)
    told_c = air_c + 13.0 * np.exp(-time_s / 28.0) + rng.normal(0.0, 0.05, len(time_s))
    steps = np.rint(told_c / 0.0625) * 0.0625
    steps[0] = 85.0
    lines = [f"{t:.0f};{c:.4f}".replace(".", ",") for t, c in zip(time_s, steps, strict=True)]
    return "t_s;temp_c\n" + "\n".join(lines) + "\n"


def yard_round() -> str:
    """A round of the yard, everything printed: a crate in the way, a bend that was cut, a root it
    climbed, and a hanging tarpaulin that gave no echo.
    """
    rng = np.random.default_rng(_SEED + 14)
    every_s, count = 0.04, 1_800
    time_s = every_s * np.arange(count)
    front_at = [0, 3, 11, 14, 15.2, 24, 25, 40, 50, 58, 60.5, 62, 72]
    front_m = np.interp(
        time_s, front_at, [1.9, 1.9, 0.48, 0.27, 1.6, 1.1, 1.5, 1.5, 0.9, 0.9, 0.33, 1.8, 1.8]
    )
    model = RangerModel(YARD_AIR, 0.008, 0.0055, 1.0032, 5.0, 0.012, 0.004)
    echo = model.echoes_us(time_s.astype(np.float64), front_m, [Silence(52.0, 53.6, 1.0)], rng)
    weave = 6.0 * np.sin(2.0 * np.pi * 0.5 * time_s)
    bend = np.interp(time_s, [0, 27.0, 27.8, 29.4, 30.0, 72], [0, 0, -80, -80, 0, 0])
    scenes = [Scene(float(x), _STRIP_MM, ambient=0.2) for x in weave + bend]
    strip = ReflectiveRow(_PLACES_MM).along(scenes, time_s, rng).astype(int)
    pitch = [(38.0, 0.0), (1.6, -15.5), (2.4, -15.5), (1.6, 0.0), (29.0, 0.0)]
    motion = driven([(2.0, 0.0), (1.0, 0.4), (77.0, 0.4)], pitch, [], every_s, 0.02, rng)
    lines = []
    for n in range(count):
        felt, turns = BRAMBLE_DECK.counts(
            three(motion.force_g[:, n].tolist()), three(motion.rate_dps[:, n].tolist()), rng
        )
        values = (*(round(1000 * time_s[n]) + 905, echo[n]), *strip[:, n], *felt, *turns)
        lines.append(",".join(map(str, values)))
    header = "t_ms,front_us,ir1,ir2,ir3,ir4,ir5,ax,ay,az,gx,gy,gz"
    return header + "\n" + "\n".join(lines) + "\n"


_REAR_AXLE = Plant(4.1, 0.27, 0.055, 0, 0.15)
"""Duty in, turns a second out."""


def wheel_step() -> str:
    """Wheels off the floor, power from 30 to 75 % at a stroke."""
    rng = np.random.default_rng(_SEED + 15)
    rig = Rig(sample_s=0.04, target=1e6, step_at_s=0.0, lasts_s=7.0)
    low, high = 0.30, 0.75
    free = Plant(_REAR_AXLE.gain, _REAR_AXLE.lag_s, _REAR_AXLE.delay_s)
    rise = simulate(free, Controller(), rig, relay=Relay(height=high - low))
    time_s = np.arange(200) * 0.04
    read = np.full(200, _REAR_AXLE.gain * low)
    read[25:] += rise.true[:175]
    read += rng.normal(0.0, 0.025, 200)
    duty = np.where(time_s >= 1.0 - 1e-9, high, low)
    lines = [
        f"{round(1000 * t) + 600},{u:.2f},{y:.3f}"
        for t, u, y in zip(time_s, duty, read, strict=True)
    ]
    return "t_ms,output,measured\n" + "\n".join(lines) + "\n"


def wheel_loop() -> str:
    """The loop that was kept, on the bench: from rest to 2.5 turns a second, and a hand on the
    wheel.
    """
    rig = Rig(
        sample_s=0.04, noise_u=0.025, target=2.5, step_at_s=1.0, lasts_s=9.0, load=-0.2,
        load_at_s=6.0,
    )  # fmt: skip
    controller = Controller(kp=0.3, ki=1.2, low=0.0, high=1.0)
    run = simulate(_REAR_AXLE, controller, rig, seed=_SEED + 16)
    lines = [
        f"{round(1000 * t) + 580},{r:.2f},{y:.3f},{u:.3f}"
        for t, r, y, u in zip(run.time_s, run.wanted, run.measured, run.output, strict=True)
    ]
    return "t_ms,set,measured,output\n" + "\n".join(lines) + "\n"


def meter_ends() -> str:
    """Each axis of the kart's part held up and down by hand."""
    rng = np.random.default_rng(_SEED + 11)
    order = ((0, 0, 1), (0, 0, -1), (1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0))
    motion = faces_in_turn(order, 3.4, 1.4, 0.02, rng)
    model = AnalogueAccelerometerModel()
    rows = (model.counts(three(force), rng) for force in motion.force_g.T.tolist())
    lines = [f"{20 * n},{x},{y},{z}" for n, (x, y, z) in enumerate(rows)]
    return "t_ms,ax,ay,az\n" + "\n".join(lines) + "\n"


def meter_descent() -> str:
    """The kart down a lane of 5°: it rumbles faster as it goes, and brakes; the wheel beside it."""
    rng = np.random.default_rng(_SEED + 12)
    profile = [(0.3, 0.0), (9.0, 4.4), (7.0, 4.6), (2.2, 0.0), (3.0, 0.0)]
    hall = HallModel((0.0, 0.486), bounce=0.006, miss=0.004)
    wheel = _polled(hall, profile, 0.01, 32, rng)
    speed = [(duration, 0.958 * rate) for duration, rate in profile]
    motion = driven(speed, [(30.0, 5.0)], [], 0.01, 0.0, rng)
    turned = np.cumsum(np.interp(motion.time_s, np.cumsum([0.0, *(d for d, _ in profile)]),
                                 [0.0, *(rate for _, rate in profile)])) * 0.01  # fmt: skip
    rate = np.gradient(turned, 0.01)
    rumble = 0.035 * rate * np.sin(2.0 * np.pi * 4.0 * turned)
    model = AnalogueAccelerometerModel()
    lines = []
    for n, (t_us, count, gap) in enumerate(wheel):
        x, y, z = motion.force_g[:, min(n, len(motion.time_s) - 1)].tolist()
        shake = float(rumble[min(n, len(rumble) - 1)])
        ax, ay, az = model.counts((x, y + 0.3 * shake, z + shake), rng)
        lines.append(f"ms:{t_us // 1000} hall:{count} gap:{gap}us ax:{ax} ay:{ay} az:{az}")
    return "\n".join(lines) + "\n"


def _deck_log(motion: Motion, rng: np.random.Generator) -> str:
    lines = []
    late = rng.integers(0, 40, len(motion.time_s))
    forces, rates = motion.force_g.T.tolist(), motion.rate_dps.T.tolist()
    for n, (force, rate) in enumerate(zip(forces, rates, strict=True)):
        felt, turns = BRAMBLE_DECK.counts(three(force), three(rate), rng)
        time_us = 640_000 + round(1e6 * float(motion.time_s[n])) + 4 * int(late[n])
        lines.append(f"{time_us}," + ",".join(map(str, (*felt, *turns))))
    return "t_us,ax,ay,az,gx,gy,gz\n" + "\n".join(lines) + "\n"


MAKERS = {
    DECK_FACES: deck_faces,
    DECK_REST: deck_rest,
    DECK_RAMP: deck_ramp,
    SHED_MORNING: shed_morning,
    METER_ENDS: meter_ends,
    METER_DESCENT: meter_descent,
    YARD_ROUND: yard_round,
    WHEEL_STEP: wheel_step,
    WHEEL_LOOP: wheel_loop,
    NOSE_WAVE: nose_wave,
    NOSE_LAP: nose_lap,
    NOSE_HEIGHTS: nose_heights,
    REAR_RUN: rear_run,
    AXLE_RUN: axle_run,
    FRONT_RULER: front_ruler,
    FRONT_CURTAIN: front_curtain,
    LEFT_RULER: left_ruler,
}

if __name__ == "__main__":
    _FOLDER.mkdir(exist_ok=True)
    for name, make in MAKERS.items():
        log_path(name).write_text(make(), encoding="utf-8", newline="\n")
