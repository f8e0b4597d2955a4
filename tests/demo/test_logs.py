"""The example logs are what the generator makes, and hold what the story needs."""

from __future__ import annotations

import pytest

from tickstone.demo.logs import EXAMPLE_LOGS, MAKERS, log_path
from tickstone.formats.takes import read_take_file


@pytest.mark.parametrize("name", list(MAKERS))
def test_the_shipped_log_is_what_the_generator_makes(name: str) -> None:
    assert log_path(name).read_text(encoding="utf-8") == MAKERS[name]()


@pytest.mark.parametrize("name", list(MAKERS))
def test_its_columns_are_guessed_right(name: str) -> None:
    reading = read_take_file(log_path(name))
    assert reading.time_column in ("t", "time", "ms")
    guessed = [channel.quantity for channel in reading.header.channels]
    if "ranger" in name:
        assert guessed[0] == "echo time"
    elif "strip" in name:
        assert guessed == ["converter counts"] * 5
    elif "deck" in name:
        assert guessed == ["acceleration"] * 3 + ["rotation rate"] * 3
    elif "yard" in name:
        assert guessed[:2] == ["echo time", "converter counts"]
    elif "step" in name or "loop" in name:
        assert reading.header.channels[-1].name in ("measured", "output")
    elif "shed" in name:
        assert guessed == ["temperature"]
    elif "ends" in name:
        assert guessed == ["acceleration"] * 3
    else:
        assert guessed[:2] == ["pulse count", "pulse gap"]


def test_examples_are_among_the_logs() -> None:
    assert set(EXAMPLE_LOGS) <= set(MAKERS)
