"""Long lines of a program folded, each as its language has it, so that nothing has to be scrolled
sideways.
"""

from __future__ import annotations

import itertools
import re
import textwrap

WIDTH = 84
"""So that it can be read beside other things on a small screen."""
PYTHON_WIDTH = 100
"""Of code: what its usual formatter is told here, which would join what is folded before."""
_CPP_BEHIND = re.compile(r"^(?P<code>.*\S)\s+(?P<comment>// .*)$")
_PYTHON_BEHIND = re.compile(r"^(?P<code>.*\S)\s\s(?P<comment># .*)$")
_PIECE = re.compile(r" (?=(?:\|\||&&|\?|and|or|if|else) )")
_SET = re.compile(r"^(?P<head>[\w.\[\]]+ = )(?P<value>.+)$")
_BLOCK = re.compile(r"^(?P<head>(?:if|elif|while) )(?P<value>.+):$")


def folded(text: str, is_python: bool) -> str:
    """Every line that is too long in several. What holds a string is left as it is.

    >>> print(folded("x = " + "front + " * 12 + "left", is_python=True))
    x = (
        front + front + front + front + front + front + front + front + front + front +
        front + front + left
    )
    """
    mark = "#" if is_python else "//"
    lines: list[str] = []
    for kind, group in itertools.groupby(text.split("\n"), lambda line: _comment_at(line, mark)):
        block = list(group)
        if kind is None:
            most = PYTHON_WIDTH if is_python else WIDTH
            lines += [one if len(one) <= most else _folded(one, mark, is_python) for one in block]
        elif max(map(len, block)) > WIDTH:
            said = " ".join(one.strip()[len(mark) :].strip() for one in block)
            lines.append(_filled(said, f"{kind}{mark} ", f"{kind}{mark} "))
        else:
            lines += block
    return "\n".join(lines)


def _comment_at(line: str, mark: str) -> str | None:
    """Of a line that is nothing but a comment that says something, what it is indented by."""
    code = line.lstrip()
    return line[: len(line) - len(code)] if code.startswith(mark) and code != mark else None


def _folded(line: str, mark: str, is_python: bool) -> str:
    code = line.lstrip()
    indent = line[: len(line) - len(code)]
    behind = (_PYTHON_BEHIND if is_python else _CPP_BEHIND).match(code)
    if behind is not None and '"' not in behind["code"]:
        said = behind["comment"][len(mark) :].strip()
        comment = _filled(said, f"{indent}{mark} ", f"{indent}{mark} ")
        rest = indent + behind["code"]
        return f"{comment}\n{rest if len(rest) <= WIDTH else _folded(rest, mark, is_python)}"
    if '"' in code or "'" in code or "#" in code:
        return line
    if not is_python:
        return _packed(code, indent, f"{indent}    ")
    inner = f"{indent}    "
    for shape, end in ((_SET, ")"), (_BLOCK, "):")):
        found = shape.match(code)
        if found is not None:
            value = _packed(found["value"], inner, inner)
            return f"{indent}{found['head']}(\n{value}\n{indent}{end}"
    return line


def _packed(code: str, first: str, after: str) -> str:
    """Code in lines that begin, where they can, with what joins them."""
    lines = [first]
    for piece in _PIECE.split(code):
        joined = piece if not lines[-1].strip() else f"{lines[-1]} {piece}"
        if lines[-1].strip() and len(joined) > WIDTH:
            lines.append(after + piece)
        else:
            lines[-1] = joined if lines[-1].strip() else lines[-1] + piece
    return "\n".join(
        line if len(line) <= WIDTH else _filled(line.strip(), line[: -len(line.lstrip())], after)
        for line in lines
    )


def _filled(text: str, first: str, after: str) -> str:
    return textwrap.fill(
        text, WIDTH, initial_indent=first, subsequent_indent=after,
        break_long_words=False, break_on_hyphens=False,
    )  # fmt: skip
