"""Routes for working on one group: takes, rehearsals, moments, arrangements."""

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from jostle.api.answer import json_answer
from jostle.api.bounded import Instant, Ordinal, SeedNumber
from jostle.api.course_view import Course, course_view
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.page import PageSection, page_of
from jostle.api.picture import Picture, picture
from jostle.api.problem import RESPONSES
from jostle.api.refusals import Refusal, refusals
from jostle.api.strips import Numbers, at_ms
from jostle.api.turns import LongRoute
from jostle.api.verdict_view import VerdictView, verdict_view
from jostle.core.change.change import Change
from jostle.core.checks.conduct import check_promises
from jostle.core.checks.shortfall import shortfalls
from jostle.core.checks.usual import Usual, usual
from jostle.core.journal.behind import Behind, behind
from jostle.core.journal.event import Event, events
from jostle.core.journal.headline import headline
from jostle.core.journal.life import Life, life_of
from jostle.core.journal.moment import Moment, moment_played
from jostle.core.journal.outlook import outlook
from jostle.core.plan.plan import with_group
from jostle.core.plan.quantity import say_duration, say_money, say_number
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rehearser import brisk
from jostle.core.rehearsal.spread import Spread, rehearse_seeds, spread
from jostle.core.rehearsal.verdict import Attribution, Figures, attribution, compared
from jostle.records.store import NotKept, Take

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}", responses=RESPONSES, route_class=LongRoute)


class TakeLine(BaseModel):
    """A take as its chip shows it."""

    number: int
    change: str
    came_from: int | None
    arrangement: int
    seed: int
    starred: bool
    figures: Figures = Field(description="As they were when it was made")
    cost: str
    short: str
    service: str
    kept: str = Field(description="How many of its promises were kept, where it made any")
    broken: bool = Field(description="Whether one was not")


class RehearsalRequest(BaseModel):
    """A take, changes to it, and what part of the strips is wanted."""

    take: Ordinal | None = Field(default=None, description="The take to start from; the newest if left out")
    changes: list[Change] = Field(default_factory=list, max_length=50)
    seed: SeedNumber | None = None
    keep: bool = Field(default=False, description="Keep the result as a new take")
    begin: Instant | None = Field(default=None, description="ms since 1970")
    end: Instant | None = None
    buckets: int = Field(default=800, ge=1, le=4000)
    metrics: list[str] = Field(
        default_factory=list,
        max_length=12,
        description="Metrics shown besides those of the policies: a key such as latency_p95, or cpu@north for one zone",
    )


class Rehearsed(BaseModel):
    """The answer to an edit: the page, the verdict and the strips that follow from it."""

    take: TakeLine
    changed: bool = Field(description="Whether this differs from the take and is not kept")
    saved: bool = Field(description="Whether the take says what the newest arrangement does")
    change: str
    seed: int
    demand: str
    time_zone: str
    engine_ms: float
    step: str | None = Field(description="The step in which it was played, where that is coarser than the plan's")
    page: list[PageSection]
    verdict: VerdictView
    picture: Picture


class TakeRequest(BaseModel):
    """A take and changes to it."""

    take: Ordinal | None = None
    changes: list[Change] = Field(default_factory=list, max_length=50)
    seed: SeedNumber | None = None


class ShortfallView(Usual):
    """Stretches without enough capacity that are alike, with the time of the worst, ms since 1970."""

    shown_at: float
    lost_text: str


class BoundsView(BaseModel):
    """The verdict with all that takes longer to tell, and the page where that tells more of it than was known without."""

    verdict: VerdictView
    page: list[PageSection] | None


class MomentRequest(TakeRequest):
    at: Instant = Field(description="ms since 1970")


class InstanceRequest(TakeRequest):
    instance: Ordinal = Field(description="Counted from 1 in the order of launches")


class InstanceView(Life):
    instance: int
    course: Course | None


class GhostRequest(BaseModel):
    """The take whose outlines are wanted, and over what part."""

    take: Ordinal
    begin: Instant | None = Field(default=None, description="ms since 1970")
    end: Instant | None = None
    buckets: int = Field(ge=1, le=4000)


class Ghost(BaseModel):
    """Another take's outlines, to be drawn behind."""

    take: int
    change: str
    times: list[float]
    capacity: Numbers
    desired: Numbers
    metrics: dict[str, Numbers]


class MomentView(BaseModel):
    """A moment with its times as ms since 1970, and when the count would next change."""

    at: float
    previous: float | None
    following: float | None
    moment: Moment
    outlook: str
    behind: Behind | None = Field(default=None, description="What stands behind the group's load balancer then")


@router.get("/takes")
def list_takes(group: str, kept: PlanDep, desk: DeskDep) -> list[TakeLine]:
    """The takes of a group, oldest first. The first is made from its newest arrangement."""
    desk.take(kept, group, None)
    return [_line(take) for take in desk.store.takes(kept.id, group)]


@router.post("/rehearsals", response_model=Rehearsed)
def rehearse_take(group: str, wanted: RehearsalRequest, kept: PlanDep, desk: DeskDep) -> Response:
    """Rehearse a take with changes; keep it as the next take if so asked."""
    take, star = desk.take_and_star(kept, group, wanted.take)
    by_zone = any("@" in metric for metric in wanted.metrics)
    played, change = desk.changed(kept, group, take, wanted.changes, wanted.seed, by_zone)
    if wanted.keep and change is not None:
        take, change = desk.keep(kept, group, take, played, change), None
    rehearsal = played.rehearsal
    answer = Rehearsed.model_construct(
        take=_line(take),
        changed=change is not None,
        saved=take.document == kept.plan.groups[group].model_dump(mode="json"),
        change=take.change if change is None else change,
        seed=rehearsal.seed,
        demand=rehearsal.crew.group.demand,
        time_zone=rehearsal.plan.time_zone,
        engine_ms=round(played.engine_ms, 1),
        step=say_duration(rehearsal.plan.tick) if rehearsal.plan.tick != kept.plan.tick else None,
        page=page_of(rehearsal, played.page, rehearsal.bounds_at_hand),
        verdict=verdict_view(rehearsal, played.verdict, desk.beside(kept, group, star)),
        picture=picture(rehearsal, wanted.begin, wanted.end, wanted.buckets, wanted.metrics),
    )
    return json_answer(answer)


@router.post("/bounds")
def find_bounds(group: str, wanted: TakeRequest, kept: PlanDep, desk: DeskDep) -> BoundsView:
    """What perfect foresight and always-peak would cost, and what comes of spot and of a notice. It takes longer than a
    rehearsal, and is asked for after it."""
    take, star = desk.take_and_star(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    rehearsal = played.rehearsal
    found = rehearsal.bounds
    told = page_of(rehearsal, played.page, found) if found and check_promises(rehearsal, found) else None
    judged = compared(rehearsal, played.verdict)
    return BoundsView(verdict=verdict_view(rehearsal, judged, desk.beside(kept, group, star), finished=True), page=told)


@router.post("/shortfalls")
def list_shortfalls(group: str, wanted: TakeRequest, kept: PlanDep, desk: DeskDep) -> list[ShortfallView]:
    """When a take was short of capacity: what the time went on, and what to try; what comes again is one line, of ten at most."""
    take = desk.take(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    rehearsal = played.rehearsal
    return [
        ShortfallView(**one.model_dump(), shown_at=at_ms(rehearsal, one.at), lost_text=_said_lost(rehearsal, one.lost))
        for one in usual(rehearsal, shortfalls(rehearsal))
    ]


def _said_lost(rehearsal: Rehearsal, lost: float) -> str:
    work = rehearsal.crew.group.work.kind
    if work == "jobs":
        return f"one waited {say_duration(round(lost))}"
    return f"{lost:,.0f} {'refused' if work == 'sessions' else 'failed'}"


@router.post("/refusals")
def list_refusals(group: str, wanted: TakeRequest, kept: PlanDep, desk: DeskDep) -> list[Refusal]:
    """What of all that the page of a take offers would be refused, and why. It is asked for after a rehearsal."""
    take = desk.take(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    return refusals(played.rehearsal.plan, group, played.page)


@router.post("/ghosts", response_model=Ghost)
def ghost_of(group: str, wanted: GhostRequest, kept: PlanDep, desk: DeskDep) -> Response:
    """The outlines of a take over a span."""
    take = desk.store.take(kept.id, group, wanted.take)
    played, _ = desk.changed(kept, group, take, [], None)
    drawn = picture(played.rehearsal, wanted.begin, wanted.end, wanted.buckets)
    ghost = Ghost.model_construct(
        take=take.number,
        change=take.change,
        times=drawn.times,
        capacity=drawn.demand.capacity,
        desired=drawn.count.desired,
        metrics={strip.metric: strip.mean for strip in drawn.metrics},
    )
    return json_answer(ghost)


@router.post("/moments")
def explain(group: str, wanted: MomentRequest, kept: PlanDep, desk: DeskDep) -> MomentView | None:
    """Why the count is what it is at a time, from the last evaluation before it."""
    take = desk.take(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    clock = played.rehearsal.clock
    looked_up = moment_played(played.rehearsal, wanted.at / 1000 - clock.first)
    if looked_up is None:
        return None
    found, stood = looked_up
    ahead = outlook(played.rehearsal, found.seconds)
    times = [None if t is None else (clock.first + t) * 1000 for t in (found.seconds, found.previous, found.following)]
    members = behind(played.rehearsal, stood)
    return MomentView(at=times[0] or 0.0, previous=times[1], following=times[2], moment=found, outlook=ahead, behind=members)


@router.post("/instances")
def show_instance(group: str, wanted: InstanceRequest, kept: PlanDep, desk: DeskDep) -> InstanceView:
    """The life of one instance."""
    take = desk.take(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    life = life_of(played.rehearsal, wanted.instance - 1)
    if life is None:
        raise NotKept(f"there is no instance {wanted.instance} in this rehearsal")
    drawn = course_view(played.rehearsal, wanted.instance - 1)
    return InstanceView(instance=wanted.instance, course=drawn, **life.model_dump())


@router.delete("/takes/{number}")
def drop_take(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> list[TakeLine]:
    """Take a take out that is neither starred nor the newest; what is left."""
    desk.store.drop_take(kept.id, group, number)
    return list_takes(group, kept, desk)


@router.get("/takes/{number}/journal")
def journal(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> list[Event]:
    """Everything that happened in a take, in sentences."""
    take = desk.store.take(kept.id, group, number)
    played, _ = desk.changed(kept, group, take, [], None)
    return list(events(played.rehearsal))


@router.get("/takes/{number}/costs")
def costs(group: str, number: Ordinal, kept: PlanDep, desk: DeskDep) -> Attribution:
    """Who and what the cost of a take was for."""
    take = desk.store.take(kept.id, group, number)
    played, _ = desk.changed(kept, group, take, [], None)
    return attribution(played.rehearsal)


@router.get("/takes/{number}/spread")
def seeds_spread(
    group: str, number: Ordinal, kept: PlanDep, desk: DeskDep, seeds: Annotated[int, Query(ge=1, le=200)] = 20
) -> Spread:
    """A take under several seeds, from its own on."""
    take = desk.store.take(kept.id, group, number)
    plan = brisk(with_group(kept.plan, group, take.document))
    return spread(rehearse_seeds(desk.rehearser, plan, group, range(take.seed, take.seed + seeds)))


@router.put("/star")
def star(group: str, kept: PlanDep, desk: DeskDep, take: Ordinal | None = None) -> list[TakeLine]:
    """Star a take, against which the others are compared; none if left out."""
    desk.store.star(kept.id, group, take)
    return list_takes(group, kept, desk)


def _line(take: Take) -> TakeLine:
    figures = Figures.model_validate(take.figures)
    return TakeLine(
        number=take.number,
        change=take.change,
        came_from=take.came_from,
        arrangement=take.arrangement,
        seed=take.seed,
        starred=take.starred,
        figures=figures,
        cost=say_money(figures.cost, figures.currency),
        short=f"{say_number(figures.short_minutes)} min",
        service=headline(figures).figure,
        kept=f"{figures.promises_kept} of {figures.promises}" if figures.promises else "",
        broken=figures.promises_kept < figures.promises,
    )
