"""Numbers as people type them: 4k7, 4,7k, 15mA, 100n; read in the unit that is asked for."""

from __future__ import annotations

import re

POWERS = {"p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3, "k": 3, "K": 3, "M": 6, "G": 9}
_TYPED = re.compile(r"([+-]?\d{1,12})(?:[.,](\d{1,20}))?\s*(.*)")
_PLAIN = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")
_SPELLED = {"Ohm": "Ω", "ohm": "Ω", "ohms": "Ω", "R": "Ω", "C": "°C", "F": "F"}


def typed_number(text: str, unit: str = "") -> float:
    """What a person typed, as a number of `unit`.

    Raises ValueError with the readings there are where it can be read in two ways, or in none.

    >>> typed_number("4k7", "Ω"), typed_number("4,7k", "Ω"), typed_number("15mA", "mA")
    (4700.0, 4700.0, 15.0)
    >>> typed_number("0.02 A", "mA"), typed_number("100n", "F"), typed_number("-3.5", "V")
    (20.0, 1e-07, -3.5)
    """
    said = text.strip().replace("−", "-")
    if _PLAIN.fullmatch(said):
        return float(said)
    match = _TYPED.fullmatch(said)
    if match is None:
        raise ValueError(_unread(said, unit))
    whole, decimals, tail = match.groups()
    check_comma(said, decimals, tail)
    base, scale = _base_of(unit)
    letter, after, word = _parts_of(tail, base)
    if after and decimals:
        raise ValueError(_unread(said, unit))
    if letter and not word and scale:
        raise ValueError(
            f"“{said[:30]}”: is that {said} of {base}, or of {unit}? Write {said}{base} or "
            f"{whole}{unit}"
        )
    power = POWERS.get(letter, 0) - (scale if letter or word else 0)
    return float(f"{whole}.{decimals or after or '0'}e{power}")


def check_comma(said: str, decimals: str | None, tail: str) -> None:
    """Raises ValueError for a comma that may stand before decimals or between thousands."""
    if "," in said and decimals is not None and len(decimals) == 3 and not tail:
        plain = said.replace(",", "")
        raise ValueError(f"“{said[:30]}” may be {plain} or {said.replace(',', '.')}; write which")


def _base_of(unit: str) -> tuple[str, int]:
    """A unit without its prefix, and the power of that: mA is A and −3."""
    if (
        len(unit) > 1
        and unit[0] in POWERS
        and unit[1:] in ("A", "V", "m", "Hz", "s", "W", "F", "Ω")
    ):
        return unit[1:], POWERS[unit[0]]
    return unit, 0


def _parts_of(tail: str, base: str) -> tuple[str, str, str]:
    """What follows the whole number: letter of the prefix, digits after it, and the unit."""
    rest = tail.strip()
    for word, symbol in _SPELLED.items():
        if rest == base:
            break
        # 220R has its point where the R stands; any other word is the unit written out.
        if symbol == base and rest.endswith(word) and rest != "R":
            rest = rest[: -len(word)].strip() + base
    if rest in ("", base):
        return "", "", rest
    match = re.fullmatch(rf"([pnuµμmkKMGR])(\d{{0,3}})\s*({re.escape(base)})?", rest)
    if match is None or (match[1] == "R" and base not in ("", "Ω")):
        raise ValueError(f"“{tail[:20]}” after the number is no {base or 'unit'}")
    return ("" if match[1] == "R" else match[1]), match[2], match[3] or ""


def _unread(said: str, unit: str) -> str:
    example = {"Ω": "4k7 or 4.7k", "F": "100n", "A": "15m or 0.015"}.get(unit, "12.5")
    return f"“{said[:30]}” is no number; write it like {example}"
