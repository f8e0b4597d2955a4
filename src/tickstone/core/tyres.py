"""Tyre sizes as ISO 5775 prints them on a side wall: how far a wheel rolls, to start with."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

SIZE_DOUBT = 0.02
"""Half width, as a share, of how far off a roll-out from a size may be: tread, wear, pressure and
load make it so. From memory; a tape tells better."""
_SIZE = re.compile(r"\s*(\d{2,3}(?:\.\d)?)\s*[-–×x]\s*(\d{3})\s*")
_WIDTH_MM, _RIM_MM = (18.0, 130.0), (100.0, 700.0)


@dataclass(frozen=True, slots=True)
class TyreSize:
    """Section width and bead seat diameter, m.

    A tyre is taken to stand as high above the seat as it is wide: common practice.

    >>> tyre = tyre_size("37-622")
    >>> round(tyre.roll_out_m, 3)
    2.187
    """

    width_m: float
    rim_m: float

    @property
    def roll_out_m(self) -> float:
        """π·(rim + 2·width)."""
        return math.pi * (self.rim_m + 2.0 * self.width_m)


def tyre_size(text: str) -> TyreSize:
    """A size as it is printed, `width-rim` in mm. Raises ValueError saying what one looks like."""
    found = _SIZE.fullmatch(text)
    if found is None:
        raise ValueError(
            f"“{text.strip()[:20]}” is no size as ISO 5775 prints it; that is width-rim in mm, "
            "such as 47-622"
        )
    width_mm, rim_mm = float(found[1]), float(found[2])
    if not _WIDTH_MM[0] <= width_mm <= _WIDTH_MM[1]:
        raise ValueError(f"a tyre {width_mm:g} mm wide; 18 to 130")
    if not _RIM_MM[0] <= rim_mm <= _RIM_MM[1]:
        raise ValueError(f"a rim of {rim_mm:g} mm; 100 to 700")
    return TyreSize(width_mm / 1e3, rim_mm / 1e3)
