"""Controllers: tried on a plant, tuned by known ways or by hand, fitted to a step, kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter
from sqlalchemy.orm import Session

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
from tickstone.api.routers.machines import CAUTION, kept_out, takes_offered
from tickstone.api.schemas.bench import QuantityOut, inputs_out
from tickstone.api.schemas.control import (
    AdviceOut,
    AdviseIn,
    ColumnsIn,
    ControlBenchOut,
    DemonstratorOut,
    FitStepIn,
    HeardIn,
    KeepTuningIn,
    LoopHeardOut,
    MarginsOut,
    MeasuresOut,
    PlantFittedOut,
    PlantIn,
    PlantKindOut,
    ReadLoopOut,
    RelayOut,
    RunIn,
    RunOut,
    RunsOut,
    TunedOut,
    TuneIn,
    TuningRuleOut,
    WorkingOut,
)
from tickstone.api.schemas.machines import KeptOut, WordOut
from tickstone.core.control.by_hand import STAGES, advise
from tickstone.core.control.columns import held, only_good
from tickstone.core.control.controller import Controller
from tickstone.core.control.demonstrators import DEMONSTRATORS
from tickstone.core.control.fitting import MODELS, fit_step, scatter_about_course
from tickstone.core.control.heard import loop_heard
from tickstone.core.control.loop import Rig as LoopRig
from tickstone.core.control.loop import Run, as_seen, simulate
from tickstone.core.control.margins import Loop, growth, margins
from tickstone.core.control.measures import Measures, measures, of_run
from tickstone.core.control.plant import FloatArray, Plant
from tickstone.core.control.plants import PLANTS
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.control.tuning import TUNING_RULES
from tickstone.core.control.tuning.relay import swing_of
from tickstone.core.control.tuning.rule import PI, TERMS
from tickstone.core.display import finite
from tickstone.core.inputs import known_only, values_of, with_inputs
from tickstone.store.models import Rig, Sensor, Take
from tickstone.work.deciding.keeping import TUNING, in_use_of, keep, kept_of
from tickstone.work.filtering import channel_signal
from tickstone.work.look import results_of
from tickstone.work.sensing import sensing_of, surroundings_of_take

router = APIRouter(prefix="/api", tags=["control"])

_NEAR_EDGE, _HIGH_PEAK = 2.0, 2.0
_DRAWN = 800


@dataclass(frozen=True, slots=True)
class _Bench:
    kind: PlantKind
    plant: Plant
    rig: LoopRig


def _given(kind: type, values: Mapping[str, Any], field: str) -> Any:
    try:
        return with_inputs(kind, values)
    except ValueError as error:
        raise does_not_fit(str(error), f"{field}.{str(error).partition(':')[0]}") from error


def _bench(body: PlantIn) -> _Bench:
    """The plant and the rig that are meant; what is left out is as usual for the plant."""
    if body.plant not in PLANTS:
        raise does_not_fit(f"there is no plant “{body.plant}”; {', '.join(PLANTS)}", "plant")
    kind = PLANTS[body.plant]
    parameters = _given(kind.parameters, body.plant_inputs, "plant_inputs")
    usual = known_only(LoopRig, kind.usual)
    rig = _given(LoopRig, {**usual, **body.rig_inputs}, "rig_inputs")
    try:
        return _Bench(kind, kind.plant(parameters), rig)
    except ValueError as error:
        raise does_not_fit(str(error), "plant_inputs") from error


def _controller(bench: _Bench, values: Mapping[str, Any], field: str) -> Controller:
    usual = known_only(Controller, bench.kind.usual)
    controller: Controller = _given(Controller, {**usual, **values}, field)
    return controller


@router.get("/rigs/{rig_id}/control")
def control_bench(rig: RigDep, session: SessionDep) -> ControlBenchOut:
    """What can be steered, every setting, known ways, and what this rig has kept."""
    in_use = in_use_of(session, rig)
    return ControlBenchOut(
        plants=[
            PlantKindOut(
                name=one.name,
                label=one.label,
                what=one.what,
                caution=one.caution,
                inputs=inputs_out(one.parameters),
                measured=QuantityOut.of(one.measured),
                steered=QuantityOut.of(one.steered),
                usual=dict(one.usual),
            )
            for one in PLANTS.values()
        ],
        controller=inputs_out(Controller),
        rig=inputs_out(LoopRig),
        rules=[
            TuningRuleOut(
                name=one.name,
                label=one.label,
                for_what=one.for_what,
                source=one.source,
                terms=list(one.terms),
            )
            for one in TUNING_RULES.values()
        ],
        terms=_words(TERMS),
        stages=_words(STAGES),
        models=_words(MODELS),
        demonstrators=[DemonstratorOut.model_validate(one) for one in DEMONSTRATORS],
        kept=[
            kept_out(session, rig, row, in_use)
            for row in kept_of(session, rig)
            if row.slot.startswith(TUNING)
        ],
        takes=takes_offered(session, rig),
        caution=CAUTION,
    )


def _words(words: Mapping[str, str]) -> list[WordOut]:
    return [WordOut(name=name, label=label) for name, label in words.items()]


@router.post("/control/run")
def run_loop(body: RunIn) -> RunsOut:
    """Run up to four settings on one plant, side by side. Saves nothing."""
    bench = _bench(body)
    return RunsOut(
        runs=[
            _run(bench, values, f"settings.{number}", body)
            for number, values in enumerate(body.settings)
        ],
        measured=QuantityOut.of(bench.kind.measured),
        steered=QuantityOut.of(bench.kind.steered),
        adds_s=bench.rig.adds_s(),
    )


def _run(bench: _Bench, values: Mapping[str, Any], field: str, body: RunIn) -> RunOut:
    controller = _controller(bench, values, field)
    try:
        run = simulate(bench.plant, controller, bench.rig, body.seed)
    except ValueError as error:
        raise does_not_fit(str(error), "rig_inputs") from error
    told, why_not = None, ""
    try:
        told = of_run(run, bench.rig.load_at_s if bench.rig.load else float("inf"))
    except ValueError as error:
        why_not = str(error)
    found = _margins(bench, controller)
    every = _thinned(len(run.time_s), body.points)
    return RunOut(
        settings=values_of(controller),
        time_s=np.round(run.time_s[every], 6).tolist(),
        wanted=run.wanted[every].tolist(),
        true=run.true[every].tolist(),
        measured=[finite(value) for value in run.measured[every].tolist()],
        output=run.output[every].tolist(),
        measures=None if told is None else _measures_out(told),
        why_not=why_not,
        margins=found,
        says=_says(controller, run, told, found),
    )


def _thinned(count: int, points: int) -> slice:
    return slice(None, None, max(1, -(-count // points)))


def _margins(bench: _Bench, controller: Controller) -> MarginsOut:
    rig = bench.rig
    loop = Loop(
        bench.plant, controller.acting, controller.derivative_lag_s, rig.filter_lag_s, rig.sample_s
    )
    found = margins(loop)
    grows = growth(loop, rig.sample_s)
    return MarginsOut(
        gain=finite(found.gain),
        gain_down=finite(found.gain_down),
        phase_rad=finite(found.phase_rad),
        delay_s=finite(found.delay_s),
        peak=finite(found.peak),
        growth=grows,
        is_stable=grows < 1.0,
    )


def _measures_out(told: Measures) -> MeasuresOut:
    return MeasuresOut(
        **{
            name: value if isinstance(value, int) else finite(value)
            for name, value in asdict(told).items()
        }
    )


def _says(controller: Controller, run: Run, told: Measures | None, found: MarginsOut) -> list[str]:
    """What is to be said of a loop besides its figures."""
    said = []
    if not found.is_stable:
        said.append("Not stable: its swings grow from reading to reading.")
    elif found.gain is not None and found.gain < _NEAR_EDGE:
        said.append(f"Near the edge: {found.gain:.2g} times the gain, and it swings on by itself.")
    if controller.whole_numbers and controller.counted.kp != controller.kp:
        said.append(f"Kept in whole numbers, P of {controller.kp:g} is {controller.counted.kp:g}.")
    if told is not None and told.clamped > 0.2:
        said.append(f"It stands at an end for {100 * told.clamped:.0f} % of the time.")
    if np.any(~np.isfinite(run.true)):
        said.append("It ran away beyond all numbers.")
    return said


@router.post("/control/tune")
def tune_loop(body: TuneIn) -> TunedOut:
    """Gains by a known way, for the plant as its rig sees it. Saves nothing."""
    bench = _bench(body)
    if body.rule not in TUNING_RULES:
        raise does_not_fit(f"there is no way “{body.rule}”; {', '.join(TUNING_RULES)}", "rule")
    rule = TUNING_RULES[body.rule]
    usual = PI if bench.plant.integrators < 2 else rule.terms[-1]
    try:
        told = rule.tune(as_seen(bench.plant, bench.rig), body.terms or usual, body.tau_c_s)
    except ValueError as error:
        raise does_not_fit(str(error), "rule") from error
    return TunedOut(
        kp=told.gains.kp,
        ki=told.gains.ki,
        kd=told.gains.kd,
        source=rule.source,
        working=[WorkingOut(what=name, value=finite(value)) for name, value in told.working],
    )


@router.post("/control/advise")
def advise_by_hand(body: AdviseIn) -> AdviceOut:
    """What to do next in the order of tuning by hand, from a run with these settings."""
    bench = _bench(body)
    controller = _controller(bench, body.settings, "settings")
    try:
        run = simulate(bench.plant, controller, bench.rig)
        told = of_run(run, bench.rig.load_at_s if bench.rig.load else float("inf"))
        advice = advise(
            body.stage,
            controller.counted,
            told,
            controller.high - controller.low,
            bench.plant.integrators == 2,
        )
    except ValueError as error:
        raise does_not_fit(str(error), "stage") from error
    gains = advice.gains
    return AdviceOut(
        stage=advice.stage,
        says=advice.says,
        do=advice.do,
        watch=advice.watch,
        settings=None if gains is None else {"kp": gains.kp, "ki": gains.ki, "kd": gains.kd},
    )


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
    every = _thinned(len(fit.time_s), _DRAWN)
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
    every = _thinned(len(time_s), _DRAWN)
    wanted = columns.get("wanted", np.full(len(time_s), np.nan))
    return ReadLoopOut(
        measures=None if told is None else _measures_out(told),
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


@router.post("/rigs/{rig_id}/tunings", status_code=201)
def keep_tuning(rig: RigDep, body: KeepTuningIn, session: SessionDep) -> KeptOut:
    """Go by this controller from now on. Earlier ones are kept, and can be gone back to."""
    bench = _bench(
        PlantIn(plant=body.plant, plant_inputs=body.plant_inputs, rig_inputs=body.rig_inputs)
    )
    controller = _controller(bench, body.settings, "settings")
    own = {sensor.id for sensor in rig.sensors}
    if not own.issuperset(body.sensor_ids):
        raise does_not_fit("a sensor that is not on this rig", "sensor_ids")
    found = _margins(bench, controller)
    document = {
        "plant": body.plant,
        "plant_inputs": dict(body.plant_inputs),
        "rig_inputs": values_of(bench.rig),
        "settings": values_of(controller),
        "margins": found.model_dump(),
    }
    row = keep(session, rig, TUNING + body.plant, body.name, document, body.sensor_ids, body.note)
    session.commit()
    return kept_out(session, rig, row, in_use_of(session, rig))
