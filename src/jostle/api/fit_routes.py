"""Routes that hold the model of a group against what was observed of it: brought in a file, or lived."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Query, UploadFile
from pydantic import Field

from jostle.api.bounded import Ordinal, SeedNumber, content_of
from jostle.api.desk import Desk, DeskDep, PlanDep
from jostle.api.fit_view import ColumnView, FitView, fit_view
from jostle.api.live_routes import LiveDep
from jostle.api.problem import RESPONSES
from jostle.api.turns import LongRoute
from jostle.core.fitting.backtest import backtest
from jostle.core.fitting.fit import fit
from jostle.core.fitting.observed import Observed
from jostle.core.plan.plan import Plan, with_group
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.formats.observed_file import asked_units, guessed, read_observed
from jostle.formats.series_error import SeriesError
from jostle.live.observed import observed_of
from jostle.records.store import KeptPlan, NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}/fits", responses=RESPONSES, route_class=LongRoute)

Named = Annotated[str, Field(max_length=300)]


@router.post("/file")
def fit_file(
    group: str,
    kept: PlanDep,
    desk: DeskDep,
    file: Annotated[UploadFile, File(description="CSV or OpenMetrics text with a column for each quantity")],
    columns: Annotated[
        list[Named] | None, Form(description="COLUMN=QUANTITY, or COLUMN=QUANTITY:UNIT; `nothing` leaves one out")
    ] = None,
    per_instance: Annotated[bool, Form(description="Arrivals are told of one instance rather than of the group")] = False,
    take: Annotated[Ordinal | None, Form()] = None,
) -> FitView:
    """What a file tells of a group's own figures, and how far the past rehearsed is from what was."""
    content = content_of(file)
    plan = _plan_of(group, kept, desk, take)
    taken = [
        ColumnView(name=one.name, quantity=one.quantity, unit=one.unit, units=list(one.units))
        for one in guessed(content, kept.plan.zone, columns)
    ]
    try:
        observed, notes = read_observed(content, kept.plan.zone, columns, per_instance)
    except SeriesError as error:
        if not (asks := asked_units(error)):
            raise
        return FitView(columns=taken, asks=asks, notes=[], estimates=[], not_told=[], said=[], course=[])
    return _held_against(plan, group, observed, taken, [note.text for note in notes if note.of_gap], 1, desk)


@router.get("/lived")
def fit_lived(
    group: str,
    kept: PlanDep,
    desk: DeskDep,
    live: LiveDep,
    take: Annotated[Ordinal | None, Query()] = None,
    seed: Annotated[SeedNumber, Query()] = 2,
) -> FitView:
    """The same of what was lived, rehearsed under another seed."""
    plan = _plan_of(group, kept, desk, take)
    running = live.of(kept.id)
    life = None if running is None else running.live.lives.get(group)
    if running is None or life is None:
        raise NotKept(f"{group} does not live; bring a file instead")
    with live.still(running):
        observed = observed_of(life)
    if not observed.rows:
        raise NotKept(f"{group} has not lived for long enough for its meters to have spoken; wait a minute of its clock")
    return _held_against(plan, group, observed, [], [], seed, desk)


def _plan_of(group: str, kept: KeptPlan, desk: Desk, take: int | None) -> Plan:
    crew_of(kept.plan, group)
    return with_group(kept.plan, group, desk.take(kept, group, take).document)


def _held_against(
    plan: Plan, group: str, observed: Observed, columns: list[ColumnView], notes: list[str], seed: int, desk: Desk
) -> FitView:
    found = fit(observed, crew_of(plan, group))
    tried = backtest(plan, group, observed, seed, desk.rehearser) if observed.has("arrivals") else None
    return fit_view(columns, notes, found, plan.groups[group], tried)
