"""Routes for what goes out of a take as a file, and what comes in as one."""

from functools import partial

from fastapi import APIRouter, Request, Response

from jostle.api.bounded import Ordinal
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.problem import RESPONSES
from jostle.api.turns import in_turn
from jostle.core.plan.calendar import CalendarEntry
from jostle.core.plan.plan import with_group
from jostle.formats.calendar_ics import read_calendar, write_calendar
from jostle.formats.plan_file import write_plan
from jostle.formats.series_out import write_series

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}", responses=RESPONSES)


@router.get("/takes/{number}/calendar.ics", response_class=Response)
def calendar_file(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> Response:
    """A take's calendar as an iCalendar file."""
    take = desk.store.take(kept.id, group, number)
    entries = with_group(kept.plan, group, take.document).groups[group].calendar
    headers = {"Content-Disposition": f'attachment; filename="{group}.ics"'}
    return Response(write_calendar(entries, group, kept.plan.zone), media_type="text/calendar", headers=headers)


@router.get("/takes/{number}/plan.yaml", response_class=Response)
def plan_file(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> Response:
    """The plan with a take in place of its group, as a plan file."""
    take = desk.store.take(kept.id, group, number)
    headers = {"Content-Disposition": f'attachment; filename="{group}.yaml"'}
    return Response(write_plan(with_group(kept.plan, group, take.document)), media_type="application/yaml", headers=headers)


@router.get("/takes/{number}/series.csv", response_class=Response)
def series_file(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> Response:
    """The series of a take as CSV."""
    take = desk.store.take(kept.id, group, number)
    played, _ = desk.changed(kept, group, take, [], None)
    headers = {"Content-Disposition": f'attachment; filename="{group}-take-{number}.csv"'}
    return Response(write_series(played.rehearsal), media_type="text/csv", headers=headers)


@router.post("/calendar")
async def read_calendar_file(group: str, request: Request, kept: PlanDep) -> list[CalendarEntry]:
    """The entries of an iCalendar file, to be set as the group's calendar by a change. Nothing is kept."""
    return await in_turn(partial(read_calendar, await request.body(), kept.plan.zone))
