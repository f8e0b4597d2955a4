"""Values of parts as people write them: 1.8k, 4k7, 100n, 220."""

from __future__ import annotations

import re
from decimal import Decimal

from tickstone.core.typed_numbers import check_comma

_POWERS = {
    **{"p": -12, "n": -9, "u": -6, "µ": -6, "μ": -6, "m": -3},
    **{"": 0, "R": 0, "k": 3, "K": 3, "M": 6, "G": 9},
}
_VALUE = re.compile(r"(\d{1,9})(?:[.,](\d{1,20}))?\s*([pnuµμmRkKMG]?)(\d{0,3})\s*(?:Ω|Ohm|ohm|F)?")


def part_value(text: str) -> float:
    """A value in Ω or F. Raises ValueError when it cannot be read, or in two ways.

    >>> part_value("1.8k"), part_value("4k7"), part_value("100n"), part_value("220 Ω")
    (1800.0, 4700.0, 1e-07, 220.0)
    """
    match = _VALUE.fullmatch(text.strip())
    if match is None or (match[2] and match[4]) or (match[4] and not match[3]):
        raise ValueError(
            f"“{text.strip()[:30]}” is no part’s value; write it like 1.8k, 4k7, 100n or 220"
        )
    check_comma(text.strip(), match[2], match[3])
    return float(f"{match[1]}.{match[2] or match[4] or '0'}e{_POWERS[match[3]]}")


def listed(text: str) -> list[str]:
    """Values that stand in a row, apart by commas, or by semicolons or blanks.

    Raises ValueError where a comma may be either in a value or between two.

    >>> listed("10k, 4k7"), listed("4,7k; 10k"), listed("220 330")
    (['10k', '4k7'], ['4,7k', '10k'], ['220', '330'])
    """
    if ";" in text:
        return [one.strip() for one in text.split(";") if one.strip()]
    if ", " in text or "," not in text:
        return text.replace(", ", " ").split()
    found = [one.strip() for one in text.split(",") if one.strip()]
    if len(found) == 2 and found[0].isdigit() and not found[1].isdigit():
        raise ValueError(
            f"“{text[:30]}” may be {'.'.join(found)} or {'; '.join(found)}; write which"
        )
    return found


def short_value(value: float) -> str:
    """The same the other way round, to the last figure.

    >>> short_value(1800.0), short_value(1e-7), short_value(220.0), short_value(1234.56789)
    ('1.8k', '100n', '220', '1.23456789k')
    """
    exact = Decimal(repr(value))
    letter = next((one for one in ("M", "k", "", "m", "u", "n") if value >= _scale(one)), "p")
    return f"{exact.scaleb(-_POWERS[letter]).normalize():f}{letter}"


def _scale(letter: str) -> float:
    return float(f"1e{_POWERS[letter]}")
