"""A database and an archive made by the version before open, and say what they said.

`made_before/` was written by that version itself: the demo, a recording brought in, marks, one of
them put away, a calibration, two thresholds, notes and a drive; and what its API said of it then.
"""

from __future__ import annotations

import gzip
import json
import uuid
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, create_engine, make_url, select, text
from sqlalchemy.orm import Session

from tickstone.api.app import make_app
from tickstone.core.status import Status
from tickstone.store.database import connect, migrate
from tickstone.store.models import Mark, Recording, Rule, Take

MADE = Path(__file__).parent / "made_before"
TOLD = json.loads((MADE / "version_0006.json").read_text())
HAD_A_CHAIN = {"Front ranger", "Left ranger", "Side ranger"}


@pytest.fixture(scope="module")
def opened(cluster_url: str) -> Iterator[Engine]:
    """The database of the version before, brought up to date."""
    name = f"before_{uuid.uuid4().hex[:10]}"
    admin = create_engine(cluster_url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    address = make_url(cluster_url).set(database=name).render_as_string(hide_password=False)
    filling = create_engine(address, isolation_level="AUTOCOMMIT")
    with filling.connect() as connection:
        dump = gzip.decompress((MADE / "version_0006.sql.gz").read_bytes()).decode()
        with connection.connection.cursor() as cursor:  # many statements in one go
            cursor.execute(dump)
    filling.dispose()
    engine = connect(address)
    migrate(engine)
    yield engine
    engine.dispose()
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
    admin.dispose()


@pytest.fixture
def client(opened: Engine, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    """A server on it, on the day it was made: stones grow old."""
    then = datetime.fromisoformat(TOLD["now"])
    monkeypatch.setattr("tickstone.work.standing.utc_now", lambda: then)
    with TestClient(make_app(opened, tmp_path), base_url="http://localhost") as client:
        yield client


def stones_of(client: TestClient, rig_id: int) -> dict[str, list[list[str]]]:
    home = client.get(f"/api/rigs/{rig_id}").json()
    return {
        sensor["name"]: [
            [stone["stage"], stone["state"], stone["short"], stone["reason"]]
            for stone in sensor["stones"]
        ]
        for sensor in home["sensors"]
    }


def kept(stones: dict[str, list[list[str]]]) -> dict[str, list[list[str]]]:
    """Those that a kind of sensor had then; some have more by now."""
    return {name: row if name in HAD_A_CHAIN else [row[0], row[4]] for name, row in stones.items()}


def test_every_stone_stands_as_it_stood(client: TestClient) -> None:
    rigs = {rig["name"]: rig["id"] for rig in client.get("/api/rigs").json()}
    assert rigs.keys() == TOLD["rigs"].keys()
    for name, rig_id in rigs.items():
        assert kept(stones_of(client, rig_id)) == kept(TOLD["rigs"][name])


@pytest.mark.parametrize("recording", TOLD["readings"])
def test_every_reading_is_what_it_was_to_the_last_digit_shown(
    client: TestClient, recording: str
) -> None:
    told = TOLD["readings"][recording]
    asked = {"at_s": told["at_s"]}
    seen = client.post(f"/api/recordings/{recording}/look", json=asked).json()["outputs"]
    working = seen[-1]["working"]
    shown = [[s["stage"], s["shown"], s["shown_unit"], s["spread_shown"]] for s in working]
    assert shown == told["shown"]
    steps = seen[0]["working"]
    assert steps[-1]["value"] == pytest.approx(told["value"], rel=1e-13)
    assert {name: seen[0]["counts"][name] for name in told["counts"]} == told["counts"]
    states = [
        [round(from_s, 6), state]
        for one in seen[1:]
        for from_s, state in zip(one["states"]["from_s"], one["states"]["state"], strict=True)
    ]
    assert states == told["decisions"]


def test_every_row_came_along(opened: Engine) -> None:
    with Session(opened) as session:
        marks = session.scalars(select(Mark).order_by(Mark.id)).all()
        rules = session.scalars(select(Rule).order_by(Rule.id)).all()
        recordings = session.scalars(select(Recording)).all()
        assert [mark.name for mark in marks if mark.deleted_at] == ["gone"]
        assert {mark.name for mark in marks if not mark.calibration} == {"bump", "volts"}
        assert len([mark for mark in marks if mark.calibration]) == 4 + 4
        assert [rule.parameters["stop_m"] for rule in rules] == [0.15, 0.4, 0.35]
        assert rules[2].basis["evidence"]["speed_m_per_s"] == 0.6
        assert all([one.role for one in row.inputs] == ["echo"] for row in recordings)
        assert session.scalars(select(Take)).all()


def test_an_archive_of_the_version_before_comes_in(client: TestClient) -> None:
    data = (MADE / "version_0006.zip").read_bytes()
    answer = client.post("/api/archives", content=data)
    assert answer.status_code == 201, answer.text
    rig_id = answer.json()["rig_id"]
    assert kept(stones_of(client, rig_id)) == kept(stones_of(client, 1))
    assert client.delete(f"/api/rigs/{rig_id}").status_code == 204


def test_no_status_lost_its_number() -> None:
    """They are kept as numbers in every recording there is."""
    assert [status.code for status in list(Status)[:8]] == [
        *("ok", "no_echo", "timed_out", "too_near", "too_far", "missing", "bad_text"),
        "over_range",
    ]
