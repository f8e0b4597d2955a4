"""How far the rig runs from the moment something stands in its way until it stands still."""

from __future__ import annotations

import math
from dataclasses import dataclass

from tickstone.core.reading_units import STANDARD_GRAVITY_M_PER_S2
from tickstone.core.uncertainty import Component, combined, expanded


@dataclass(frozen=True, slots=True)
class StoppingInputs:
    """What the rig does, and how well that is known.

    speed_m_per_s: v. speed_u: its standard uncertainty, m/s.
    deceleration_m_per_s2: a, how hard it brakes. deceleration_u: standard uncertainty, m/s².
    sample_s, filter_s, loop_s, actuate_s: s. Time between readings, lag of the filter, one turn of
        the program, time until the brake bites.
    debounce_s: for how long a reading has to stand before it counts, s.
    slope_rad: downhill, rad; negative uphill. Braking is that on the level, by grip.
    reading_u_m: standard uncertainty of one distance, m.
    margin_m: room to spare in front, m.

    Raises ValueError naming the first quantity that cannot be.
    """

    speed_m_per_s: float
    deceleration_m_per_s2: float
    sample_s: float
    filter_s: float
    loop_s: float
    actuate_s: float
    reading_u_m: float
    margin_m: float
    speed_u: float = 0.0
    deceleration_u: float = 0.0
    debounce_s: float = 0.0
    slope_rad: float = 0.0

    def __post_init__(self) -> None:
        if not (math.isfinite(self.deceleration_m_per_s2) and self.deceleration_m_per_s2 > 0.0):
            raise ValueError("the braking has to be above 0 m/s²: without it nothing ever stops")
        for name in (
            "speed_m_per_s",
            "sample_s",
            "filter_s",
            "loop_s",
            "actuate_s",
            "reading_u_m",
            "margin_m",
            "speed_u",
            "deceleration_u",
            "debounce_s",
        ):
            value = getattr(self, name)
            if not (math.isfinite(value) and value >= 0.0):
                raise ValueError(f"{name} is {value:g}; it has to be 0 or more")
        if not abs(self.slope_rad) < math.pi / 2.0:
            raise ValueError("slope_rad: a slope lies between 90° down and 90° up")
        if not self.brakes_m_per_s2 > 0.0:
            raise ValueError(
                f"slope_rad: on a slope of {math.degrees(self.slope_rad):.1f}° it never stops: "
                f"gravity pulls harder than {self.deceleration_m_per_s2:g} m/s² brakes"
            )

    @property
    def brakes_m_per_s2(self) -> float:
        """How hard it brakes on the slope: a·cos θ − g·sin θ, m/s².

        >>> ramp = StoppingInputs(1, 2, 0, 0, 0, 0, 0, 0, slope_rad=math.radians(6))
        >>> round(ramp.brakes_m_per_s2, 3)
        0.964
        """
        down = STANDARD_GRAVITY_M_PER_S2 * math.sin(self.slope_rad)
        return self.deceleration_m_per_s2 * math.cos(self.slope_rad) - down

    @property
    def blind_s(self) -> float:
        """All the time in which the rig drives on without acting, s."""
        return self.sample_s + self.filter_s + self.debounce_s + self.loop_s + self.actuate_s


@dataclass(frozen=True, slots=True)
class StoppingDistance:
    """The parts of the sum, m, and what to set.

    travel_blind_m: v·(T_sample + T_filter + T_loop + T_actuate).
    travel_braking_m: v²/(2a).
    doubt_m: k·u of those two together with the reading.
    total_m: all of it with the margin: stop below this.
    """

    travel_blind_m: float
    travel_braking_m: float
    doubt_m: float
    margin_m: float
    components: tuple[Component, ...]

    @property
    def total_m(self) -> float:
        """Everything added up, m."""
        return self.travel_blind_m + self.travel_braking_m + self.doubt_m + self.margin_m


def stopping_distance(inputs: StoppingInputs) -> StoppingDistance:
    """d_stop = v·ΣT + v²/(2a) + k·u + margin. Kinematics; the sum is common practice.

    >>> inputs = StoppingInputs(0.6, 1.5, 0.05, 0.05, 0.04, 0.06, 0.002, 0.05)
    >>> round(stopping_distance(inputs).total_m, 3)
    0.294
    """
    v, a = inputs.speed_m_per_s, inputs.brakes_m_per_s2
    components = tuple(
        part
        for part in (
            Component("reading", inputs.reading_u_m, "m", inputs.reading_u_m, True, "the chain"),
            Component(
                "speed",
                inputs.speed_u,
                "m/s",
                (inputs.blind_s + v / a) * inputs.speed_u,
                True,
                "stated",
            ),
            Component(
                "braking",
                inputs.deceleration_u,
                "m/s²",
                -(v * v) / (2.0 * a * a) * math.cos(inputs.slope_rad) * inputs.deceleration_u,
                True,
                "stated",
            ),
        )
        if part.contribution != 0.0
    )
    return StoppingDistance(
        travel_blind_m=v * inputs.blind_s,
        travel_braking_m=v * v / (2.0 * a),
        doubt_m=expanded(combined(components)),
        margin_m=inputs.margin_m,
        components=components,
    )


def greatest_speed_m_per_s(stop_below_m: float, inputs: StoppingInputs) -> float:
    """The speed a threshold is good for, m/s; 0 when it does not even cover doubt and margin.

    Solves v·ΣT + v²/(2a) = stop_below_m − k·u − margin with u at the stated speed.

    >>> inputs = StoppingInputs(0.6, 1.5, 0.05, 0.05, 0.04, 0.06, 0.002, 0.05)
    >>> round(greatest_speed_m_per_s(stopping_distance(inputs).total_m, inputs), 6)
    0.6
    """
    room = stop_below_m - stopping_distance(inputs).doubt_m - inputs.margin_m
    if room <= 0.0:
        return 0.0
    a, blind = inputs.brakes_m_per_s2, inputs.blind_s
    return -a * blind + math.sqrt((a * blind) ** 2 + 2.0 * a * room)


def braking_from_skid(
    speed_m_per_s: float, skid_m: float, speed_u: float = 0.0, skid_u: float = 0.0
) -> tuple[float, float]:
    """(a, u of a), m/s²: from the length of a skid by tape, a = v²/(2·L). On the level.

    Raises ValueError unless both are above 0.

    >>> a, u = braking_from_skid(0.6, 0.225, skid_u=0.01)
    >>> round(a, 3), round(u, 3)
    (0.8, 0.036)
    """
    if not (speed_m_per_s > 0.0 and skid_m > 0.0):
        raise ValueError("skid_m: a skid has a speed and a length, both above 0")
    a = speed_m_per_s**2 / (2.0 * skid_m)
    return a, a * math.hypot(2.0 * speed_u / speed_m_per_s, skid_u / skid_m)


def suggested_thresholds_m(inputs: StoppingInputs) -> tuple[float, float]:
    """(stop below, go again above), m: the sum rounded up to the centimetre, and a dead band.

    The band is three times U of a reading, never under 5 cm, so that noise alone cannot cross it.

    >>> suggested_thresholds_m(StoppingInputs(0.6, 1.5, 0.05, 0.05, 0.04, 0.06, 0.002, 0.05))
    (0.3, 0.35)
    """
    stop = math.ceil(round(stopping_distance(inputs).total_m * 100.0, 6)) / 100.0
    band = max(0.05, math.ceil(300.0 * expanded(inputs.reading_u_m)) / 100.0)
    return stop, round(stop + band, 2)
