"""The time budget of a rig's program."""

from __future__ import annotations

from fastapi import APIRouter

from tickstone.api.desk import CatalogueDep, RigDep, SessionDep
from tickstone.api.problems import does_not_fit
from tickstone.api.schemas.timing import CostOut, PeriodOut, ProgramIn, TimeBudgetOut
from tickstone.core.timing.loop_budget import LoopBudget, Program
from tickstone.work.wiring import budget_of, program_of, unlike_defaults

router = APIRouter(prefix="/api/rigs", tags=["time budget"])


def _budget_out(budget: LoopBudget, program: Program) -> TimeBudgetOut:
    bottleneck = budget.bottleneck
    return TimeBudgetOut(
        program=ProgramIn.model_validate(program),
        costs=[CostOut.model_validate(cost) for cost in budget.costs],
        loop_s=budget.loop_s,
        other_way_s=budget.other_way_s,
        rate_hz=budget.rate_hz,
        blind_s=budget.blind_s,
        bottleneck=CostOut.model_validate(bottleneck) if bottleneck else None,
        periods=[PeriodOut.model_validate(period) for period in budget.periods],
        slots=[list(slot) for slot in budget.slots],
    )


@router.get("/{rig_id}/time-budget")
def read_time_budget(rig: RigDep, catalogue: CatalogueDep) -> TimeBudgetOut:
    """What each reading, print and delay costs per turn, and what follows."""
    return _budget_out(budget_of(rig, catalogue), program_of(rig))


@router.put("/{rig_id}/time-budget")
def change_program(
    rig: RigDep, body: ProgramIn, session: SessionDep, catalogue: CatalogueDep
) -> TimeBudgetOut:
    """Say what the program does besides reading."""
    try:
        program = body.program()
    except ValueError as error:
        field, _, _ = str(error).partition(":")
        raise does_not_fit(str(error), field) from error
    rig.program = unlike_defaults(program)
    session.commit()
    return _budget_out(budget_of(rig, catalogue), program)
