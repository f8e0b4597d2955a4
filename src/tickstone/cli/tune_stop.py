"""``tickstone tune stop``: at which distance to stop from a speed, and the other way round."""

from __future__ import annotations

import json
import math
from typing import Annotated, Any

import typer

from tickstone.core.stopping import (
    StoppingDistance,
    StoppingInputs,
    braking_from_skid,
    greatest_speed_m_per_s,
    stopping_distance,
)

CAUTION = (
    "Wheels off the floor for the first run, a stop within reach, people out of the way. "
    "On a road local rules decide. Tick Stone is not a safety device."
)


def tune_stop(
    speed_m_s: Annotated[float | None, typer.Option(help="Speed, m/s.")] = None,
    distance_m: Annotated[
        float | None, typer.Option(help="Instead: how fast may it go, stopping below this, m?")
    ] = None,
    decel: Annotated[float | None, typer.Option(help="Braking on the level, m/s².")] = None,
    skid_m: Annotated[
        float | None, typer.Option(help="Instead: the length of a skid by tape, m.")
    ] = None,
    skid_speed_m_s: Annotated[
        float | None, typer.Option(help="The speed at which that skid began; --speed-m-s without.")
    ] = None,
    ping_s: Annotated[float, typer.Option(help="Time between readings, s.")] = 0.0,
    filter_s: Annotated[float, typer.Option(help="Lag of the filter, s.")] = 0.0,
    debounce_s: Annotated[float, typer.Option(help="A reading has to stand so long, s.")] = 0.0,
    loop_s: Annotated[float, typer.Option(help="One turn of the program, s.")] = 0.0,
    actuate_s: Annotated[float, typer.Option(help="Until the brake bites, s.")] = 0.0,
    u_m: Annotated[float, typer.Option(help="Standard uncertainty of a reading, m.")] = 0.0,
    speed_u: Annotated[float, typer.Option(help="Standard uncertainty of the speed, m/s.")] = 0.0,
    decel_u: Annotated[float, typer.Option(help="Of the braking, m/s².")] = 0.0,
    margin_m: Annotated[float, typer.Option(help="Room to spare, m.")] = 0.0,
    slope_deg: Annotated[float, typer.Option(help="Downhill, °; negative uphill.")] = 0.0,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Stop below which distance, at a speed? Or how fast, with a distance?

    For example: tickstone tune stop --speed-m-s 0.6 --decel 0.8 --ping-s 0.06 --loop-s 0.02
    --u-m 0.01 --margin-m 0.05 --json
    """
    try:
        if (speed_m_s is None) == (distance_m is None):
            raise ValueError("give either --speed-m-s or --distance-m")
        braking, braking_u = _braking(decel, decel_u, skid_m, skid_speed_m_s or speed_m_s, speed_u)
        inputs = StoppingInputs(
            speed_m_per_s=speed_m_s or 0.0,
            deceleration_m_per_s2=braking,
            sample_s=ping_s,
            filter_s=filter_s,
            loop_s=loop_s,
            actuate_s=actuate_s,
            reading_u_m=u_m,
            margin_m=margin_m,
            speed_u=speed_u,
            deceleration_u=braking_u,
            debounce_s=debounce_s,
            slope_rad=math.radians(slope_deg),
        )
        if distance_m is None:
            told = stopping_distance(inputs)
            document = _as_json(inputs, told)
        else:
            document = _fastest(inputs, distance_m)
    except ValueError as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    typer.echo(json.dumps(document, ensure_ascii=False) if as_json else _as_text(document))


def _braking(
    decel: float | None, decel_u: float, skid_m: float | None, speed: float | None, speed_u: float
) -> tuple[float, float]:
    """As stated, or from a skid. Raises ValueError."""
    if (decel is None) == (skid_m is None):
        raise ValueError("give either --decel or --skid-m: without braking nothing stops")
    if skid_m is None:
        assert decel is not None
        return decel, decel_u
    if speed is None:
        raise ValueError("--skid-m wants the speed it began at: --skid-speed-m-s")
    return braking_from_skid(speed, skid_m, speed_u)


def _fastest(inputs: StoppingInputs, distance_m: float) -> dict[str, Any]:
    """How fast a distance is good for, with the sum at that speed."""
    if not (math.isfinite(distance_m) and distance_m >= 0.0):
        raise ValueError(f"--distance-m: {distance_m:g} has to be 0 or more")
    fastest = greatest_speed_m_per_s(distance_m, inputs)
    at_that = StoppingInputs(
        **{name: getattr(inputs, name) for name in StoppingInputs.__dataclass_fields__}
        | {"speed_m_per_s": fastest}
    )
    document = _as_json(at_that, stopping_distance(at_that))
    if fastest == 0.0:
        document["remarks"].append(
            f"{distance_m:g} m do not even cover doubt and room to spare: no speed is slow enough."
        )
    return {"speed": fastest, "speed_unit": "m/s", **document}


def _as_json(inputs: StoppingInputs, told: StoppingDistance) -> dict[str, Any]:
    return {
        "distance": told.total_m,
        "unit": "m",
        "parts": {
            "blind": told.travel_blind_m,
            "braking": told.travel_braking_m,
            "doubt": told.doubt_m,
            "margin": told.margin_m,
        },
        "blind_s": inputs.blind_s,
        "brakes_m_s2": inputs.brakes_m_per_s2,
        "speed_m_s": inputs.speed_m_per_s,
        "remarks": [],
        "caution": CAUTION,
    }


def _as_text(document: dict[str, Any]) -> str:
    parts = document["parts"]
    lines = [
        f"driving on unaware   v·ΣT       {parts['blind']:.3f} m   ({document['blind_s']:.3f} s)",
        f"braking              v²/(2a)    {parts['braking']:.3f} m   "
        f"({document['brakes_m_s2']:.2f} m/s²)",
        f"doubt                k = 2      {parts['doubt']:.3f} m",
        f"room to spare                   {parts['margin']:.3f} m",
        f"stopping takes                  {document['distance']:.3f} m   "
        f"at {document['speed_m_s']:.3f} m/s",
    ]
    if "speed" in document:
        lines.append(f"good up to                      {document['speed']:.3f} m/s")
    return "\n".join([*lines, *document["remarks"], CAUTION])
