"""Archives of every older version, made from today's by taking out what each did not know."""

from __future__ import annotations

import copy
from typing import Any

import pytest

from tickstone.work.archive.versions import VERSION, UnreadableArchiveError, up_to_date

Document = dict[str, Any]

TODAY: Document = {
    "tickstone_rig": VERSION,
    "rig": {"name": "Bramble", "circuit": {}},
    "sensors": [{"id": 3, "name": "Front ranger"}],
    "marks": [{"id": 1, "take_id": 2, "lane": None, "value": 0.5}],
    "calibrations": [{"id": 9, "sensor_id": 3, "heaps": []}],
    "in_use": [{"sensor_id": 3, "kind": "offset-scale", "calibration_id": 9, "undone_by": ""}],
    "studies": [],
    "decisions": [],
    "decisions_in_use": [],
    "programs": [],
    "board_runs": [],
    "rules": [{"id": 4}],
}


def older(version: int) -> Document:
    """Today's document as that version would have written it."""
    found = copy.deepcopy(TODAY)
    found["tickstone_rig"] = version
    if version < 7:
        del found["programs"], found["board_runs"]
    if version < 6:
        del found["decisions"], found["decisions_in_use"]
    if version < 5:
        del found["rig"]["circuit"]
    if version < 4:
        del found["studies"]
        for row in found["marks"]:
            del row["lane"]
        for row in found["calibrations"]:
            del row["heaps"]
    if version < 3:
        for row in found["in_use"]:
            del row["undone_by"]
    return found


@pytest.mark.parametrize("version", range(2, VERSION + 1))
def test_every_version_is_read_as_today_s(version: int) -> None:
    old = older(version)
    kept = copy.deepcopy(old)
    assert up_to_date(old) == TODAY
    assert old == kept


FIRST: Document = {
    "tickstone_rig": 1,
    "rig": {"name": "Bramble"},
    "sensors": [{"id": 3, "calibration_id": 9}, {"id": 5, "calibration_id": None}],
    "recordings": [{"id": 6, "sensor_id": 3, "take_id": 2, "channel": 1}],
    "take_marks": [
        {
            "take_id": 2, "channel": 0, "name": "bump", "start_s": 1.0, "end_s": 1.5, "unit": "",
            "true_value": None, "true_u": None, "deleted_at": None,
        }
    ],
    "marks": [
        {
            "recording_id": 6, "name": "30 cm", "start_s": 2.0, "end_s": 4.0, "true_m": 0.3,
            "true_u_m": 0.001, "deleted_at": None,
        }
    ],
    "calibrations": [
        {
            "id": 9, "sensor_id": 3, "recording_id": 6, "made_at": "2026-11-03T10:00:00+00:00",
            "grounds": {}, "errors": [], "offset_m": 0.004, "scale": 1.01, "var_offset": 1e-6,
            "cov": -2e-7, "var_scale": 4e-6, "chi_square": 1.5, "degrees": 2, "scale_fitted": True,
            "temperature_c": 14.0, "relative_humidity": 0.5, "pressure_pa": 101_325.0,
            "temperature_tolerance_c": 1.0, "humidity_tolerance": 0.2,
            "pressure_tolerance_pa": 2_000.0,
            "marks": [
                {
                    "name": "30 cm", "true_m": 0.3, "true_u_m": 0.001, "read_m": 0.302,
                    "scatter_m": 0.001, "drift_m": 0.0, "count": 50, "flagged": 1, "wild": 0,
                    "still": True, "used": True, "residual_m": 0.0005, "start_s": 2.0, "end_s": 4.0,
                }
            ],
        }
    ],
    "thresholds": [
        {
            "id": 4, "sensor_id": 3, "set_at": "2026-11-04T10:00:00+00:00", "deleted_at": None,
            "stop_m": 0.35, "go_m": 0.5, "needed_m": 0.3, "calibration_id": 9,
            "stopping": {"stop_m": 0.35, "speed_m_per_s": 0.4},
        },
        {
            "id": 8, "sensor_id": 5, "set_at": "2026-11-04T11:00:00+00:00", "deleted_at": None,
            "stop_m": 0.2, "go_m": 0.3, "needed_m": None, "calibration_id": None, "stopping": {},
        },
    ],
}  # fmt: skip


def test_the_first_version_knew_rangers_only() -> None:
    found = up_to_date(FIRST)
    assert found["tickstone_rig"] == VERSION
    assert found["recording_inputs"] == [
        {"recording_id": 6, "role": "echo", "lane": 0, "channel": 1, "form": "time"}
    ]
    note, held = found["marks"]
    assert (note["sensor_id"], note["value"], note["id"]) == (None, None, 1)
    assert (held["take_id"], held["sensor_id"], held["channel"], held["id"]) == (2, 3, 1, 2)
    assert (held["value"], held["u"], held["unit"]) == (0.3, 0.001, "m")
    (calibration,) = found["calibrations"]
    assert calibration["parameters"] == {"offset": 0.004, "scale": 1.01}
    assert calibration["covariance"] == [[1e-6, -2e-7], [-2e-7, 4e-6]]
    assert calibration["surroundings"]["air"]["temperature_c"] == 14.0
    assert calibration["evidence"][0]["read"] == 0.302
    assert found["in_use"] == [
        {"sensor_id": 3, "kind": "offset-scale", "calibration_id": 9, "undone_by": ""}
    ]
    first, second = found["rules"]
    assert first["parameters"] == {"stop_m": 0.35, "go_m": 0.5}
    assert first["basis"] == {
        "evidence": {"speed_m_per_s": 0.4}, "needed": 0.3, "calibrations": "9",
    }  # fmt: skip
    assert second["basis"] == {"evidence": None, "needed": None, "calibrations": ""}
    assert not {"thresholds", "take_marks"} & found.keys()


@pytest.mark.parametrize("version", [0, -1, VERSION + 1, True, 1.0, "1", None])
def test_what_is_of_no_version_known_here_is_refused(version: object) -> None:
    with pytest.raises(UnreadableArchiveError, match="not the description of a rig"):
        up_to_date({**TODAY, "tickstone_rig": version})


@pytest.mark.parametrize("document", [None, [], "rig", 7, {}])
def test_what_is_no_description_is_refused(document: object) -> None:
    with pytest.raises(UnreadableArchiveError):
        up_to_date(document)
