"""Routes for searches: begun, watched, stopped, looked at again, and what they found made a take."""

from typing import Annotated

from fastapi import APIRouter, Depends, Header, Query, Request
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.problem import RESPONSES
from jostle.api.rehearsal_routes import TakeLine, list_takes
from jostle.api.tune_desk import MOST_SETS, Asked, FoundKept, TuneDesk
from jostle.api.tune_view import SearchView, VariedView, chosen_space, said_of, search_view, set_of, space_view
from jostle.core.journal.change import say_change
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.tuning.nudge import Nudge, nudges
from jostle.core.tuning.space import MOST_VARIED, applied, checked_space, usual_space
from jostle.provider.stream import EventStream

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}/searches", responses=RESPONSES)


def tune_desk_of(request: Request) -> TuneDesk:
    desk: TuneDesk = request.app.state.tune_desk
    return desk


TuneDep = Annotated[TuneDesk, Depends(tune_desk_of)]


class SearchLine(BaseModel):
    number: int
    created: str
    looked_at: int
    said: str


class Started(BaseModel):
    number: int


class GoOn(BaseModel):
    sets: int = Field(default=200, ge=2, le=MOST_SETS, description="So many more")


class MakeTake(BaseModel):
    set: int = Field(ge=1, le=2000)


@router.get("/space")
def show_space(
    group: str,
    kept: PlanDep,
    desk: DeskDep,
    take: Ordinal | None = None,
    vary: Annotated[list[Annotated[str, Field(max_length=200)]] | None, Query(max_length=MOST_VARIED)] = None,
) -> list[VariedView]:
    """What may vary of a take, in the ranges that make sense for it: settings by their paths, or what its policies have."""
    document = desk.take(kept, group, take).document
    plan = with_group(kept.plan, group, document)
    space = chosen_space(plan, group, vary) if vary else usual_space(plan.groups[group])
    return space_view(plan, group, checked_space(space, plan, group) if space else [])


@router.get("")
def list_searches(group: str, kept: PlanDep, desk: TuneDep) -> list[SearchLine]:
    """Searches of a group, newest first."""
    crew_of(kept.plan, group)
    return [
        SearchLine(number=one.number, created=one.created, looked_at=len(found.sets), said=said_of(found, kept.plan.currency))
        for one, found in desk.all(kept.id, group)
    ]


@router.post("", status_code=201)
def begin(group: str, asked: Asked, kept: PlanDep, desk: DeskDep, tune: TuneDep) -> Started:
    """Begin a search from a take."""
    take = desk.take(kept, group, asked.take)
    plan = with_group(kept.plan, group, take.document)
    space = checked_space(asked.vary if asked.vary is not None else usual_space(plan.groups[group]), plan, group)
    found = FoundKept(document=plan.groups[group].model_dump(mode="json"), take=take.number, space=space)
    return Started(number=tune.begin(kept.plan, kept.id, group, asked, found))


@router.get("/{number}")
def show_search(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep, tune: TuneDep, set: int | None = None) -> SearchView:
    """How far a search is, and what it found; `set` looks at another set than the chosen one."""
    running = tune.of(kept.id, group, number)
    return search_view(number, group, kept, desk, running, set)


@router.post("/{number}/stop")
def stop(group: str, number: Ordinal, kept: PlanDep, tune: TuneDep) -> Started:
    """Stop a search; it keeps what it has."""
    tune.of(kept.id, group, number).stop = True
    return Started(number=number)


@router.post("/{number}/resume", status_code=201)
def resume(group: str, number: Ordinal, more: GoOn, kept: PlanDep, tune: TuneDep) -> Started:
    """Go on with a search that has ended, from what it found, for so many sets more."""
    crew_of(kept.plan, group)
    tune.go_on(kept.plan, kept.id, group, number, more.sets)
    return Started(number=number)


@router.post("/{number}/take", status_code=201)
def make_take(group: str, number: Ordinal, wanted_set: MakeTake, kept: PlanDep, desk: DeskDep, tune: TuneDep) -> list[TakeLine]:
    """Keep a set as the next take."""
    found = tune.of(kept.id, group, number).found
    judged = set_of(found, wanted_set.set)
    document = applied(found.document, judged.values)
    take = desk.take(kept, group, found.take)
    played = desk.play(kept, group, document, take.seed)
    before = desk.page(kept, group, take)
    desk.keep(kept, group, take, played, f"search {number}: {say_change(before, played.page)}"[:400])
    return list_takes(group, kept, desk)


@router.get("/{number}/trouble")
def show_trouble(group: str, number: Ordinal, kept: PlanDep, tune: TuneDep, set: Annotated[int, Query(ge=1)]) -> list[Nudge]:
    """How close is trouble for a set: what it still holds against, and what breaks it when."""
    found = tune.of(kept.id, group, number).found
    plan = with_group(kept.plan, group, applied(found.document, set_of(found, set).values))
    return nudges(plan, group, Rehearser())


@router.get("/{number}/events", response_class=EventStream)
def stream(
    group: str,
    number: Ordinal,
    kept: PlanDep,
    tune: TuneDep,
    last: Annotated[int | None, Header(alias="Last-Event-ID", ge=0)] = None,
) -> EventStream:
    """CloudEvents over server-sent events: one after each set, until the search has ended."""
    running = tune.of(kept.id, group, number)
    ended = [False]

    def goes_on() -> bool:
        # The last event tells of the end itself.
        was, ended[0] = ended[0], running.found.ended
        return not was

    told = running.signal.events(
        "search.looked",
        f"/api/plans/{kept.id}/groups/{group}/searches/{number}",
        last,
        lambda: {"sets": len(running.found.sets)},
        goes_on,
    )
    return EventStream(told, headers={"Cache-Control": "no-store"})
