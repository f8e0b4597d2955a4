"""Numbers as a person reads them: decimals follow the uncertainty."""

import math

from tickstone.core.uncertainty import expanded

THIN_SPACE = "\u202f"
"""Narrow and unbreakable, so that no number is torn at a line's end."""


def decimals_for(u: float) -> int:
    """Decimals worth printing beside a standard uncertainty u.

    The expanded uncertainty gets one significant digit, two when it begins with 1 or 2, so that
    rounding never changes it by more than a fifth or so.

    >>> decimals_for(0.0022), decimals_for(0.0007), decimals_for(12.0)
    (3, 4, 0)
    """
    spread = expanded(u)
    if not math.isfinite(spread) or spread <= 0:
        return 6
    exponent = math.floor(math.log10(spread))
    leading = spread / 10.0**exponent
    digits = 2 if leading < 2.95 else 1
    return max(0, digits - 1 - exponent)


def grouped(value: float, decimals: int) -> str:
    """Digits in groups of three with thin spaces left of the point, as in ISO 80000-1.

    >>> grouped(5831, 0).split(THIN_SPACE), grouped(0.9954, 3), grouped(-0.5, 1)
    (['5', '831'], '0.995', '−0.5')
    """
    text = f"{abs(value):,.{decimals}f}".replace(",", THIN_SPACE)
    is_negative = value < 0 and float(f"{value:.{decimals}f}") != 0
    return ("−" if is_negative else "") + text


def measured(value: float, u: float, unit: str) -> str:
    """A result with its expanded uncertainty.

    >>> measured(0.99537, 0.0021, "m")
    '0.995 m ± 0.004 m'
    """
    decimals = decimals_for(u)
    return f"{grouped(value, decimals)} {unit} ± {grouped(expanded(u), decimals)} {unit}"


PREFIX_SCALES = {
    **{"G": 1e9, "M": 1e6, "k": 1e3, "": 1.0},
    **{"m": 1e-3, "µ": 1e-6, "n": 1e-9, "p": 1e-12},
}


def prefixed(value: float, unit: str, digits: int = 3) -> str:
    """A quantity with the SI prefix that suits it and at most `digits` significant digits.

    >>> prefixed(1800.0, "Ω"), prefixed(1e-7, "F"), prefixed(0.0147, "A"), prefixed(0.0, "V")
    ('1.8 kΩ', '100 nF', '14.7 mA', '0 V')
    """
    if value == 0.0 or not math.isfinite(value):
        return f"{value:g} {unit}"
    rounded = float(f"{value:.{digits}g}")
    prefix = next(
        (one for one, scale in PREFIX_SCALES.items() if abs(rounded) >= scale * 0.9999999), "p"
    )
    scale = PREFIX_SCALES[prefix]
    text = f"{rounded / scale:.{digits}g}"
    if "e" in text:
        text = f"{rounded / scale:.0f}"
    return f"{text.replace('-', '−')} {prefix}{unit}"


def finite(value: float) -> float | None:
    """A number as documents have it, which know no infinity: None for what is none.

    >>> finite(0.5), finite(float("nan"))
    (0.5, None)
    """
    return value if math.isfinite(value) else None
