"""Descriptions of rigs that older versions wrote, as this version writes them."""

from __future__ import annotations

from typing import Any

VERSION = 7

_AIR = (
    "temperature_c",
    "relative_humidity",
    "pressure_pa",
    "temperature_tolerance_c",
    "humidity_tolerance",
    "pressure_tolerance_pa",
)
_Row = dict[str, Any]


class UnreadableArchiveError(ValueError):
    """A zip is not a rig's archive. The message says why."""


def up_to_date(document: Any) -> dict[str, Any]:
    """The description as this version has it. Raises UnreadableArchiveError, KeyError."""
    version = document.get("tickstone_rig") if isinstance(document, dict) else None
    if type(version) is not int or not 1 <= version <= VERSION:
        raise UnreadableArchiveError(
            "rig.json is not the description of a rig this Tick Stone can read."
        )
    for change in _CHANGES[version - 1 :]:
        document = change(document)
    return {**document, "tickstone_rig": VERSION}


def _from_sixth(old: _Row) -> _Row:
    """Version 6 left out the programs that were written, and what the board said it runs."""
    return {**old, "programs": [], "board_runs": []}


def _from_fifth(old: _Row) -> _Row:
    """Version 5 knew no decisions over a whole rig."""
    return {**old, "decisions": [], "decisions_in_use": []}


def _from_fourth(old: _Row) -> _Row:
    """Version 4 knew wires from leads to the board, and nothing else of a circuit."""
    return {**old, "rig": {"circuit": {}, **old["rig"]}}


def _from_third(old: _Row) -> _Row:
    """Version 3 knew no heaps, no marks of one lane and no studies."""
    return {
        **old,
        "marks": [{"lane": None, **row} for row in old["marks"]],
        "calibrations": [{"heaps": [], **row} for row in old["calibrations"]],
        "studies": [],
    }


def _from_second(old: _Row) -> _Row:
    """Version 2 did not know that something can undo a calibration."""
    in_use = [{"undone_by": "", **row} for row in old["in_use"]]
    return {**old, "in_use": in_use}


def _from_first(old: _Row) -> _Row:
    """Version 1 knew rangers only: one channel, one distance, two thresholds."""
    recordings = {row["id"]: row for row in old["recordings"]}
    marks = [_take_mark(row) for row in old["take_marks"]]
    marks += [_ranger_mark(row, recordings[row["recording_id"]]) for row in old["marks"]]
    left_out = ("marks", "take_marks", "thresholds", "calibrations")
    return {
        **{name: value for name, value in old.items() if name not in left_out},
        "recording_inputs": [
            {
                "recording_id": row["id"],
                "role": "echo",
                "lane": 0,
                "channel": row["channel"],
                "form": "time",
            }
            for row in old["recordings"]
        ],
        "marks": [{**mark, "id": number} for number, mark in enumerate(marks, start=1)],
        "calibrations": [_calibration(row) for row in old["calibrations"]],
        "in_use": [
            {
                "sensor_id": row["id"],
                "kind": "offset-scale",
                "calibration_id": row["calibration_id"],
            }
            for row in old["sensors"]
            if row["calibration_id"] is not None
        ],
        "rules": [_rule(row) for row in old["thresholds"]],
    }


def _take_mark(row: _Row) -> _Row:
    return {
        **{name: row[name] for name in ("take_id", "channel", "name", "start_s", "end_s", "unit")},
        "sensor_id": None,
        "calibration": "",
        "pose": "",
        "value": row["true_value"],
        "u": row["true_u"],
        "deleted_at": row["deleted_at"],
    }


def _ranger_mark(row: _Row, recording: _Row) -> _Row:
    return {
        "take_id": recording["take_id"],
        "sensor_id": recording["sensor_id"],
        "channel": recording["channel"],
        "calibration": "offset-scale",
        "pose": "",
        **{name: row[name] for name in ("name", "start_s", "end_s", "deleted_at")},
        "value": row["true_m"],
        "u": row["true_u_m"],
        "unit": "m",
    }


def _calibration(row: _Row) -> _Row:
    return {
        **{n: row[n] for n in ("id", "sensor_id", "recording_id", "made_at", "grounds", "errors")},
        "kind": "offset-scale",
        "parameters": {"offset": row["offset_m"], "scale": row["scale"]},
        "covariance": [[row["var_offset"], row["cov"]], [row["cov"], row["var_scale"]]],
        "statistics": {
            "chi_square": row["chi_square"],
            "degrees": row["degrees"],
            "scale_fitted": float(row["scale_fitted"]),
        },
        "surroundings": {"air": {name: row[name] for name in _AIR}},
        "evidence": [_span(mark) for mark in row["marks"]],
    }


def _span(mark: _Row) -> _Row:
    return {
        "name": mark["name"],
        "true": mark["true_m"],
        "u": mark["true_u_m"],
        "read": mark["read_m"],
        "scatter": mark["scatter_m"],
        "drift": mark["drift_m"],
        "count": mark["count"],
        "flagged": mark["flagged"],
        "wild": mark["wild"],
        "is_still": mark["still"],
        "is_used": mark["used"],
        "residual": mark["residual_m"],
        "start_s": mark["start_s"],
        "end_s": mark["end_s"],
    }


def _rule(row: _Row) -> _Row:
    evidence = {name: value for name, value in row["stopping"].items() if name != "stop_m"}
    calibration = row["calibration_id"]
    return {
        **{name: row[name] for name in ("id", "sensor_id", "set_at", "deleted_at")},
        "kind": "stop-and-go",
        "parameters": {"stop_m": row["stop_m"], "go_m": row["go_m"]},
        "basis": {
            "evidence": evidence or None,
            "needed": row["needed_m"],
            "calibrations": "" if calibration is None else str(calibration),
        },
    }


_CHANGES = (_from_first, _from_second, _from_third, _from_fourth, _from_fifth, _from_sixth)
