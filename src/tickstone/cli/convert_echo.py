"""``tickstone convert echo``: one echo time to a distance, with its working."""

from __future__ import annotations

import json
import math
from typing import Annotated, Any

import typer

from tickstone.core.air.conditions import AirConditions
from tickstone.core.air.fixed_rules import FIXED_RULES
from tickstone.core.air.sound_speed import AIR_MODELS
from tickstone.core.chains.echo_ranger import (
    FIXED_SPEED,
    RangerParameters,
    ranger_chain,
    sound_speed,
)
from tickstone.core.display import grouped, measured
from tickstone.core.signal import Signal
from tickstone.core.status import Status
from tickstone.core.step import Step
from tickstone.core.uncertainty import expanded

ASSUMED_AIR = AirConditions(
    20.0, 0.5, temperature_tolerance_c=10.0, humidity_tolerance=0.3, pressure_tolerance_pa=5_000.0
)
"""What stands in for the air when nothing is said of it: a room, with room to be wrong."""
LONGEST_ECHO_US = 60e6


def convert_echo(
    us: Annotated[float, typer.Option(help="Echo time as the sensor gave it, µs. 0 is no echo.")],
    air_c: Annotated[float | None, typer.Option(help="Air temperature, °C.")] = None,
    rh: Annotated[float | None, typer.Option(help="Relative humidity, %. Usually 50.")] = None,
    kpa: Annotated[float | None, typer.Option(help="Air pressure, kPa. Usually 101.325.")] = None,
    model: Annotated[
        str | None, typer.Option(help=f"How the air is taken: {', '.join(AIR_MODELS)}.")
    ] = None,
    rule: Annotated[
        str | None,
        typer.Option(help=f"A rule of thumb instead of the air: {', '.join(FIXED_RULES)}."),
    ] = None,
    speed: Annotated[
        float | None, typer.Option(help="A fixed speed of sound instead of the air, m/s.")
    ] = None,
    baseline_mm: Annotated[
        float, typer.Option(help="Between emitter and receiver, mm. 0 leaves the triangle out.")
    ] = 0.0,
    offset_mm: Annotated[
        float, typer.Option(help="The sensor's face behind the rig's edge, mm; is taken off.")
    ] = 0.0,
    min_cm: Annotated[float, typer.Option(help="Nearest the sensor can tell, cm.")] = 2.0,
    max_cm: Annotated[float, typer.Option(help="Farthest it is stated to reach, cm.")] = 400.0,
    timeout_us: Annotated[
        float, typer.Option(help="Echo length that means nothing was heard, µs.")
    ] = 38_000.0,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Turn one echo time into a distance and show the working.

    The air is 20 °C, 50 % RH, 101.325 kPa with wide tolerances when nothing is said of it.
    """
    try:
        _only_one_way(
            {"--rule": rule, "--speed": speed},
            {
                "--air-c": air_c,
                "--rh": rh,
                "--kpa": kpa,
                "--model": model,
            },
        )
        if not (math.isfinite(us) and 0.0 <= us <= LONGEST_ECHO_US):
            raise ValueError(f"an echo time of {us:g} µs cannot be; give 0 to 60 000 000 µs")
        air = _air(air_c, rh, kpa)
        parameters = _parameters(
            rule, speed, model, baseline_mm, offset_mm, min_cm, max_cm, timeout_us
        )
        chain = ranger_chain(parameters, air)
    except ValueError as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    steps = chain.explain(Signal.of([0.0], [us]), 0)
    sound = sound_speed(parameters, air)
    if as_json:
        typer.echo(json.dumps(_as_json(steps, sound.value, sound.u), ensure_ascii=False))
    else:
        typer.echo(_as_text(steps))


def _only_one_way(fixed: dict[str, Any], airy: dict[str, Any]) -> None:
    given_fixed = [name for name, value in fixed.items() if value is not None]
    given_airy = [name for name, value in airy.items() if value is not None]
    if len(given_fixed) > 1 or (given_fixed and given_airy):
        raise ValueError(
            f"{' and '.join(given_fixed + given_airy)} exclude each other; the speed of sound "
            "comes from the air, from a rule or from a fixed speed"
        )


def _air(air_c: float | None, rh: float | None, kpa: float | None) -> AirConditions:
    if air_c is None and rh is None and kpa is None:
        return ASSUMED_AIR
    usual = AirConditions(20.0)
    return AirConditions(
        temperature_c=ASSUMED_AIR.temperature_c if air_c is None else air_c,
        relative_humidity=ASSUMED_AIR.relative_humidity if rh is None else rh / 100.0,
        pressure_pa=ASSUMED_AIR.pressure_pa if kpa is None else kpa * 1000.0,
        temperature_tolerance_c=(ASSUMED_AIR if air_c is None else usual).temperature_tolerance_c,
        humidity_tolerance=(ASSUMED_AIR if rh is None else usual).humidity_tolerance,
        pressure_tolerance_pa=(ASSUMED_AIR if kpa is None else usual).pressure_tolerance_pa,
    )


def _parameters(
    rule: str | None,
    speed: float | None,
    model: str | None,
    baseline_mm: float,
    offset_mm: float,
    min_cm: float,
    max_cm: float,
    timeout_us: float,
) -> RangerParameters:
    if rule is not None and rule not in FIXED_RULES:
        raise ValueError(f"there is no rule “{rule}”; known are {', '.join(FIXED_RULES)}")
    if model is not None and model not in AIR_MODELS:
        raise ValueError(f"there is no model “{model}”; known are {', '.join(AIR_MODELS)}")
    return RangerParameters(
        air_model=rule or (FIXED_SPEED if speed is not None else model or "cramer"),
        baseline_m=baseline_mm / 1000.0,
        mount_m=offset_mm / 1000.0,
        mount_tolerance_m=0.001 if offset_mm else 0.0,
        min_m=min_cm / 100.0,
        max_m=max_cm / 100.0,
        timeout_us=timeout_us,
        median_n=1,
        fixed_speed_m_per_s=343.0 if speed is None else speed,
    )


def _number(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _as_json(steps: tuple[Step, ...], speed: float, speed_u: float) -> dict[str, Any]:
    last = steps[-1]
    return {
        "kind": "echo",
        "status": last.status.code,
        "results": {
            "distance": {"value": _number(last.value), "unit": last.unit, "u": _number(last.u)},
            "speed_of_sound": {"value": speed, "unit": "m/s", "u": speed_u},
        },
        "working": [
            {
                "stage": step.stage,
                "formula": step.formula,
                "value": _number(step.value),
                "unit": step.unit,
                "u": _number(step.u),
            }
            for step in steps
        ],
    }


def _as_text(steps: tuple[Step, ...]) -> str:
    last = steps[-1]
    lines = []
    for step in steps:
        result = (
            f"{grouped(step.value, 5 if step.unit == 'm' else 1)} {step.unit}"
            if math.isfinite(step.value)
            else step.status.word
        )
        lines.append(f"{step.label:<16} {step.filled:<62} = {result}")
    lines.append("")
    if math.isfinite(last.value):
        lines.append(f"{measured(last.value, last.u, last.unit)}   ({last.status.word}; k = 2)")
        lines.append("")
        lines.append("what the ± is made of:")
        lines.extend(
            f"  {part.name:<22} ± {expanded(abs(part.contribution)) * 1000:6.2f} mm   {part.basis}"
            for part in sorted(last.components, key=lambda part: -abs(part.contribution))
        )
    if last.status != Status.OK:
        lines.append(f"{last.status.word}: {last.status.meaning}")
    notes = [step.note for step in steps if step.stage == "air" and step.note]
    return "\n".join(lines + notes)
