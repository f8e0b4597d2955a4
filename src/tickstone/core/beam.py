"""How wide the beam is where it lands."""

from __future__ import annotations

import math


def footprint_diameter_m(distance_m: float, full_angle_rad: float) -> float:
    """Diameter of the beam's footprint, 2·d·tan(θ/2), m.

    distance_m: d, m. full_angle_rad: θ, rad, edge to edge. A datasheet that prints half the angle
    gives half the width, so ask which it is.

    Raises ValueError unless d ≥ 0 and 0 < θ < π.

    >>> round(footprint_diameter_m(1.0, math.radians(15.0)), 3)
    0.263
    """
    if not distance_m >= 0.0:
        raise ValueError(f"a distance of {distance_m:g} m has no footprint")
    if not 0.0 < full_angle_rad < math.pi:
        raise ValueError("a beam's full angle lies between 0 and 180°")
    return 2.0 * distance_m * math.tan(full_angle_rad / 2.0)
