"""Routes for what was spent: by day and hour and for what, what is likely, budgets, files out."""

from contextlib import nullcontext
from datetime import date, datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile
from pydantic import BaseModel, Field

from jostle.api.account_desk import account_of, books_of
from jostle.api.bounded import content_of
from jostle.api.costs_view import CostsView, Curve, costs_view, curve
from jostle.api.desk import PlanDep
from jostle.api.guard import policy_of_page
from jostle.api.live_routes import LiveDep
from jostle.api.made_of_view import MadeOf, made_of
from jostle.api.problem import RESPONSES
from jostle.api.reasons_view import DifferenceView, Reasons, difference_view, reasons_view
from jostle.api.seen import Part, changed, read
from jostle.api.turns import LongRoute
from jostle.core.costs.part import By
from jostle.core.plan.budget import Budget
from jostle.core.plan.plan import read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.wall import FIRST_YEAR, LAST_YEAR
from jostle.formats.costs_csv import Form, write_costs
from jostle.formats.month_html import write_month
from jostle.formats.past_csv import read_past
from jostle.records.past_store import PastStore
from jostle.records.store import KeptPlan, NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/costs", responses=RESPONSES, route_class=LongRoute)
FIRST_DAY, LAST_DAY = date(FIRST_YEAR, 1, 1), date(LAST_YEAR, 12, 31)
Chosen = Annotated[
    date | None, Query(ge=FIRST_DAY, le=LAST_DAY, description="A day such as 2025-07-10, on the plan's wall clock")
]


class Budgets(BaseModel):
    """The budgets of a plan, in place of those that it had."""

    budgets: list[Budget] = Field(max_length=100)


@router.get("")
def show_costs(
    kept: PlanDep,
    desk: LiveDep,
    begin: Chosen = None,
    end: Chosen = None,
    beside: Annotated[date | None, Query(ge=FIRST_DAY, le=LAST_DAY, description="First of as many days to compare with")] = None,
) -> CostsView | None:
    """What was spent from one day to another, both included; null where nothing lives and nothing of the past was brought."""
    _in_order(begin, end)
    account = account_of(kept, desk, begin, end)
    return None if account is None else costs_view(account, kept.plan.budgets, beside)


@router.post("/past", status_code=201)
def bring_past(
    kept: PlanDep, desk: LiveDep, file: Annotated[UploadFile, File(description="CSV: hour, group, count, amount")]
) -> CostsView | None:
    """Bring what was paid for before the groups lived here, hour by hour; hours that were brought before are replaced."""
    PastStore(desk.desk.store).bring(kept.id, read_past(content_of(file), kept.plan.zone))
    return show_costs(kept, desk)


@router.delete("/past", status_code=204)
def drop_past(kept: PlanDep, desk: LiveDep) -> None:
    """Take out all that was brought."""
    PastStore(desk.desk.store).drop(kept.id)


@router.get("/month.html", response_class=Response)
def month_page(
    kept: PlanDep,
    desk: LiveDep,
    month: Annotated[str, Query(pattern=r"^(19[7-9]\d|2[01]\d\d)-(0[1-9]|1[0-2])$", description="Such as 2025-07")],
) -> Response:
    """What a month cost, as one page that prints."""
    begin = date.fromisoformat(f"{month}-01")
    end = (begin + timedelta(days=31)).replace(day=1) - timedelta(days=1)
    account = account_of(kept, desk, begin, end)
    if account is None:
        raise NotKept("nothing was spent yet")
    text = write_month(kept.plan.name, f"{begin:%B %Y}", costs_view(account, kept.plan.budgets).model_dump())
    return Response(text, media_type="text/html", headers={"Content-Security-Policy": policy_of_page(text)})


@router.get("/reasons")
def show_reasons(kept: PlanDep, desk: LiveDep, begin: Chosen = None, end: Chosen = None) -> Reasons:
    """What was needed of it, and what sleep and spot kept back; it takes longer than the rest."""
    _in_order(begin, end)
    with desk.still(desk.required(kept.id)) as live:
        return reasons_view(live, begin, end)


@router.get("/difference")
def show_difference(
    kept: PlanDep,
    desk: LiveDep,
    group: Annotated[str, Query(max_length=200)],
    day: Annotated[date, Query(description="A day that was lived, such as 2025-07-10")],
) -> DifferenceView:
    """Why a day of a group came to another amount than was rehearsed; it is played with one thing more in place each time."""
    with desk.still(desk.required(kept.id)) as live:
        first, last = (datetime.fromtimestamp(at, live.plan.zone).date() for at in (live.first, live.now))
        if not first <= day <= last:
            raise PlanError([Problem(("day",), str(day), f"was not lived; there are {first} to {last}")])
        return difference_view(live, group, day)


def _in_order(begin: date | None, end: date | None) -> None:
    if begin and end and end < begin:
        raise PlanError([Problem(("end",), str(end), f"lies before {begin}, the first day")])


@router.get("/made-of")
def show_made_of(
    kept: PlanDep,
    desk: LiveDep,
    begin: Chosen = None,
    end: Chosen = None,
    group: Annotated[str | None, Query(max_length=200)] = None,
    by: Annotated[By | None, Query(description="In which way the amount is parted that `part` is a part of")] = None,
    part: Annotated[str | None, Query(max_length=200)] = None,
) -> MadeOf:
    """What an amount is made of, instance by instance."""
    _in_order(begin, end)
    books = books_of(kept, desk, begin, end)
    if books is None:
        raise NotKept("nothing was spent yet")
    first, today = books.days
    return made_of(books, begin or first, end or today, group, by, part)


@router.get("/curve")
def show_curve(kept: PlanDep, desk: LiveDep) -> Curve:
    """How the sum grows, and what it is likely to come to; it takes longer than the rest."""
    running = desk.required(kept.id)
    with desk.still(running) as live:
        key = (int(live.now // 3600), len(live.log), kept.revision)
        if running.curve is None or running.curve[0] != key:
            account = account_of(kept, desk, past=False)
            assert account is not None
            running.curve = key, curve(live, account, kept.plan.budgets)
        found: Curve = running.curve[1]
        return found


@router.get("/file.csv", response_class=Response)
def write_file(kept: PlanDep, desk: LiveDep, form: Form = "days") -> Response:
    """What was spent in the hours that have ended, as CSV."""
    running = desk.of(kept.id)
    if running is None and desk.ledger.span(kept.id) is None:
        raise NotKept("nothing was spent yet")
    with nullcontext() if running is None else desk.still(running) as live:
        rows = desk.ledger.told(kept.id, kept.plan.zone, form, live)
        text = write_costs(rows, form, kept.plan.name, kept.plan.currency)
    name = f"costs-{form}.csv"
    return Response(text, media_type="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/budgets")
def show_budgets(kept: Annotated[KeptPlan, read("budgets")]) -> list[Budget]:
    """The budgets, whether or not anything was spent yet."""
    return kept.plan.budgets


@router.put("/budgets")
def set_budgets(wanted: Budgets, part: Annotated[Part, changed("budgets")]) -> list[Budget]:
    """Put other budgets in the place of those that there are."""
    document = part.plan.model_dump(mode="json") | {"budgets": [one.model_dump(mode="json") for one in wanted.budgets]}
    return part.keep(read_plan(document)).budgets
