"""Loops as a rig itself ran them: a step fitted, a run read, how a sensor really delivers."""

from __future__ import annotations

import numpy as np
from fastapi import APIRouter
from sqlalchemy.orm import Session

from tickstone.api.control_out import measures_out, thinned
from tickstone.api.desk import (
    CatalogueDep,
    DeskDep,
    RigDep,
    SessionDep,
    chain_kind_of,
    checked_channel,
    find,
)
from tickstone.api.problems import does_not_fit, not_found
from tickstone.api.schemas.control import (
    ColumnsIn,
    FitStepIn,
    HeardIn,
    LoopHeardOut,
    PlantFittedOut,
    ReadLoopOut,
    RelayOut,
)
from tickstone.core.control.columns import held, only_good
from tickstone.core.control.fitting import fit_step, scatter_about_course
from tickstone.core.control.heard import loop_heard
from tickstone.core.control.measures import measures
from tickstone.core.control.plant import FloatArray
from tickstone.core.control.tuning.relay import swing_of
from tickstone.core.display import finite
from tickstone.store.models import Rig, Sensor, Take
from tickstone.work.filtering import channel_signal
from tickstone.work.look import results_of
from tickstone.work.sensing import sensing_of, surroundings_of_take

router = APIRouter(prefix="/api", tags=["control"])

_DRAWN = 800


def _columns(
    session: Session, rig: Rig, body: ColumnsIn
) -> tuple[FloatArray, dict[str, FloatArray]]:
    """Times and columns of a stretch; what is flagged has no value, an output is held."""
    take = find(session, Take, body.take_id)
    if take.rig_id != rig.id:
        raise not_found("recording of this rig")
    found: dict[str, FloatArray] = {}
    time_s: FloatArray = np.empty(0)
    for name in ("measured", "output", "wanted"):
        number = getattr(body, name)
        if number is None:
            continue
        signal = channel_signal(session, take, checked_channel(take, number))
        first = 0 if body.from_s is None else int(np.searchsorted(signal.time_s, body.from_s))
        last = len(signal) if body.to_s is None else int(
            np.searchsorted(signal.time_s, body.to_s, side="right")
        )  # fmt: skip
        part = signal.between(first, max(first, last))
        time_s = part.time_s
        found[name] = only_good(part) if name == "measured" else held(part)
    return time_s, found


@router.post("/rigs/{rig_id}/control/fit")
def fit_plant(rig: RigDep, body: FitStepIn, session: SessionDep) -> PlantFittedOut:
    """Gain, lag and dead time from a step in a recording. Saves nothing."""
    time_s, columns = _columns(session, rig, body)
    try:
        fit = fit_step(time_s, columns["output"], columns["measured"], body.model)
    except ValueError as error:
        raise does_not_fit(str(error), "take_id") from error
    every = thinned(len(fit.time_s), _DRAWN)
    output = np.interp(fit.time_s[every], time_s, columns["output"])
    return PlantFittedOut(
        gain=fit.plant.gain,
        lag_s=fit.plant.lag_s,
        delay_s=fit.plant.delay_s,
        u_gain=finite(fit.us[0]),
        u_lag_s=finite(fit.us[1]),
        u_delay_s=finite(fit.us[2]),
        model=fit.model,
        scatter=fit.scatter,
        explained=fit.explained,
        time_s=np.round(fit.time_s[every], 6).tolist(),
        read=[finite(value) for value in fit.read[every].tolist()],
        told=fit.told[every].tolist(),
        output=[finite(value) for value in output.tolist()],
        remarks=list(fit.remarks),
    )


@router.post("/rigs/{rig_id}/control/read")
def read_loop(rig: RigDep, body: ColumnsIn, session: SessionDep) -> ReadLoopOut:
    """The measures of a loop that the rig itself ran, from its columns. Saves nothing."""
    time_s, columns = _columns(session, rig, body)
    told, relay, why_not = None, None, "no column is the set point"
    read, output = columns["measured"], columns["output"]
    good = np.isfinite(read) & np.isfinite(output)
    if not good.any():
        raise does_not_fit("nothing in these columns is a reading", "measured")
    if "wanted" in columns:
        good &= np.isfinite(columns["wanted"])
        try:
            told = measures(
                time_s[good],
                columns["wanted"][good],
                read[good],
                output[good],
                scatter=scatter_about_course(read[good]),
            )
            why_not = ""
        except ValueError as error:
            why_not = str(error)
    try:
        swing = swing_of(time_s[good], read[good], output[good])
        relay = RelayOut(
            ku=swing.ku,
            tu_s=swing.tu_s,
            u_ku=finite(swing.u_ku),
            u_tu_s=finite(swing.u_tu_s),
            amplitude=swing.amplitude,
            swings=swing.swings,
        )
    except ValueError:
        relay = None  # Most runs are no relay's, and nobody asked whether this one is.
    every = thinned(len(time_s), _DRAWN)
    wanted = columns.get("wanted", np.full(len(time_s), np.nan))
    return ReadLoopOut(
        measures=None if told is None else measures_out(told),
        why_not=why_not,
        relay=relay,
        time_s=np.round(time_s[every], 6).tolist(),
        wanted=[finite(value) for value in wanted[every].tolist()],
        measured=[finite(value) for value in read[every].tolist()],
        output=[finite(value) for value in output[every].tolist()],
    )


@router.post("/rigs/{rig_id}/control/heard")
def how_a_loop_hears(
    rig: RigDep, body: HeardIn, session: SessionDep, desk: DeskDep, catalogue: CatalogueDep
) -> LoopHeardOut:
    """How often, how noisily and how often not a sensor really delivers. Saves nothing."""
    take = find(session, Take, body.take_id)
    sensor = find(session, Sensor, body.sensor_id)
    recording = next(
        (r for r in take.recordings if r.sensor_id == sensor.id and r.deleted_at is None), None
    )
    if take.rig_id != rig.id or recording is None:
        raise does_not_fit(f"“{take.name}” holds nothing of {sensor.name}", "take_id")
    kind = chain_kind_of(sensor, catalogue)
    sensing = sensing_of(session, sensor, kind, surroundings_of_take(take))
    results = results_of(session, desk.cache, recording, sensing)
    given = dict(results.chain.outputs)
    if body.output not in given:
        raise does_not_fit(f"{sensor.name} tells no {body.output} there", "output")
    try:
        found = loop_heard(results.whole(given[body.output]))
    except ValueError as error:
        raise does_not_fit(str(error), "take_id") from error
    session.commit()
    return LoopHeardOut(
        sample_s=found.sample_s,
        longest_s=found.longest_s,
        noise_u=finite(found.noise_u),
        zeros=found.zeros,
        samples=found.samples,
    )
