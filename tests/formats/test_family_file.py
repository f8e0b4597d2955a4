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
    """Numbers without a source are counts, addresses or stated ratios, and named here.

    A part inside has one source for all of its figures, and so have registers and commands.
    """
    allowed = (".bits", ".tolerance", ".at_supply_v", ".addresses")
    together = (".inside", ".registers", ".one_wire")
    bare = [one for one in numbers(document) if not one.startswith(together)]
    assert [one for one in bare if not one.endswith(allowed)] == []
    assert all(part["source"].strip() for part in document.get("inside", ()))
    for name in ("registers", "one_wire"):
        assert name not in document or document[name]["source"].strip()


GONE = object()
CLONES: dict[str, tuple[Any, dict[str, Any]]] = {
    "board": (BOARD_FILES, BOARD_FILES.document(shipped_boards()["five_volt_8bit"])),
    **{
        name: (DEVICE_FILES, DEVICE_FILES.document(shipped_devices()[family]))
        for name, family in (
            ("ranger", "ultrasonic_ranger"),
            ("lamp", "indicator_led"),
            ("unit", "six_axis"),
            ("tilt", "accelerometer_analogue_bare"),
        )
    },
}


def figure(value: float) -> dict[str, Any]:
    return {"value": value, "source": "a test"}


def changed(name: str, path: str, value: Any) -> tuple[Any, dict[str, Any]]:
    """A sound description with one thing in another way; GONE takes it out."""
    form, document = CLONES[name][0], copy.deepcopy(CLONES[name][1])
    at: Any = document
    *steps, last = [int(step) if step.isdigit() else step for step in path.split(".")]
    for step in steps:
        at = at[step]
    if value is GONE:
        del at[last]
    else:
        at[last] = value
    return form, document


@pytest.mark.parametrize("name", CLONES)
def test_the_descriptions_to_be_spoilt_are_sound(name: str) -> None:
    form, document = CLONES[name]
    assert form.document(form.of(document)) == document


@pytest.mark.parametrize(
    ("name", "path", "value", "words"),
    [
        ("board", "colour", "green", "colour: unexpected"),
        ("board", "label", " ", "label"),
        ("board", "pins", [], "a board has 1 to"),
        ("board", "pins.3.pin_class", "mystery", "pin D3 is of the class “mystery”"),
        ("board", "pins.3.name", "D2", "“D2” stands there twice"),
        ("board", "pins.3.port", "Q", "pin D3 is on port “Q”, which is not described"),
        ("board", "pins.0.caution", " ", "pin D0 has a use of the board’s own; say the caution"),
        ("board", "pins.3.abilities.0", "juggling", "abilities"),
        ("board", "rails.0.volts", {"value": 5.0, "source": " "}, "a figure needs its source"),
        ("board", "rails.0.volts", figure(0.0), "rail 5V needs volts above 0"),
        ("board", "rails.0.tolerance", 1.5, "rail 5V: the tolerance is a fraction"),
        ("board", "rails.3.volts", figure(1.0), "rail GND is ground; its volts are 0"),
        ("board", "rails.3.kind", "input", "rail GND needs volts above 0"),
        ("board", "rails.3", GONE, "needs a ground rail"),
        ("board", "rails", [{"name": "0V", "kind": "ground", "volts": figure(0.0)}], "3V3"),
        ("board", "pin_classes.0.low_max_v.value", 4.0, "low_max_v has to be below high_min_v"),
        ("board", "pin_classes.0.absolute_max_v.value", 2.0, "high_min_v has to be below"),
        ("board", "converter", GONE, "pin A0 is analogue, but the board has no converter"),
        ("board", "converter.bits", 3, "a converter of 3 bits cannot be"),
        ("board", "converter.references", [], "a converter needs a reference"),
        ("board", "converter.references.2.rail", "9V", "needs the rail “9V”; there is none"),
        ("board", "converter.references.0.rail", "5V", "is the supply or a rail on a wire"),
        ("board", "converter.references.1.name", "supply 5 V", "“supply 5 V” stands there twice"),
        ("ranger", "name", "../../etc", "the name “../../etc” will not do"),
        ("ranger", "leads", [{}] * 41, "leads"),
        ("ranger", "leads.1.name", "VCC", "“VCC” stands there twice"),
        ("ranger", "leads.1.role", "wizard", r"leads\[1\].role: input should be 'supply'"),
        ("ranger", "leads.1.labels", [], "lead TRIG needs the label printed beside it"),
        ("ranger", "leads.2.output", GONE, "lead ECHO is digital output; it needs “output”"),
        ("ranger", "leads.3.input", {"high_min_v": figure(2.0)}, "ground; it cannot have “input”"),
        ("ranger", "leads.2.role", "sda", "lead ECHO is I²C data; it cannot have “output”"),
        ("ranger", "supply", GONE, "a supply lead needs “supply”"),
        ("ranger", "supply.max_v", figure(1.0), "max_v has to be at least min_v"),
        ("ranger", "chain", "perpetuum", "there is no chain “perpetuum”"),
        ("ranger", "reading.blocking_s", figure(-1.0), "blocking_s cannot be below 0"),
        ("ranger", "reading.interleaved_s", figure(9.0), "interleaved_s has to be at most"),
        ("lamp", "leads.0.emitter.good_a", figure(9.0), "good_a has to be at most max_a"),
        ("lamp", "leads.0.emitter.forward_v", figure(0.0), "forward_v"),
        ("unit", "i2c", GONE, "leads SDA and SCL go with “i2c”"),
        ("unit", "i2c.addresses", [], "an I²C device needs at least one address"),
        ("unit", "i2c.addresses", [0x03], "address 0x03 is outside 0x08 to 0x77"),
        ("unit", "i2c.own_pull_up_ohm", figure(0.0), "own_pull_up_ohm"),
        ("tilt", "leads.2.analogue.high_v", figure(0.1), "high_v has to be above low_v"),
        ("tilt", "leads.2.analogue.at_supply_v", GONE, "a ratiometric output needs at_supply_v"),
    ],
)
def test_a_file_that_will_not_do_says_where_and_why(
    name: str, path: str, value: Any, words: str
) -> None:
    form, document = changed(name, path, value)
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
