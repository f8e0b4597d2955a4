"""Wire colours, and which one a wire has when the person says nothing."""

from __future__ import annotations

COLOURS = (
    *("red", "black", "brown", "orange", "yellow", "green"),
    *("blue", "violet", "grey", "white", "pink", "turquoise"),
)
SIGNAL_COLOURS = (
    "yellow",
    "green",
    "blue",
    "violet",
    "orange",
    "turquoise",
    "white",
    "brown",
    "pink",
)
"""Red is left to supplies and black to ground (common practice)."""


def usual_colour(is_ground: bool, is_supply: bool, place: int) -> str:
    """The colour of a wire nobody chose one for. place: the lead's among its device's signals.

    >>> usual_colour(True, False, 0), usual_colour(False, True, 0), usual_colour(False, False, 1)
    ('black', 'red', 'green')
    """
    if is_ground:
        return "black"
    if is_supply:
        return "red"
    return SIGNAL_COLOURS[place % len(SIGNAL_COLOURS)]
