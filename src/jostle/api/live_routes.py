"""Routes for what lives: the clock, what hands do, the journal, and a stream that says when something has happened."""

import math
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Body, Depends, Header, Query, Request
from pydantic import BaseModel, Field, ValidationError

from jostle.api.bounded import Instant
from jostle.api.desk import PlanDep
from jostle.api.live_desk import SEED, LiveDesk, Running
from jostle.api.live_journal import Line, Standing, journal, standing
from jostle.api.live_stream import journal_events
from jostle.api.live_view import Days, GroupLife, LiveView, days_of, group_life, live_view
from jostle.api.outlook_view import OutlookView, outlook_view
from jostle.api.problem import RESPONSES
from jostle.api.rehearsal_routes import MomentView
from jostle.core.journal.life import Life as LifeTold
from jostle.core.journal.life import life_of
from jostle.core.journal.moment import moment
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.wall import FIRST_YEAR, LAST_YEAR
from jostle.live.hand import GroupHand, PutToWork
from jostle.live.live import LONGEST, Begun
from jostle.provider.stream import EventStream
from jostle.records.store import KeptPlan, NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/live", responses=RESPONSES)


def live_desk_of(request: Request) -> LiveDesk:
    desk: LiveDesk = request.app.state.live_desk
    return desk


LiveDep = Annotated[LiveDesk, Depends(live_desk_of)]


class Beginning(BaseModel):
    """When a plan begins to live, its start if left out, and how far it is to have come at once."""

    at: str | None = Field(default=None, max_length=40, description="On the plan's wall clock, such as 2025-07-01T00:00")
    until: str | None = Field(default=None, max_length=40)
    days: float = Field(default=31.0, gt=0, le=LONGEST)
    left_alone: list[str] = Field(default_factory=list, max_length=200, description="Groups that the keeper leaves alone")


class Looked(BaseModel):
    """What is shown beside the groups as they stand, all of it of one instant."""

    group: str | None = Field(
        default=None,
        max_length=200,
        description="The one shown whole, or single instances; the first group where there is no such",
    )
    instance: int | None = Field(
        default=None, ge=0, le=10**9, description="One of its instances, whose life is told where it is there"
    )
    hours: float | None = Field(default=None, gt=0, le=LONGEST * 24, description="So many hours of the journal; none if left out")
    of: str | None = Field(default=None, max_length=200, description="Whose journal; that of all if left out")
    changes: bool = Field(default=False, description="Only changes, and what kept the count from one")
    before: Instant | None = Field(default=None, description="ms since 1970: only what happened before; the last of a page")


LookedDep = Annotated[Looked, Query()]


class ClockChange(BaseModel):
    pace: float | None = Field(default=None, ge=1, le=3600, description="Seconds of its time in one of ours")
    running: bool | None = None


class Step(BaseModel):
    """To the next change of a count, by so many seconds, or to an instant."""

    to: Literal["next change"] | None = None
    by: float | None = Field(default=None, gt=0, le=LONGEST * 86400)
    at: Instant | None = Field(default=None, description="ms since 1970")


class Laid(BaseModel):
    """What a hand did, as the journal has it."""

    at: float
    group: str
    said: str


@router.get("")
def show_live(kept: PlanDep, desk: LiveDep, looked: LookedDep) -> LiveView | None:
    """All groups as they stand, one of them whole, and the journal; null where the plan does not live."""
    running = desk.of(kept.id)
    return None if running is None else _view(kept, desk, running, looked)


@router.post("", status_code=201)
def begin(wanted: Beginning, kept: PlanDep, desk: LiveDep) -> LiveView:
    """Begin to keep the groups of a plan on the stand-in."""
    zone = kept.plan.zone
    at = _moment(wanted.at, "at") or kept.plan.start.astimezone(zone).replace(tzinfo=None)
    until = _moment(wanted.until, "until")
    unknown = [name for name in wanted.left_alone if name not in kept.plan.groups]
    if unknown:
        raise PlanError([Problem(("left_alone",), unknown[0], f"is no group; there is: {', '.join(kept.plan.groups)}")])
    begun = Begun(at=at.replace(tzinfo=zone), days=wanted.days, seed=SEED, left_alone=wanted.left_alone)
    running = desk.begin(kept, begun, until.replace(tzinfo=zone).timestamp() if until else None)
    return _view(kept, desk, running, Looked())


@router.delete("", status_code=204)
def end(kept: PlanDep, desk: LiveDep) -> None:
    """End it: the instances of the stand-in are gone, and what was lived with them. The arrangements stay."""
    desk.end(kept.id)


@router.put("/clock")
def set_clock(wanted: ClockChange, kept: PlanDep, desk: LiveDep, looked: LookedDep) -> LiveView:
    """Let the clock run, at a pace, or have it pause."""
    running = desk.required(kept.id)
    desk.set_clock(running, wanted.pace, wanted.running)
    return _view(kept, desk, running, looked)


@router.post("/steps")
def step(wanted: Step, kept: PlanDep, desk: LiveDep, looked: LookedDep) -> LiveView:
    """Go on at once."""
    running = desk.required(kept.id)
    with desk.still(running) as live:
        until = live.next_change() if wanted.to else live.now + wanted.by if wanted.by else (wanted.at or 0.0) / 1000
        if until is None:
            raise NotKept("no count changes within a day from now")
        if not live.now < until <= live.ends:
            last = next(iter(live.lives.values())).clock.at(live.ends).isoformat()
            raise PlanError([Problem(("at",), wanted.at, f"lies before now, or after {last}, when what lives here ends")])
        desk.step(running, until)
    return _view(kept, desk, running, looked)


@router.get("/journal")
def list_journal(
    kept: PlanDep,
    desk: LiveDep,
    group: Annotated[str | None, Query(max_length=200)] = None,
    changes: Annotated[bool, Query(description="Only changes, and what kept the count from one")] = False,
    hours: Annotated[float, Query(gt=0, le=LONGEST * 24, description="So many hours back")] = 12.0,
    before: Annotated[Instant | None, Query(description="ms since 1970: only what happened before; the last of a page")] = None,
) -> list[Line]:
    """What happened, newest first, two hundred lines at the most; what is older is asked for with `before`."""
    with desk.still(desk.required(kept.id)) as live:
        if group is not None:
            live.life(group)
        now, stood = live.now, standing(live, group)
    return _lines(stood, now, changes, hours, before)


@router.get("/days")
def list_days(kept: PlanDep, desk: LiveDep) -> list[Days]:
    """Yesterday, now and tomorrow of each group that lives; none where nothing does."""
    if desk.of(kept.id) is None:
        return []
    with desk.still(desk.required(kept.id)) as live:
        return [days_of(life) for life in live.lives.values()]


@router.get("/groups/{group}")
def show_group(group: str, kept: PlanDep, desk: LiveDep) -> GroupLife:
    """One group with its instances and its policies as they stand."""
    with desk.still(desk.required(kept.id)) as live:
        return group_life(live.life(group))


@router.get("/groups/{group}/moment")
def explain(
    group: str, kept: PlanDep, desk: LiveDep, at: Annotated[Instant | None, Query(description="ms since 1970")] = None
) -> MomentView | None:
    """Why the count was what it was at a time, or is now."""
    with desk.still(desk.required(kept.id)) as live:
        life = live.life(group)
        seconds = life.time if at is None else min(life.time, at / 1000 - life.clock.first)
        found = moment(life.record(life.leg_at(seconds)), seconds)
        if found is None:
            return None
        times = [None if t is None else (life.clock.first + t) * 1000 for t in (found.seconds, found.previous, found.following)]
        return MomentView(at=times[0] or 0.0, previous=times[1], following=times[2], moment=found, outlook="")


@router.get("/groups/{group}/instances/{number}")
def show_instance(group: str, number: int, kept: PlanDep, desk: LiveDep) -> LifeTold:
    """The life of an instance so far."""
    with desk.still(desk.required(kept.id)) as live:
        found = life_of(live.life(group).record(), number - 1)
    if found is None:
        raise NotKept(f"there is no instance {number} of {group}")
    return found


@router.post("/groups/{group}/hands", status_code=201)
def lay_hand(group: str, hand: Annotated[GroupHand, Body()], kept: PlanDep, desk: LiveDep) -> Laid:
    """Do one thing by hand, now."""
    running = desk.required(kept.id)
    try:
        done = desk.lay(running, group, hand.model_dump(mode="json", by_alias=True))
    except ValidationError as error:
        raise PlanError([Problem((str(e["loc"][-1]),), e.get("input"), e["msg"]) for e in error.errors()]) from None
    limits = running.live.life(group).leg.crew.group
    return Laid(at=done.at * 1000, group=group, said=done.text + done.act.beyond(limits.minimum, limits.maximum))


@router.post("/groups/{group}/arrangements/{number}/work", status_code=201)
def put_to_work(group: str, number: int, kept: PlanDep, desk: LiveDep) -> Laid:
    """Have a saved arrangement run from now on."""
    arrangement = desk.desk.store.arrangement(kept.id, group, number)
    hand = {"act": "put to work", "arrangement": number, "document": arrangement.document}
    done = desk.lay(desk.required(kept.id), group, hand)
    return Laid(at=done.at * 1000, group=group, said=done.text)


@router.get("/groups/{group}/arrangements/{number}/outlook")
def foretell(group: str, number: int, kept: PlanDep, desk: LiveDep) -> OutlookView:
    """What putting a saved arrangement to work will bring, rehearsed from how things stand; nothing is done."""
    arrangement = desk.desk.store.arrangement(kept.id, group, number)
    hand = PutToWork(act="put to work", arrangement=number, document=arrangement.document)
    with desk.still(desk.required(kept.id)) as live:
        return outlook_view(live.life(group), hand)


@router.get("/events", response_class=EventStream)
def stream(
    kept: PlanDep,
    desk: LiveDep,
    last: Annotated[int | None, Header(alias="Last-Event-ID", ge=0)] = None,
) -> EventStream:
    """CloudEvents over server-sent events: one as soon as something has happened since the last that was seen."""
    running = desk.required(kept.id)
    told = running.signal.events(
        "live.went-on",
        f"/api/plans/{kept.id}/live",
        last,
        lambda: {"now": running.live.now * 1000, "pace": running.pace, "running": running.running},
        lambda: desk.lives(kept.id, running),
    )
    return EventStream(told, headers={"Cache-Control": "no-store"})


@router.get("/journal/events", response_class=EventStream)
def stream_journal(
    kept: PlanDep,
    desk: LiveDep,
    last: Annotated[int | None, Header(alias="Last-Event-ID", ge=0, description="ms since 1970 of the last line heard")] = None,
) -> EventStream:
    """The lines of the journal as CloudEvents, as they are entered, each with the address of its moment; from after the last one
    heard on, those of its instant once more, so that none is missed. An event's `id` tells one that was heard."""
    running = desk.required(kept.id)
    told = journal_events(running, f"/api/plans/{kept.id}/live", last, lambda: desk.lives(kept.id, running))
    return EventStream(told, headers={"Cache-Control": "no-store"})


def _view(kept: KeptPlan, desk: LiveDesk, running: Running, looked: Looked) -> LiveView:
    newest = {name: number for name, number in desk.store.newest(kept.id).items() if name in kept.plan.groups}
    with desk.still(running) as live:
        view = live_view(live, running.pace, running.running, running.trouble, newest, looked.group, looked.instance)
        if looked.hours is None:
            return view
        now, stood = live.now, standing(live, looked.of)
    return view.model_copy(update={"journal": _lines(stood, now, looked.changes, looked.hours, looked.before)})


def _lines(stood: Standing, now: float, changes: bool, hours: float, before: float | None) -> list[Line]:
    """So many hours of a journal, up to now (s since 1970) or before an instant (ms)."""
    end = now if before is None else before / 1000
    return journal(stood, changes, end - hours * 3600, before=math.inf if before is None else end)


def _moment(text: str | None, field: str) -> datetime | None:
    if text is None:
        return None
    try:
        at = datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        raise PlanError([Problem((field,), text, "write a time such as 2025-07-01T00:00")]) from None
    if not FIRST_YEAR <= at.year <= LAST_YEAR:
        raise PlanError([Problem((field,), text, f"lies outside the years {FIRST_YEAR} to {LAST_YEAR}")])
    return at
