"""Families as files: those shipped, what they say of themselves, and files that will not do."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scripts.update_schemas import FOLDER, schemas

from tickstone.core.families.board_family import BoardFamily
from tickstone.core.families.figure import Figure
from tickstone.formats.family_file import (
    BOARD_FILES,
    DEVICE_FILES,
    shipped_boards,
    shipped_devices,
)

SHIPPED = [*shipped_boards().values(), *shipped_devices().values()]
DATA = Path(__file__).parents[2] / "src" / "tickstone" / "families"


def form_of(family: Any) -> Any:
    return BOARD_FILES if isinstance(family, BoardFamily) else DEVICE_FILES


def documents() -> list[tuple[str, dict[str, Any]]]:
    return [
        (path.parent.name, json.loads(path.read_text(encoding="utf-8")))
        for path in sorted(DATA.glob("*/*.json"))
    ]


def numbers(document: Any, path: str = "") -> list[str]:
    """Where bare numbers stand, other than in a figure."""
    if isinstance(document, dict):
        if set(document) == {"value", "source"}:
            return []
        return [one for key, value in document.items() for one in numbers(value, f"{path}.{key}")]
    if isinstance(document, list):
        return [one for value in document for one in numbers(value, path)]
    return [path] if isinstance(document, int | float) and not isinstance(document, bool) else []


def test_every_board_and_device_of_the_trade_is_there() -> None:
    assert len(shipped_boards()) == 6
    assert len(shipped_devices()) >= 27
    for path in DATA.glob("*/*.json"):
        assert json.loads(path.read_text(encoding="utf-8"))["name"] == path.stem


@pytest.mark.parametrize("family", SHIPPED, ids=lambda family: family.name)
def test_a_family_written_reads_back_the_same(family: Any) -> None:
    form = form_of(family)
    assert form.of(form.document(family)) == family


@pytest.mark.parametrize(("folder", "document"), documents(), ids=lambda one: str(one)[:30])
def test_a_shipped_file_keeps_to_the_published_schema(folder: str, document: dict) -> None:
    schema = json.loads((FOLDER / f"{folder.removesuffix('s')}.schema.json").read_text())
    jsonschema.Draft202012Validator.check_schema(schema)
    jsonschema.validate(document, schema, cls=jsonschema.Draft202012Validator)


def test_the_published_schemas_are_the_current_ones() -> None:
    for name, text in schemas().items():
        assert (FOLDER / name).read_text(encoding="utf-8") == text, "run scripts.update_schemas"


@pytest.mark.parametrize(("folder", "document"), documents(), ids=lambda one: str(one)[:30])
def test_every_figure_has_its_source(folder: str, document: dict) -> None:
    """Numbers without a source are counts, addresses or stated ratios, and named here."""
    allowed = (".bits", ".tolerance", ".at_supply_v", ".addresses")
    assert [one for one in numbers(document) if not one.endswith(allowed)] == []


def broken(change: str) -> tuple[Any, dict[str, Any]]:
    board = copy.deepcopy(BOARD_FILES.document(shipped_boards()["five_volt_8bit"]))
    device = copy.deepcopy(DEVICE_FILES.document(shipped_devices()["ultrasonic_ranger"]))
    if change == "unknown field":
        board["colour"] = "green"
        return BOARD_FILES, board
    if change == "pin class":
        board["pins"][3]["pin_class"] = "mystery"
        return BOARD_FILES, board
    if change == "twice":
        board["pins"][3]["name"] = "D2"
        return BOARD_FILES, board
    if change == "no source":
        board["rails"][0]["volts"] = {"value": 5.0, "source": " "}
        return BOARD_FILES, board
    if change == "no ground":
        board["rails"] = [rail for rail in board["rails"] if rail["kind"] != "ground"]
        return BOARD_FILES, board
    if change == "levels":
        board["pin_classes"][0]["low_max_v"]["value"] = 4.0
        return BOARD_FILES, board
    if change == "no output":
        del device["leads"][2]["output"]
        return DEVICE_FILES, device
    if change == "role":
        device["leads"][1]["role"] = "wizard"
        return DEVICE_FILES, device
    device["name"] = "../../etc"
    return DEVICE_FILES, device


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("unknown field", "colour: unexpected"),
        ("pin class", "pin D3 is of the class “mystery”"),
        ("twice", "“D2” stands there twice"),
        ("no source", r"rails\[0\].volts: a figure needs its source"),
        ("no ground", "needs a ground rail"),
        ("levels", r"pin_classes\[0\]: low_max_v has to be below high_min_v"),
        ("no output", r"leads\[2\]: lead ECHO is digital output; it needs “output”"),
        ("role", r"leads\[1\].role: input should be 'supply'"),
        ("name", "the name “../../etc” will not do"),
    ],
)
def test_a_file_that_will_not_do_says_where_and_why(change: str, words: str) -> None:
    form, document = broken(change)
    with pytest.raises(ValueError, match=words):
        form.of(document)


@given(st.text(max_size=200))
def test_any_text_is_a_family_or_a_clear_refusal(text: str) -> None:
    with pytest.raises(ValueError):  # noqa: PT011
        DEVICE_FILES.read(text)


def test_a_huge_file_is_refused_before_it_is_read() -> None:
    with pytest.raises(ValueError, match="512 kB"):
        BOARD_FILES.read("[" * 600_000)


@given(st.sampled_from(sorted({*map(chr, range(32)), "\x7f"} - set("\t\n\r"))), st.booleans())
def test_control_characters_are_refused_with_their_line(sign: str, escaped: bool) -> None:
    inside = json.dumps(sign)[1:-1] if escaped and sign != "\x7f" else sign
    with pytest.raises(ValueError, match=rf"U\+{ord(sign):04X} on line 2"):
        DEVICE_FILES.read(f'{{\n"what": "a{inside}b"}}')


def test_a_backslash_before_letters_is_no_control_character() -> None:
    document = DEVICE_FILES.document(shipped_devices()["buzzer"])
    said = r"\u001b is how a control character is written"
    assert DEVICE_FILES.of({**document, "what": said}).what == said


@pytest.mark.parametrize("value", [float("nan"), float("inf"), 1e300])
def test_a_figure_is_a_number(value: float) -> None:
    with pytest.raises(ValueError, match="cannot be"):
        Figure(value, "stated")
