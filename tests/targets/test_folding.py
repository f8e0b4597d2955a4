"""Folding a long line changes how it looks, and nothing else."""

from __future__ import annotations

import ast
import keyword
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tickstone.targets.folding import PYTHON_WIDTH, WIDTH, folded

words = st.from_regex(r"[a-z][a-z_]{0,14}", fullmatch=True).filter(
    lambda word: not keyword.iskeyword(word)
)
sums = st.lists(words, min_size=1, max_size=20).flatmap(
    lambda names: st.lists(
        st.sampled_from(["+", "-", "*", "and", "or", "<"]),
        min_size=len(names) - 1,
        max_size=len(names) - 1,
    ).map(lambda signs: _joined(names, signs))
)


def _joined(names: list[str], signs: list[str]) -> str:
    pieces = [names[0]]
    for sign, name in zip(signs, names[1:], strict=True):
        pieces += [sign, name]
    return " ".join(pieces)


def parses(text: str) -> bool:
    try:
        ast.parse(text)
    except SyntaxError:
        return False
    return True


@given(
    st.sampled_from(["x = {}", "self.y[3] = {}", "if {}:\n    pass", "while {}:\n    pass"]), sums
)
def test_folded_python_is_the_same_program(shape: str, value: str) -> None:
    text = shape.format(value)
    if not parses(text):
        return
    after = folded(text, is_python=True)
    assert ast.dump(ast.parse(after)) == ast.dump(ast.parse(text))
    assert max(map(len, after.split("\n"))) <= PYTHON_WIDTH


@given(st.integers(0, 8), sums, st.text(st.characters(categories=["L", "Zs"]), max_size=120))
def test_folded_c_has_the_same_words(depth: int, value: str, comment: str) -> None:
    remark = " ".join(comment.split())
    line = f"{' ' * depth}x = {value};" + (f"  // {remark}" if remark else "")
    after = folded(line, is_python=False)
    code = " ".join(one for one in after.split("\n") if not one.lstrip().startswith("//"))
    code = code.split("  // ")[0]
    assert code.split() == f"x = {value};".split()
    said = re.sub(r"\s*(?://)\s*", " ", " ".join(re.findall(r"//.*", after)))
    assert said.split() == remark.split()


def test_a_paragraph_of_comments_is_filled_as_one() -> None:
    text = "\n".join(["// " + "a long tale " * 9, "// and its end.", "//", "// Another."])
    after = folded(text, is_python=False).split("\n")
    assert max(map(len, after)) <= WIDTH
    assert after[-2:] == ["//", "// Another."]
    assert after[1].endswith("and its end.")


@pytest.mark.parametrize("is_python", [True, False])
def test_what_holds_a_string_is_left_alone(is_python: bool) -> None:
    line = 'x = "' + "word " * 30 + '"'
    assert folded(line, is_python) == line
