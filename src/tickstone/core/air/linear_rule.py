"""The straight line through the speed of sound that most sketches and school books use."""


def speed_of_sound(temperature_c: float) -> float:
    """c = 331.3 + 0.606·t, m/s, t in °C, dry air. Common practice, no single source.

    >>> speed_of_sound(20.0)
    343.42
    """
    return 331.3 + 0.606 * temperature_c
