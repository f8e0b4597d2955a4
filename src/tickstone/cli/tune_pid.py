"""``tickstone tune pid``: gains by a known way, for a plant that is stated or fitted to a step."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import typer

from tickstone.cli.log_inputs import RateOption
from tickstone.core.control.columns import held, only_good
from tickstone.core.control.controller import Controller, Gains
from tickstone.core.control.fitting import LAG, MODELS, StepFit, fit_step
from tickstone.core.control.loop import Rig, simulate
from tickstone.core.control.margins import Loop, Margins, growth, margins
from tickstone.core.control.measures import of_run
from tickstone.core.control.plant import Plant
from tickstone.core.control.tuning import TUNING_RULES
from tickstone.core.control.tuning.rule import PI, TERMS, Told, TuningRule
from tickstone.core.display import finite
from tickstone.formats.log_signals import column_signals
from tickstone.formats.takes import read_take_file
from tickstone.formats.takes.header import ReadAs

_MEASURED = ("measured", "y", "value", "speed", "reading")
_OUTPUT = ("output", "u", "duty", "pwm", "drive")


def tune_pid(
    file: Annotated[
        Path | None, typer.Argument(help="A recording in which the output steps; fits it first.")
    ] = None,
    gain: Annotated[float | None, typer.Option(help="Of what is measured for 1 of output.")] = None,
    lag: Annotated[float | None, typer.Option(help="Lag, s: until it has done 63 %.")] = None,
    delay: Annotated[float | None, typer.Option(help="Dead time, s.")] = None,
    integrators: Annotated[
        int, typer.Option(help="0: a speed; 1: a place that a speed makes; 2: one a tilt makes.")
    ] = 0,
    rule: Annotated[str, typer.Option(help=f"One of {', '.join(TUNING_RULES)}.")] = "simc",
    terms: Annotated[str, typer.Option(help=f"One of {', '.join(TERMS)}.")] = "",
    tau_c: Annotated[
        float | None, typer.Option("--tau-c", help="How fast it is to be, s; SIMC: the dead time.")
    ] = None,
    sample_s: Annotated[float, typer.Option(help="Time between readings, s; 0: none.")] = 0.0,
    measured: Annotated[str, typer.Option(help="The column that is measured.")] = "",
    output: Annotated[str, typer.Option(help="The column that steers.")] = "",
    model: Annotated[str, typer.Option(help=f"What is fitted: {', '.join(MODELS)}.")] = LAG,
    rate_hz: RateOption = None,
    as_json: Annotated[
        bool, typer.Option("--json", help="One JSON object instead of text.")
    ] = False,
) -> None:
    """P, I and D of the parallel form, with the gain and the delay they have in hand.

    For example: tickstone tune pid --gain 2 --lag 1.5 --delay 0.2 --rule simc --json
    """
    try:
        way = _rule(rule)
        fit = _fitted(file, measured, output, model, rate_hz) if file is not None else None
        plant = fit.plant if fit is not None else _stated(gain, lag, delay, integrators)
        if sample_s < 0.0:
            raise ValueError(f"--sample-s: {sample_s:g} lies below 0")
        seen = Plant(plant.gain, plant.lag_s, plant.delay_s + sample_s / 2.0, plant.integrators)
        told = way.tune(seen, terms or _usual(way, plant), tau_c)
        loop = Loop(plant, told.gains, sample_s=sample_s)
        document = _as_json(way, plant, told, margins(loop), fit)
        _judge(document, loop, sample_s)
    except (ValueError, OSError) as error:
        typer.echo(f"tickstone: {error}", err=True)
        raise typer.Exit(2) from error
    typer.echo(json.dumps(document, ensure_ascii=False) if as_json else _as_text(document))


def _rule(name: str) -> TuningRule:
    if name not in TUNING_RULES:
        raise ValueError(f"--rule: there is no “{name[:40]}”; {', '.join(TUNING_RULES)}")
    return TUNING_RULES[name]


def _usual(way: TuningRule, plant: Plant) -> str:
    """P and I for what comes to rest by itself; with D for what rolls on."""
    return PI if plant.integrators < 2 and PI in way.terms else way.terms[-1]


def _stated(gain: float | None, lag: float | None, delay: float | None, integrators: int) -> Plant:
    if gain is None or lag is None or delay is None:
        raise ValueError("give --gain, --lag and --delay, or a FILE to fit them to")
    return Plant(gain, lag, delay, integrators)


def _fitted(file: Path, measured: str, output: str, model: str, rate_hz: float | None) -> StepFit:
    """Fit the step of a recording. Raises ValueError."""
    if not file.is_file():
        raise ValueError(f"{file} is no file that is there")
    reading = read_take_file(file, ReadAs(rate_hz=rate_hz))
    names = [one.name for one in reading.header.channels]
    columns = [
        measured or _column(names, _MEASURED, "--measured"),
        output or _column(names, _OUTPUT, "--output"),
    ]
    (read, _), (steers, _) = column_signals(reading, columns)
    return fit_step(read.time_s, held(steers), only_good(read), model)


def _column(names: list[str], usual: tuple[str, ...], option: str) -> str:
    found = [one for one in names if one.casefold() in usual]
    if len(found) != 1:
        raise ValueError(f"{option}: say which of the columns {', '.join(names)} it is")
    return found[0]


def _as_json(
    way: TuningRule, plant: Plant, told: Told, found: Margins, fit: StepFit | None
) -> dict[str, Any]:
    gains = told.gains
    return {
        "rule": way.name,
        "source": way.source,
        "kp": gains.kp,
        "ki": gains.ki,
        "kd": gains.kd,
        "gain_margin": finite(found.gain),
        "delay_margin": finite(found.delay_s),
        "delay_margin_unit": "s",
        "phase_margin_deg": finite(float(np.degrees(found.phase_rad))),
        "peak": found.peak,
        "plant": {
            "gain": plant.gain,
            "lag": plant.lag_s,
            "delay": plant.delay_s,
            "integrators": plant.integrators,
        },
        "fit": None if fit is None else _fit_as_json(fit),
        "working": [{"what": name, "value": finite(value)} for name, value in told.working],
        "remarks": [] if fit is None else list(fit.remarks),
    }


def _fit_as_json(fit: StepFit) -> dict[str, Any]:
    return {
        "model": fit.model,
        "u_gain": finite(fit.us[0]),
        "u_lag": finite(fit.us[1]),
        "u_delay": finite(fit.us[2]),
        "scatter": fit.scatter,
        "explained": fit.explained,
    }


def _judge(document: dict[str, Any], loop: Loop, sample_s: float) -> None:
    """Whether it is stable as it is sampled, and how a step looks."""
    sample_s = sample_s or min(0.01, max(1e-3, loop.plant.delay_s / 20.0))
    grows = growth(loop, sample_s)
    document["stable"] = grows < 1.0
    if grows >= 1.0:
        document["remarks"].append(
            "With these the loop is not stable: its swings grow. Take another rule, or go slower."
        )
        document["overshoot"] = document["settling_s"] = None
        return
    gains: Gains = loop.gains
    lasts_s = min(3600.0, 40.0 * (loop.plant.lag_s + loop.plant.delay_s) + 100.0 * sample_s)
    free = Controller(
        kp=gains.kp, ki=gains.ki, kd=gains.kd, low=-1e6, high=1e6, derivative_lag_s=0.0
    )
    rig = Rig(sample_s=sample_s, step_at_s=sample_s, lasts_s=lasts_s)
    told = of_run(simulate(loop.plant, free, rig))
    document["overshoot"] = told.overshoot
    document["settling_s"] = finite(told.settling_s)


def _as_text(document: dict[str, Any]) -> str:
    def said(value: float | None, unit: str = "") -> str:
        return "without end" if value is None else f"{value:.4g} {unit}".rstrip()

    plant = document["plant"]
    lines = [
        f"plant   gain {plant['gain']:.4g}, lag {plant['lag']:.4g} s, dead time "
        f"{plant['delay']:.4g} s",
        f"kp {document['kp']:.5g}   ki {document['ki']:.5g} 1/s   kd {document['kd']:.5g} s",
        f"bears {said(document['gain_margin'])} times the gain, "
        f"{said(document['delay_margin'], 's')} more dead time; Ms {document['peak']:.3g}",
        f"by {document['source']}",
    ]
    if document["fit"] is not None:
        fit = document["fit"]
        lines.insert(
            1,
            f"fit     u {said(fit['u_gain'])}, {said(fit['u_lag'], 's')}, "
            f"{said(fit['u_delay'], 's')}; explains {100 * fit['explained']:.1f} %",
        )
    return "\n".join([*lines, *document["remarks"]])
