"""Routes for what is saved of a group, and for takes laid side by side."""

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.guard import policy_of_page
from jostle.api.problem import RESPONSES
from jostle.api.verdict_view import VerdictView, verdict_view
from jostle.core.journal.comparison import Pair, compared
from jostle.core.plan.plan import with_group
from jostle.formats.plan_file import group_difference
from jostle.formats.report_html import write_report

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}", responses=RESPONSES)


class ArrangementLine(BaseModel):
    number: int
    note: str
    created: str
    in_use: bool = Field(description="Whether the group runs as this one says")


class NewArrangement(BaseModel):
    take: Ordinal
    note: str = Field(default="", max_length=500)
    after: Ordinal | None = Field(
        default=None, description="The newest arrangement that is to be saved over; the one that the take came from if left out"
    )


class Restored(BaseModel):
    """The arrangement that an older one was restored as, and the take that shows it."""

    arrangement: int
    take: int


class Comparison(BaseModel):
    """Two takes side by side; the differences of the second are those from the first."""

    first: int
    first_change: str
    second: int
    second_change: str
    sentences: list[Pair]
    before: VerdictView
    after: VerdictView


@router.get("/arrangements")
def list_arrangements(group: str, kept: PlanDep, desk: DeskDep) -> list[ArrangementLine]:
    """The saved arrangements of a group, newest first; the newest is in use."""
    found = desk.store.arrangements(kept.id, group)
    return [ArrangementLine(number=a.number, note=a.note, created=a.created, in_use=a is found[0]) for a in found]


@router.post("/arrangements", status_code=201)
def save_arrangement(group: str, wanted: NewArrangement, kept: PlanDep, desk: DeskDep) -> ArrangementLine:
    """Save a take as the group's next arrangement, which is in use from then on. Saved ones never change."""
    take = desk.store.take(kept.id, group, wanted.take)
    after = take.arrangement if wanted.after is None else wanted.after
    desk.store.save_arrangement(kept.id, group, take.document, wanted.note or take.change, after, take.number)
    return list_arrangements(group, desk.store.plan(kept.id), desk)[0]


@router.post("/arrangements/{number}/restore", status_code=201)
def restore_arrangement(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> Restored:
    """Make an older arrangement the newest again, as a new one, and a take of it."""
    saved = desk.store.arrangement(kept.id, group, number)
    made = desk.store.save_arrangement(kept.id, group, saved.document, f"as arrangement {number}: {saved.note}")
    take = desk.open_newest(desk.store.plan(kept.id), group)
    return Restored(arrangement=made, take=take.number)


@router.get("/arrangements/{number}/report.html", response_class=Response)
def report(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> Response:
    """An arrangement on one page that prints well, rehearsed under seed 1."""
    saved = desk.store.arrangement(kept.id, group, number)
    played = desk.play(kept, group, saved.document, 1)
    page = write_report(played.rehearsal, played.verdict, f"{group}, arrangement {number}", saved.note)
    return Response(page, media_type="text/html", headers={"Content-Security-Policy": policy_of_page(page)})


@router.get("/arrangements/{number}/difference/{other}", response_class=Response)
def difference(group: str, number: Ordinal, other: Ordinal, kept: PlanDep, desk: DeskDep) -> Response:
    """How two arrangements differ, line by line of the plan file, for a review."""
    saved = [desk.store.arrangement(kept.id, group, one) for one in (number, other)]
    plans = [with_group(kept.plan, group, one.document) for one in saved]
    return Response(group_difference(group, plans, (number, other)), media_type="text/plain; charset=utf-8")


@router.get("/comparison")
def compare(group: str, first: Ordinal, second: Ordinal, kept: PlanDep, desk: DeskDep) -> Comparison:
    """Two takes side by side: the sentences that differ, and the figures of both."""
    takes = [desk.store.take(kept.id, group, number) for number in (first, second)]
    plays = [desk.changed(kept, group, take, [], None)[0] for take in takes]
    pages = [desk.page(kept, group, take) for take in takes]
    views = [verdict_view(p.rehearsal, p.verdict, (first, plays[0].verdict.figures)) for p in plays]
    return Comparison(
        first=first,
        first_change=takes[0].change,
        second=second,
        second_change=takes[1].change,
        sentences=compared(*pages),
        before=views[0],
        after=views[1],
    )
