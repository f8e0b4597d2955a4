"""Names for a program, from what people call their sensors."""

from __future__ import annotations

import re
import unicodedata

LONGEST = 20
_HIDDEN = frozenset(("Cc", "Cf", "Cs", "Co", "Cn", "Zl", "Zp"))
"""Characters that no reader sees: controls, marks that turn the direction of text, and the like."""


def identifier(text: str) -> str:
    """A name that every language takes, or nothing when no letter is left.

    >>> identifier("Front ranger"), identifier("Räder №1"), identifier("1st"), identifier("★")
    ('front_ranger', 'rader_no1', 's1st', '')
    """
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    word = re.sub(r"[^a-z0-9]+", "_", plain.lower()).strip("_")[:LONGEST].strip("_")
    return f"s{word}" if word[:1].isdigit() else word


def plain_line(text: str) -> str:
    r"""A person's words as they may stand in a comment of any language, on one line.

    What would end a comment or a line, or turn the direction of what follows, is taken out.

    >>> plain_line("Räder */ x\n#define"), plain_line('a\\'), plain_line('" ??/')
    ('Räder * / x #define', 'a/', "' ? /")
    """
    seen = "".join(" " if unicodedata.category(one) in _HIDDEN else one for one in text)
    seen = seen.replace("\\", "/").replace('"', "'").replace("??", "? ")
    seen = re.sub(r"\*(?=/)", "* ", re.sub(r"/(?=\*)", "/ ", seen))
    return re.sub(r"\s+", " ", seen).strip()
