"""Controllers: tried on a plant, tuned by known ways or by hand, kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from fastapi import APIRouter

from tickstone.api.control_out import measures_out, thinned
from tickstone.api.desk import RigDep, SessionDep
from tickstone.api.problems import does_not_fit
from tickstone.api.routers.machines import CAUTION, kept_out, takes_offered
from tickstone.api.schemas.bench import QuantityOut, inputs_out
from tickstone.api.schemas.control import (
    AdviceOut,
    AdviseIn,
    ControlBenchOut,
    DemonstratorOut,
    KeepTuningIn,
    MarginsOut,
    PlantIn,
    PlantKindOut,
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
from tickstone.core.control.controller import Controller
from tickstone.core.control.demonstrators import DEMONSTRATORS
from tickstone.core.control.fitting import MODELS
from tickstone.core.control.loop import Rig as LoopRig
from tickstone.core.control.loop import Run, as_seen, simulate
from tickstone.core.control.margins import Loop, growth, margins
from tickstone.core.control.measures import Measures, of_run
from tickstone.core.control.plant import Plant
from tickstone.core.control.plants import PLANTS
from tickstone.core.control.plants.kind import PlantKind
from tickstone.core.control.tuning import TUNING_RULES
from tickstone.core.control.tuning.rule import PI, TERMS
from tickstone.core.display import finite
from tickstone.core.inputs import known_only, values_of, with_inputs
from tickstone.work.deciding.keeping import TUNING, in_use_of, keep, kept_of

router = APIRouter(prefix="/api", tags=["control"])

_NEAR_EDGE = 2.0


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
    every = thinned(len(run.time_s), body.points)
    return RunOut(
        settings=values_of(controller),
        time_s=np.round(run.time_s[every], 6).tolist(),
        wanted=run.wanted[every].tolist(),
        true=run.true[every].tolist(),
        measured=[finite(value) for value in run.measured[every].tolist()],
        output=run.output[every].tolist(),
        measures=None if told is None else measures_out(told),
        why_not=why_not,
        margins=found,
        says=_says(controller, run, told, found),
    )


def _margins(bench: _Bench, controller: Controller) -> MarginsOut:
    rig = bench.rig
    loop = Loop(
        bench.plant, controller.acting, controller.derivative_lag_s, rig.filter_lag_s, rig.sample_s
    )
    found = margins(loop)
    try:
        grows = growth(loop, rig.sample_s)
    except ValueError as error:
        raise does_not_fit(str(error), "plant_inputs.delay_s") from error
    return MarginsOut(
        gain=finite(found.gain),
        gain_down=finite(found.gain_down),
        phase_rad=finite(found.phase_rad),
        delay_s=finite(found.delay_s),
        peak=finite(found.peak),
        growth=grows,
        is_stable=grows < 1.0,
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
