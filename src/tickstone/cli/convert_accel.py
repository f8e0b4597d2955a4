"""``tickstone convert accel``: three counts of an accelerometer, with its calibrations if any."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer

from tickstone.cli.calibration_file import stages_from
from tickstone.cli.convert_reading import said_of
from tickstone.cli.log_inputs import SetOption, pairs, settings_from
from tickstone.core.chains import CHAINS
from tickstone.core.chains.kind import ChainKind
from tickstone.core.quantity import COUNTS
from tickstone.core.readings.reading import ASSUMED_AIR, OneReading
from tickstone.core.signal import Signal
from tickstone.core.surroundings import Surroundings

_KINDS = ("analogue3", "six_axis")
_OUTPUTS = ("x", "y", "z", "size", "inclination", "roll", "pitch")


def convert_accel(
    counts: Annotated[str, typer.Option(help="Three counts, x,y,z.")],
    calibration: Annotated[
        list[Path] | None,
        typer.Option("--cal", "--calibration", help="What `tickstone calibrate --json` printed."),
    ] = None,
    kind: Annotated[
        str, typer.Option(help=f"{' or '.join(_KINDS)}; by the calibration, else the first.")
    ] = "",
    settings: SetOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """Turn three counts of an accelerometer into what it feels, in g, and tilt.

    For example: tickstone convert accel --counts 300,340,405 --cal cal.json
    """
    try:
        sensor = _kind(kind, calibration or [])
        parameters = settings_from(sensor.parameters, pairs(settings, "--set"))
        stages = stages_from(calibration or [], sensor)
        chain = sensor.build(parameters, Surroundings(ASSUMED_AIR), stages, lanes={"accel": 3})
        given = Signal.of([0.0], [[one] for one in _three(counts)], COUNTS.in_lanes("x", "y", "z"))
        outputs = ("force", "size", "inclination", "roll", "pitch")
        said = said_of(sensor, OneReading(chain, {"accel": given}, outputs), as_json)
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    typer.echo(said)


def _kind(name: str, calibrations: list[Path]) -> ChainKind:
    """Which kind of accelerometer: as told, or whose calibrations these are."""
    if name:
        if name not in _KINDS:
            raise ValueError(
                f"there is no accelerometer “{name[:40]}”; there are {', '.join(_KINDS)}"
            )
        return CHAINS[name]
    made = {_made(path) for path in calibrations}
    for one in _KINDS:
        offered = {calibration.name for calibration in CHAINS[one].calibrations}
        # Faces are common to both; then it is the one that they are most often made for.
        if made and made <= offered and not (one == "analogue3" and made == {"six-face"}):
            return CHAINS[one]
    return CHAINS["six_axis" if made == {"six-face"} else _KINDS[0]]


def _made(path: Path) -> str:
    try:
        return str(json.loads(path.read_text("utf-8")).get("kind", ""))
    except (ValueError, AttributeError) as error:
        raise ValueError(f"{path}: is no calibration: {error}") from error


def _three(text: str) -> list[float]:
    parts = text.replace(";", ",").split(",")
    try:
        numbers = [float(part) for part in parts]
    except ValueError:
        numbers = []
    if len(numbers) != 3 or not all(abs(one) < 1e9 for one in numbers):
        raise ValueError(f"--counts {text[:60]}: has to be three counts, such as 300,340,405")
    return numbers
