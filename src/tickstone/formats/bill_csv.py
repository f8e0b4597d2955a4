"""The bill of materials as CSV."""

from __future__ import annotations

from collections.abc import Iterable

from tickstone.core.wiring.bill import BillLine
from tickstone.formats.safe_csv import written

HEADER = ("count", "what", "detail", "bands", "used at")


def bill_csv(lines: Iterable[BillLine]) -> str:
    """One row for each kind of thing.

    >>> bill_csv([BillLine(2, "resistor 220 Ω", "± 5 %", ("red", "red", "brown", "gold"))])
    'count,what,detail,bands,used at\\r\\n2,resistor 220 Ω,± 5 %,red red brown gold,\\r\\n'
    """
    return written(
        HEADER,
        (
            (str(one.count), one.what, one.detail, " ".join(one.bands), ", ".join(one.used_at))
            for one in lines
        ),
    )
