"""``tickstone replay``: rules over a log."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from tickstone.cli.main import app

RULES: dict[str, Any] = {
    "name": "Cart",
    "inputs": [{"name": "front", "unit": "m", "columns": ["front_cm"]}],
    "start": "drive",
    "states": [{"name": "drive", "moves": True}, {"name": "stopped"}],
    "transitions": [
        {"leaves": "drive", "to": "stopped", "when": "front < 0.42 m"},
        {"leaves": "stopped", "to": "drive", "when": "front > 0.5 m"},
    ],
    "when_blind": {"how": "hold", "hold_s": 0.5, "go_to": "stopped"},
}


@pytest.fixture
def log(tmp_path: Path) -> Path:
    """0.9 m, then 0.3 m from 2.0 to 4.0 s, 20 a second."""
    rows = ["t_ms,front_cm"]
    rows += [f"{50 * n},{30 if 40 <= n < 80 else 90}" for n in range(121)]
    path = tmp_path / "run.csv"
    path.write_text("\n".join(rows), encoding="utf-8")
    return path


def run(log: Path, rules: Any, *more: str) -> Any:
    path = log.parent / "rules.json"
    path.write_text(rules if isinstance(rules, str) else json.dumps(rules), encoding="utf-8")
    return CliRunner().invoke(app, ["replay", str(log), "--rules", str(path), *more])


def test_states_counts_dwell_chatter_and_confusion(log: Path) -> None:
    told = run(log, RULES, "--json", "--truth", "stopped=1.5:4", "--truth", "drive=4:6")
    assert told.exit_code == 0, told.output
    document = json.loads(told.stdout)
    assert document["states"] == ["drive", "stopped"]
    assert document["counts"] == {"drive": 2, "stopped": 1}
    assert document["dwell"]["stopped"]["total_s"] == pytest.approx(2.0)
    assert document["chatter"] == {"drive": 0, "stopped": 0}
    assert [one["why"] for one in document["visits"]] == [
        "it begins so", "front below 0.42 m", "front above 0.5 m",
    ]  # fmt: skip
    confused = document["confusion"]
    # 1.5 to 2.0 s: ten samples that should have been stopped.
    assert confused["samples"] == [[40, 0], [10, 40]]
    assert confused["of"]["stopped"]["recall"]["value"] == pytest.approx(0.8)
    assert confused["of"]["stopped"]["precision"]["value"] == 1.0
    assert confused["of"]["stopped"]["react"]["median_s"] == pytest.approx(0.5)
    assert confused["worst"][0] == {"from_s": 1.5, "to_s": 2.0, "true": "stopped", "told": "drive"}


def test_raw_ticks_go_through_the_chain_of_their_kind(log: Path) -> None:
    rows = ["t_us,front_us", *(f"{50_000 * n},{5_831 if n < 20 else 1_750}" for n in range(60))]
    log.write_text("\n".join(rows), encoding="utf-8")
    rules = {**RULES, "inputs": [{"name": "front", "kind": "echo", "columns": ["front_us"]}]}
    document = json.loads(run(log, rules, "--json").stdout)
    assert document["counts"] == {"drive": 1, "stopped": 1}


def test_without_truth_it_says_that_it_does_not_know(log: Path) -> None:
    told = run(log, RULES)
    assert told.exit_code == 0
    assert "how often it was wrong is not known" in told.stdout
    assert json.loads(run(log, RULES, "--json").stdout)["confusion"] is None


@pytest.mark.parametrize(
    ("rules", "says"),
    [
        ("{", "rules.json, line 1"),
        ("[1]", "rules.json: the rules: has to be an object"),
        ({**RULES, "inputs": [{"name": "front", "unit": "m", "columns": ["up"]}]},
         "no column “up”"),
        ({**RULES, "inputs": [{"name": "front", "unit": "s", "columns": ["front_cm"]}]},
         "“m” is no unit of it"),
        ({**RULES, "inputs": [{"name": "front", "kind": "sonar"}]}, "no kind of sensor “sonar”"),
        ({**RULES, "inputs": [{"name": "front", "kind": "echo", "output": "colour"}]},
         "no output “colour” of echo"),
        ({**RULES, "start": "nap"}, "rules.json: start: there is no state “nap”"),
    ],
)  # fmt: skip
def test_what_cannot_be_says_where(log: Path, rules: Any, says: str) -> None:
    told = run(log, rules)
    assert told.exit_code == 2
    assert says in told.output


@pytest.mark.parametrize(
    ("more", "says"),
    [
        (["--truth", "fly=1:2"], "no state of these rules"),
        (["--truth", "drive=2:1"], "--truth drive=2:1"),
    ],
)
def test_truths_that_cannot_be_are_refused(log: Path, more: list[str], says: str) -> None:
    told = run(log, RULES, *more)
    assert told.exit_code == 2
    assert says in told.output
