"""The resistor before an LED."""

from __future__ import annotations

from tickstone.core.electric.preferred_values import next_up

BODIES_W = (0.125, 0.25, 0.5, 1.0, 2.0, 5.0)
"""Usual bodies, W; a resistor is used at half of what its body bears (common practice)."""
BODY_USE = 0.5


def needed_ohm(supply_v: float, forward_v: float, current_a: float) -> float:
    """R = (V_s − V_f)/I. Raises ValueError when the supply cannot light the LED.

    >>> round(needed_ohm(5.0, 2.0, 0.015))
    200
    """
    if supply_v <= forward_v:
        raise ValueError(
            f"a supply of {supply_v:g} V cannot light an LED that needs {forward_v:g} V"
        )
    if current_a <= 0.0:
        raise ValueError("the current has to be above 0")
    return (supply_v - forward_v) / current_a


def chosen_ohm(supply_v: float, forward_v: float, current_a: float, series: str = "E12") -> float:
    """The next preferred value up: never more than the wanted current.

    >>> chosen_ohm(5.0, 2.0, 0.015)
    220.0
    """
    return next_up(needed_ohm(supply_v, forward_v, current_a), series)


def body_for(power_w: float) -> float | None:
    """The smallest usual body that is used at half its power at most; None when none is.

    >>> body_for(0.041), body_for(0.1), body_for(30.0)
    (0.125, 0.25, None)
    """
    return next((body for body in BODIES_W if power_w <= BODY_USE * body), None)
