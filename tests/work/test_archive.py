"""A whole rig to a zip and back: exactly, and never from a zip that means harm."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session
from tests.conftest import copied_engine
from tests.work.test_takes import marked

from tickstone.api.archive_check import check_archive
from tickstone.core.stones.row import stones_for
from tickstone.formats.safe_zip import UnsafeZipError, open_zip
from tickstone.store.models import BoardRuns, OwnFamily, Program, Rig, Sensor, SignOff, Take
from tickstone.store.takes import TakeWriter
from tickstone.work.archive.reading import read_archive
from tickstone.work.archive.versions import UnreadableArchiveError
from tickstone.work.archive.writing import write_archive
from tickstone.work.cache import Cache
from tickstone.work.catalogue import catalogue_of
from tickstone.work.deciding.keeping import RULES, in_use_of, keep
from tickstone.work.programs import Wanted, keep_written, write_program
from tickstone.work.running import board_lags, board_program, note_running
from tickstone.work.standing import facts_of
from tickstone.work.wiring import grounds_of, look_at_wiring, wiring_of


@pytest.fixture
def session(planted_engine: Engine):
    with Session(planted_engine) as session:
        yield session


def bramble(session: Session) -> Rig:
    """Bramble with a take, marks, bad lines, and a line that is remembered."""
    rig = session.scalars(select(Rig).where(Rig.name == "Bramble")).one()
    take = marked(session)
    writer = TakeWriter(session, take, 1_000, 0)
    writer.put_aside([(7, "a \ufffd line", "why"), (9, "=1+1", "because")])
    writer.flush()
    rig.line = {"path": "/dev/x", "speed": 9600, "sensors": {"front": rig.sensors[0].id}}
    for kind in ("listen", "rules"):
        found = write_program(session, rig, catalogue_of(session), Wanted(kind))
        keep_written(session, rig, found)
        identity = found.program.identity
    note_running(session, rig.id, board_program(session, rig, "rules", identity), False)
    session.commit()
    return rig


@pytest.fixture(scope="module")
def archived(
    cluster_url: str, planted_template: str, tmp_path_factory: pytest.TempPathFactory
) -> Path:
    """Bramble's archive, written once for all that only read it."""
    with copied_engine(cluster_url, planted_template) as engine, Session(engine) as session:
        return written(session, bramble(session), tmp_path_factory.mktemp("archived"))


def written(session: Session, rig: Rig, folder: Path) -> Path:
    path = folder / "rig.zip"
    with path.open("wb") as file:
        write_archive(session, rig, file)
    return path


def told(path: Path) -> dict[str, Any]:
    """What an archive says, with row numbers replaced by the order in which rows come."""
    with zipfile.ZipFile(path) as archive:
        document = json.loads(archive.read("rig.json"))
        files = {n: archive.read(n) for n in archive.namelist() if n != "rig.json"}
    numbers: dict[str, dict[int, int]] = {}
    for table in (
        "sensors",
        "takes",
        "recordings",
        "marks",
        "calibrations",
        "decisions",
        "rules",
    ):
        numbers[table] = {row["id"]: n for n, row in enumerate(document[table])}
    text = json.dumps(document)

    def plain(value: Any, key: str = "") -> Any:
        by_sensor = key in ("sensors", "wiring", "sums") and isinstance(value, dict)
        if by_sensor and all(one.isdigit() for one in value):
            return {str(numbers["sensors"][int(k)]): plain(v) for k, v in value.items()}
        is_by_kind = isinstance(value, dict) and all(isinstance(v, int) for v in value.values())
        if key == "calibrations" and is_by_kind:
            return {kind: numbers["calibrations"][one] for kind, one in value.items()}
        if isinstance(value, dict):
            return {
                k: plain(v, k) for k, v in value.items() if k not in ("id", "rig_id", "fingerprint")
            }
        if key == "sensors" and isinstance(value, int):
            return numbers["sensors"][value]
        if isinstance(value, list):
            return [plain(one, key) for one in value]
        table = {"sensor_id": "sensors", "take_id": "takes", "recording_id": "recordings",
                 "calibration_id": "calibrations", "front": "sensors",
                 "decision_id": "decisions"}.get(key)  # fmt: skip
        if table and isinstance(value, int):
            return numbers[table][value]
        if key == "sensor" and isinstance(value, str) and value:
            return numbers["sensors"][int(value)]
        if key == "calibrations" and isinstance(value, str):
            return [numbers["calibrations"][int(one)] for one in value.split()]
        if key == "key" and isinstance(value, str):
            parts = value.split(":")
            return ":".join(
                str(numbers["sensors"].get(int(p), p)) if p.isdigit() else p for p in parts
            )
        return value

    assert text
    document = plain(document)
    document["rig"]["name"] = document["rig"]["name"].removesuffix(" (2)")
    return {"document": document, "files": files}


def test_a_rig_comes_back_exactly(session: Session, tmp_path: Path) -> None:
    rig = bramble(session)
    path = written(session, rig, tmp_path)
    fresh = read_archive(session, path, check_archive)
    session.commit()
    assert fresh.id != rig.id
    assert fresh.name == "Bramble (2)"
    (tmp_path / "again").mkdir()
    again = written(session, fresh, tmp_path / "again")
    one, two = told(path), told(again)
    assert one["document"] == two["document"]
    assert one["files"].keys() == two["files"].keys()
    for name, data in one["files"].items():
        if name.endswith(".json"):
            assert data == two["files"][name]
        else:
            from pyarrow import parquet

            left = parquet.read_table(io.BytesIO(data))
            assert left.equals(parquet.read_table(io.BytesIO(two["files"][name])))
    # And it means the same: every stone of every sensor stands as before.
    assert stones(session, rig) == stones(session, fresh)
    assert len(session.scalars(select(Take).where(Take.rig_id == fresh.id)).all()) == len(
        session.scalars(select(Take).where(Take.rig_id == rig.id, Take.deleted_at.is_(None))).all()
    )


def test_a_board_is_known_again_where_its_rig_was_taken_to(
    session: Session, tmp_path: Path
) -> None:
    rig = bramble(session)
    fresh = read_archive(session, written(session, rig, tmp_path), check_archive)
    session.commit()
    ran = session.get_one(BoardRuns, fresh.id)
    for one in session.scalars(select(Program).where(Program.rig_id == fresh.id)):
        assert board_program(session, fresh, one.kind, one.identity).standing == "now"
        assert {column["sensor_id"] for column in one.columns} <= {
            None,
            *(sensor.id for sensor in fresh.sensors),
        }
    assert board_lags(session, fresh) == {}
    # What is changed there makes it older there, by the sensors there; here it is as it was.
    document = in_use_of(session, fresh)[RULES].document
    keep(session, fresh, RULES, "Bolder", {**document, "name": "bolder"}, [], "")
    session.commit()
    assert board_program(session, fresh, ran.kind, ran.identity).standing == "older"
    assert board_program(session, rig, ran.kind, ran.identity).standing == "now"


def test_a_sign_off_holds_where_a_lead_goes_to_another_device(
    session: Session, tmp_path: Path
) -> None:
    rig = bramble(session)
    first, second = rig.sensors[0], rig.sensors[1]
    lead = next(one for one in second.wires)
    lead.to = f"{first.id}.{first.wires[0].lead}"
    session.flush()
    session.expire_all()
    grounds = grounds_of(wiring_of(session, rig, catalogue_of(session)), str(second.id))
    session.add(
        SignOff(sensor_id=second.id, stage="wired", is_right=True, note="", grounds=grounds)
    )
    session.commit()
    fresh = read_archive(session, written(session, rig, tmp_path), check_archive)
    sensor = next(one for one in fresh.sensors if one.name == second.name)
    newest = session.scalars(
        select(SignOff).where(SignOff.sensor_id == sensor.id).order_by(SignOff.id.desc())
    ).first()
    assert newest.grounds == grounds_of(
        wiring_of(session, fresh, catalogue_of(session)), str(sensor.id)
    )
    assert newest.grounds != grounds


def stones(session: Session, rig: Rig) -> list[Any]:
    catalogue, cache = catalogue_of(session), Cache()
    look = look_at_wiring(session, rig, catalogue)
    sensors = session.scalars(
        select(Sensor)
        .where(Sensor.rig_id == rig.id, Sensor.deleted_at.is_(None))
        .order_by(Sensor.position, Sensor.id)
    )
    return [
        (
            sensor.name,
            [
                (s.stage, s.state)
                for s in stones_for(facts_of(session, cache, sensor, catalogue, look))
            ],
        )
        for sensor in sensors
    ]


def changed(path: Path, folder: Path, change: Any) -> Path:
    """The archive with rig.json changed."""
    out = folder / "changed.zip"
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            data = old.read(name)
            if name == "rig.json":
                document = json.loads(data)
                result = change(document)
                data = json.dumps(document if result is None else result).encode()
            new.writestr(name, data)
    return out


def unlit(document: dict[str, Any]) -> dict[str, Any]:
    """The first cell of the study that was taken without lamps."""
    cells = document["studies"][0]["cells"]
    return next(one for one in cells if one["key"].endswith("off"))


SPOILT = {
    "a list": lambda d: [],
    "another version": lambda d: d.update(tickstone_rig=99),
    "no sensors": lambda d: d.__delitem__("sensors"),
    "a wire to nowhere": lambda d: d["wires"][0].update(sensor_id=10**9),
    "a family nobody knows": lambda d: d["sensors"][0].update(family="nothing"),
    "a board nobody knows": lambda d: d["rig"].update(board="nothing"),
    "text for a number": lambda d: d["sensors"][0].update(position="first"),
    "a zero byte": lambda d: d["rig"].update(name="a\0b"),
    "nothing for a name": lambda d: d["rig"].update(name=None),
    "a date that is none": lambda d: d["takes"][0].update(recorded_at="yesterday"),
    "a take too many": lambda d: d["takes"].append(d["takes"][0]),
    "other channels": lambda d: d["takes"][0].update(channels=[]),
    "a study nobody knows": lambda d: d["studies"][0].update(kind="nothing"),
    "a plan that is none": lambda d: d["studies"][0].update(plan={"levels": [0.003]}),
    "heaps of text": lambda d: d["studies"][0]["cells"][0].update(heaps=["a"]),
    "a cell never taken": lambda d: d["studies"][0]["cells"][0].update(taken_at="noon"),
    "facts that are none": lambda d: unlit(d).update(facts={"full_scale": "high"}),
    "fewer facts than lanes": lambda d: unlit(d).update(facts={"full_scale": [1]}),
    "a program of no identity": lambda d: d["programs"][0].update(identity="front door"),
    "a program that rests on nothing": lambda d: d["programs"][0].update(basis=[]),
    "a program worked out from nothing": lambda d: next(
        iter(d["programs"][1]["basis"]["sums"].values())
    ).pop("decided"),
    "a board that runs a number": lambda d: d["board_runs"][0].update(identity=7),
    "a table of nothing": lambda d: d["rules"].append(
        {
            **d["rules"][-1],
            "id": 10**6,
            "sensor_id": d["studies"][0]["sensor_id"],
            "kind": "line-table",
            "parameters": {"table": ""},
        }
    ),
}


@pytest.mark.parametrize("name", SPOILT)
def test_a_spoilt_archive_is_refused_and_leaves_nothing(
    session: Session, archived: Path, tmp_path: Path, name: str
) -> None:
    path = changed(archived, tmp_path, SPOILT[name])
    rigs = len(session.scalars(select(Rig)).all())
    with pytest.raises(UnreadableArchiveError) as refusal:
        read_archive(session, path, check_archive)
    assert len(str(refusal.value)) > 10
    session.rollback()
    assert len(session.scalars(select(Rig)).all()) == rigs


def test_a_family_that_differs_is_not_overwritten(
    session: Session, archived: Path, tmp_path: Path
) -> None:
    document = {"kind": "device", "name": "mine", "document": {"a": 1}}

    def add(d: dict[str, Any]) -> None:
        d["families"] = [document]

    path = changed(archived, tmp_path, add)
    session.add(OwnFamily(kind="device", name="mine", document={"a": 2}))
    session.flush()
    with pytest.raises(UnreadableArchiveError, match="differs"):
        read_archive(session, path, check_archive)


def zipped(folder: Path, entries: dict[str, bytes]) -> Path:
    path = folder / "x.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in entries.items():
            archive.writestr(name, data)
    return path


@pytest.mark.parametrize(
    "name", ["../rig.json", "/etc/passwd", "takes/../../x", "C:\\x", ".hidden", "a\nb", "takes//x"]
)
def test_names_that_lead_elsewhere_are_refused(tmp_path: Path, name: str) -> None:
    with pytest.raises(UnsafeZipError, match="name"):
        open_zip(zipped(tmp_path, {"rig.json": b"{}", name: b""}))


def test_bombs_are_refused_unopened(tmp_path: Path) -> None:
    with pytest.raises(UnsafeZipError, match="unpacks from"):
        open_zip(zipped(tmp_path, {"rig.json": bytes(300 * 1024 * 1024)}))
    with pytest.raises(UnsafeZipError, match="files"):
        open_zip(zipped(tmp_path, {f"a{n}": b"" for n in range(2_001)}))


def test_what_is_no_zip_is_told(tmp_path: Path) -> None:
    path = tmp_path / "x.zip"
    for data in (b"", b"PK\x03\x04", np.random.default_rng(1).bytes(5_000)):
        path.write_bytes(data)
        with pytest.raises(UnsafeZipError, match="no zip"):
            open_zip(path)
