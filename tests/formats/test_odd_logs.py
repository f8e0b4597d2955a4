"""Logs with a word too many or too few: names, units and rows come through all the same."""

from __future__ import annotations

from pathlib import Path

import pytest

from tickstone.core.chains import CHAINS
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.header import ReadAs


def rows(pattern: str) -> str:
    return "".join(
        pattern.format(t=50 * n, us=5831 + n % 3, cm=f"{100.5 + n % 3}", n=25 + n % 3, b=n % 2)
        for n in range(30)
    )


# name: (text, [(channel, unit, likely)])
DISTANCE = [("dist", "cm", "distance")]
ECHO = [("front", "µs", "echo time")]
LOGS = {
    "rows end in a separator": ("t_ms,front_us\n" + rows("{t},{us},\n"), ECHO),
    "the header ends in a separator": ("t_ms,front_us,\n" + rows("{t},{us}\n"), ECHO),
    "names inside type words": ("uint32_t t_ms;float dist_cm\n" + rows("{t};{cm}\n"), DISTANCE),
    "types in brackets": ("t_ms (int),dist_cm (float)\n" + rows("{t},{cm}\n"), DISTANCE),
    "names in quotes": ('"t_ms","dist_cm"\n' + rows("{t},{cm}\n"), DISTANCE),
    "names after a comment sign": ("# t_ms,dist_cm\n" + rows("{t},{cm}\n"), DISTANCE),
    "names after two strokes": ("// t_ms\tdist_cm\n" + rows("{t}\t{cm}\n"), DISTANCE),
    "a unit in a cell of its own": (
        "time,range,unit\n" + rows("{t},{us},cm\n"), [("range", "cm", "distance")],
    ),
    "a unit after every value": (
        rows("at {t} ms distance: {us} cm\n"), [("distance", "cm", "distance")],
    ),
    "an echo in centimetres": (
        "t_ms,echo (cm)\n" + rows("{t},{us}\n"), [("echo", "cm", "distance")],
    ),
    "a battery in per cent": (
        "t_ms,battery [%]\n" + rows("{t},{n}\n"), [("battery", "%", "number")],
    ),
    "a duty in per cent": ("t_ms,duty_%\n" + rows("{t},{n}\n"), [("duty", "%", "number")]),
    "humidity in per cent": (
        "t_ms,humidity_%\n" + rows("{t},{n}\n"), [("humidity", "%", "humidity")],
    ),
    "minutes": ("t_s,wheel (min)\n" + rows("{t},{n}\n"), [("wheel", "min", "number")]),
}  # fmt: skip


def read(folder: Path, text: str, **read_as: float):
    path = folder / "log.csv"
    path.write_text(text)
    reading = read_take_file(path, ReadAs(**read_as))
    return reading, sum(len(block.time_us) for block in reading.blocks)


@pytest.mark.parametrize("name", LOGS)
def test_names_and_units_come_through(name: str, tmp_path: Path) -> None:
    text, channels = LOGS[name]
    reading, count = read(tmp_path, text)
    found = [(one.name, one.unit, one.quantity) for one in reading.header.channels]
    assert (found, count, reading.bad_rows) == (channels, 30, 0)


@pytest.mark.parametrize(
    "text", ["dist_cm\n" + rows("{cm}\n"), "hall,front_us\n" + rows("{b},{us}\n")]
)
def test_a_log_without_any_time_is_read_all_the_same(text: str, tmp_path: Path) -> None:
    reading, count = read(tmp_path, text, rate_hz=20.0)
    names = text.split("\n")[0].split(",")
    assert len(reading.header.channels) == len(names)
    assert (count, reading.bad_rows, reading.time_column) == (30, 0, "")


def test_what_is_in_another_unit_is_no_input_of_a_sensor() -> None:
    """Whatever a column is called: a form takes only the units that are its own."""
    for kind in CHAINS.values():
        for role in kind.roles:
            for form in role.forms:
                assert not kind.inputs_like(form.likely, "min")
                assert "%" in form.units or not kind.inputs_like(form.likely, "%")
