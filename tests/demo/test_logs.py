"""The example logs are what the generator makes, and hold what the story needs."""

from __future__ import annotations

import pytest

from tickstone.demo.logs import EXAMPLE_LOGS, MAKERS, log_path
from tickstone.formats.log_shape import preview_log


@pytest.mark.parametrize("name", list(MAKERS))
def test_the_shipped_log_is_what_the_generator_makes(name: str) -> None:
    assert log_path(name).read_text(encoding="utf-8") == MAKERS[name]()


@pytest.mark.parametrize("name", list(MAKERS))
def test_its_shape_is_guessed_right(name: str) -> None:
    shape = preview_log(log_path(name).read_bytes()).shape
    assert shape.columns[shape.time_column].startswith("t")
    assert shape.columns[shape.echo_column].startswith("echo")


def test_examples_are_among_the_logs() -> None:
    assert set(EXAMPLE_LOGS) <= set(MAKERS)
