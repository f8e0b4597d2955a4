"""``convert accel|tilt``, ``calibrate six-face|rest-bias``, ``filter``."""

from __future__ import annotations

import json
import math
from pathlib import Path

import numpy as np
import pytest
from tests.core.inertial_units import G, six_spans, unit
from typer.testing import CliRunner

from tickstone.cli.main import app
from tickstone.demo.logs import DECK_FACES, DECK_RAMP, DECK_REST, METER_ENDS, log_path

runner = CliRunner()


def said(*words: str, code: int = 0) -> str:
    result = runner.invoke(app, list(words))
    assert result.exit_code == code, result.output
    return result.output


def told(*words: str) -> dict:
    return json.loads(said(*words, "--json"))


def test_tilt_of_one_reading() -> None:
    found = told("convert", "tilt", "--ax", "0.1", "--ay", "0.2", "--az", "0.97")
    assert found["status"] == "ok"
    results = found["results"]
    assert results["roll"]["value"] == pytest.approx(math.atan2(0.2, 0.97))
    assert results["pitch"]["value"] == pytest.approx(-math.atan2(0.1, math.hypot(0.2, 0.97)))
    assert results["inclination"]["value"] == pytest.approx(math.atan2(math.hypot(0.1, 0.2), 0.97))
    assert all(one["unit"] == "rad" and 0.0 < one["u"] < 0.02 for one in results.values())
    assert told("convert", "tilt", "--ax", "0", "--ay", "0", "--az", "1.4")["status"] == "moving"
    nothing = told("convert", "tilt", "--ax", "0", "--ay", "0", "--az", "0")
    assert nothing["results"]["roll"] == {"value": None, "unit": "rad", "u": None}
    assert "give --ax, --ay and --az" in said("convert", "tilt", "--ax", "0", code=2)


def test_an_analogue_part_by_its_two_extremes(tmp_path: Path) -> None:
    own = ("--set", "reference_v=3.3")
    made = told("calibrate", "two-extremes", str(log_path(METER_ENDS)), *own)
    assert made["statistics"]["per_g_codes"] == pytest.approx(102.4, abs=0.5)
    cal = tmp_path / "cal.json"
    cal.write_text(json.dumps(made), encoding="utf-8")
    found = told("convert", "accel", "--counts", "515,509,620", "--cal", str(cal), *own)
    lanes = found["results"]["force"]["lanes"]
    assert found["kind"] == "analogue3"
    assert lanes["z"]["value"] == pytest.approx(1.0, abs=0.02)
    assert abs(lanes["x"]["value"]) < 0.02
    plain = told("convert", "accel", "--counts", "515,509,620", *own)
    assert plain["results"]["force"]["u"] > 3.0 * found["results"]["force"]["u"]
    assert "three counts" in said("convert", "accel", "--counts", "1,2", code=2)
    broken = tmp_path / "broken.json"
    broken.write_text("[]", encoding="utf-8")
    assert "is no calibration" in said(
        "convert", "accel", "--counts", "1,2,3", "--cal", str(broken), code=2
    )


def test_six_faces_from_a_log_find_columns_and_faces(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    offset, scale = unit(rng)
    rows, at = ["t_ms,ax,ay,az,gx,gy,gz"], 0
    for span in six_spans(offset, scale, rng):
        for x, y, z in np.round(span.signal.values.T / G * 8192).astype(int).tolist():
            rows.append(f"{at},{x},{y},{z},{rng.integers(-50, 50)},3,-7")
            at += 20
        for _ in range(30):
            x, y, z = rng.integers(-9000, 9000, 3).tolist()
            rows.append(f"{at},{x},{y},{z},4000,-9000,500")
            at += 20
    log = tmp_path / "faces.csv"
    log.write_text("\n".join(rows) + "\n", encoding="utf-8")
    made = told("calibrate", "six-face", str(log), "--set", "lsb_per_g=8192")
    np.testing.assert_allclose(made["parameters"]["offset_g"], offset / G, atol=0.002)
    np.testing.assert_allclose(made["parameters"]["matrix"], np.linalg.inv(scale), atol=0.003)
    assert 0.0 < made["residual_mg"] < 2.0
    assert "8192 codes for 1 g would fit" in said("calibrate", "six-face", str(log), code=2)
    cal = tmp_path / "cal.json"
    cal.write_text(json.dumps(made), encoding="utf-8")
    force = told(
        "convert", str(log), "--kind", "six_axis", "--set", "lsb_per_g=8192",
        "--calibration", str(cal), "--output", "size",
    )  # fmt: skip
    assert force["outputs"]["size"]["unit"] == "g"
    found = told("convert", "accel", "--counts", "0,0,8192", "--cal", str(cal), "--set",
                 "lsb_per_g=8192")  # fmt: skip
    assert found["kind"] == "six_axis"


def test_rest_bias_tells_how_long_is_worth_averaging() -> None:
    made = told("calibrate", "rest-bias", str(log_path(DECK_REST)))
    np.testing.assert_allclose(np.degrees(made["parameters"]["bias"]), [1.9, -0.7, 0.4], atol=0.01)
    assert made["best_s"] > 1.0
    assert len(made["allan"]) > 20
    assert len(made["allan"][0]) == 4
    assert made["left_dps"] < 0.01
    # Its flicker was not seen in a minute and a half: that is no flicker of nothing.
    assert "instability_dps" not in made["statistics"]
    assert 0.0 < made["statistics"]["instability_below_dps"] < 0.01


def test_a_whole_ramp_to_tilt_and_attitude(tmp_path: Path) -> None:
    out = tmp_path / "roll.csv"
    found = told(
        "convert", str(log_path(DECK_RAMP)), "--kind", "six_axis", "--output", "roll",
        "--output", "attitude", "--out", str(out),
    )  # fmt: skip
    assert found["outputs"]["roll"]["unit"] == "rad"
    assert set(found["outputs"]["attitude"]["lanes"]) == {"roll", "pitch", "heading"}
    assert found["statuses"].get("moving", 0) > 0
    header = out.read_text("utf-8").splitlines()[0]
    assert "roll" in header
    faces = said("calibrate", "six-face", str(log_path(DECK_FACES)))
    assert "left over" in faces


def test_filters_as_a_table() -> None:
    found = told(
        "filter", str(log_path(DECK_RAMP)), "--column", "ay", "--with", "kalman:q=100,r=4000",
        "--with", "median:n=5", "--hindsight", "mean:n=9", "--speed", "0.7",
    )  # fmt: skip
    none, kalman, median, mean = found["filters"]
    assert (none["filter"], none["delay_s"]) == ("none", 0.0)
    assert kalman["noise"] < none["noise"]
    assert median["spike"] == 0.0
    assert median["costs_m"] == pytest.approx(0.7 * median["delay_s"])
    assert (median["in_rig"], mean["in_rig"]) == (True, False)
    assert set(found["suggested"]) >= {"r", "q_fast", "q_likely", "exponential"}
    assert found["innovations"]["kalman:q=100,r=4000"]["says"]
    text = said("filter", str(log_path(DECK_RAMP)), "--column", "ay", "--with", "median:n=5")
    assert "median:n=5" in text
    assert "there is no column" in said(
        "filter", str(log_path(DECK_RAMP)), "--column", "zz", "--with", "median", code=2
    )
    assert "there is no filter" in said(
        "filter", str(log_path(DECK_RAMP)), "--column", "ay", "--with", "magic", code=2
    )


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (("convert", "accel", "--counts", "1,x,3"), "has to be three counts"),
        (("convert", "accel", "--counts", "1,2,1e10"), "has to be three counts"),
        (("convert", "accel", "--counts", "1,2,3", "--kind", "magic"), "there is no accelerometer"),
        (("convert", "accel", "--counts", "1,2,3", "--set", "bits=99"), "bits"),
        (("convert", "accel", "--counts", "1,2,3", "--cal", "/nowhere.json"), "/nowhere.json"),
        (("convert", "tilt", "--ax", "nan", "--ay", "0", "--az", "1"), "ax"),
        (("filter", "/nowhere.csv", "--column", "ay"), "is no file"),
        (("filter", "LOG"), "no --column is given; there are ax"),
        (("filter", "LOG", "--column", "99"), "there is no column"),
        (("filter", "LOG", "--column", "ay", "--with", " "), "--with: is empty"),
        (("filter", "LOG", "--column", "ay", "--hindsight", " "), "--hindsight: is empty"),
        (("filter", "LOG", "--column", "ay", *("--with", "slew") * 7), "6 filters at most"),
        (("filter", "LOG", "--column", "ay", "--with", "kalman:q=-1"), "q"),
        (("filter", "LOG", "--column", "ay", "--with", "kalman:z=1"), "one of q=…, r=…"),
        (("calibrate", "six-face", "LOG"), "at least, six are better"),
        (("calibrate", "turn-scale", "LOG"), "mark"),
    ],
    ids=lambda one: " ".join(one)[:60] if isinstance(one, tuple) else "",
)
def test_what_cannot_be_is_said_with_what_would_do(words: tuple[str, ...], says: str) -> None:
    log = str(log_path(DECK_RAMP))
    assert says in said(*(log if one == "LOG" else one for one in words), code=2)


def test_a_column_is_taken_by_its_number_and_one_alone_by_itself(tmp_path: Path) -> None:
    log = str(log_path(DECK_RAMP))
    assert told("filter", log, "--column", "2") == told("filter", log, "--column", "ay")
    lone = tmp_path / "lone.csv"
    rng = np.random.default_rng(1)
    lone.write_text("x\n" + "\n".join(f"{one:.4f}" for one in rng.normal(0, 1, 400)), "utf-8")
    assert "how many rows there are a second" in said("filter", str(lone), code=2)
    found = told("filter", str(lone), "--rate-hz", "50", "--with", "mean:n=5")
    assert found["known"]["gap_s"] == pytest.approx(0.02)
    assert found["filters"][1]["delay_s"] == pytest.approx(0.04, rel=0.01)
    text = said("filter", str(lone), "--rate-hz", "50", "--hindsight", "mean:n=5")
    assert "(not in the rig)" in text


@pytest.mark.parametrize("counts", ["300,340,405", "300;340;405"])
def test_both_kinds_of_accelerometer_tell_g_with_their_working(counts: str) -> None:
    analogue = told("convert", "accel", "--counts", counts)
    assert analogue["kind"] == "analogue3"
    per_g, zero = 0.33 / (5.0 / 1024), 1.65 / (5.0 / 1024)
    lanes = analogue["results"]["force"]["lanes"]
    for axis, count in zip("xyz", (300, 340, 405), strict=True):
        assert lanes[axis]["value"] == pytest.approx((count + 0.5 - zero) / per_g, rel=1e-9)
    digital = told("convert", "accel", "--counts", counts, "--kind", "six_axis", "--set",
                   "lsb_per_g=400")  # fmt: skip
    assert digital["results"]["force"]["lanes"]["z"]["value"] == pytest.approx(405 / 400)
    text = said("convert", "accel", "--counts", counts)
    assert "inclination" in text
    assert "k = 2" in text
    # All three are mixed where it is mounted: what one of them may be off by is in each.
    clipped = told("convert", "accel", "--counts", "0,512,600")
    assert {one["status"] for one in clipped["results"]["force"]["lanes"].values()} == {"clipped"}


def test_constants_of_one_kind_are_none_of_another(tmp_path: Path) -> None:
    rest = tmp_path / "rest.json"
    rest.write_text(said("calibrate", "rest-bias", str(log_path(DECK_REST)), "--json"), "utf-8")
    found = told("convert", "accel", "--counts", "0,0,16384", "--cal", str(rest))
    assert found["kind"] == "six_axis"
    wrong = said(
        "convert", "accel", "--counts", "1,2,3", "--kind", "analogue3", "--cal", str(rest), code=2
    )
    assert "no calibration of analogue3; known: two-extremes, six-face, level-zero" in wrong
    twice = said(
        "convert", "accel", "--counts", "1,2,3", "--cal", str(rest), "--cal", str(rest), code=2
    )
    assert "given twice" in twice
    document = json.loads(rest.read_text("utf-8"))
    for broken in ({**document, "covariance": [[1.0]]}, {**document, "parameters": {"bias": [1]}}):
        rest.write_text(json.dumps(broken), "utf-8")
        assert str(rest) in said(
            "convert", "accel", "--counts", "1,2,3", "--cal", str(rest), code=2
        )
