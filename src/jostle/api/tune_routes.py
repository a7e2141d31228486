"""Routes for searches: begun, watched, stopped, looked at again, and what they found made a take."""

import threading
from dataclasses import dataclass, field
from typing import Annotated

import structlog
from fastapi import APIRouter, Depends, Header, Query, Request
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import Desk, DeskDep, PlanDep
from jostle.api.editor import editor_of
from jostle.api.problem import RESPONSES
from jostle.api.rehearsal_routes import TakeLine, list_takes
from jostle.api.signal import Signal
from jostle.api.strips import Numbers, numbers
from jostle.core.journal.change import changed_words, say_change
from jostle.core.journal.sentence import Page, group_page
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.quantity import say_money
from jostle.core.plan.reading import MeasureName
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.strip import Span, wanted
from jostle.core.tuning.front import Matters, front, matters
from jostle.core.tuning.goal import Goal, Judged
from jostle.core.tuning.nudge import Nudge, nudges
from jostle.core.tuning.search import Found, search
from jostle.core.tuning.space import Varied, applied, checked_space, usual_space
from jostle.records.search_store import SearchStore
from jostle.records.store import KeptPlan, NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}/searches", responses=RESPONSES)
# Of the seeds that a choice is confirmed with
CONFIRMING, CONFIRMED_WITH = 1001, 10
# Buckets of the small strips, and sets after which what was found so far is kept
BUCKETS, KEPT_EVERY = 240, 40
log = structlog.get_logger()


class Asked(BaseModel):
    """What is searched: from which take, what may vary, under how many seeds, for how many sets."""

    take: Ordinal | None = None
    vary: list[Varied] | None = Field(default=None, max_length=20, description="What its policies have if left out")
    seeds: int = Field(default=3, ge=1, le=20)
    sets: int = Field(default=200, ge=2, le=2000)
    margin: float = Field(default=0.1, ge=0, le=1)


class FoundKept(BaseModel):
    """What was found, as it is kept."""

    document: dict[str, object]
    take: int
    space: list[Varied]
    as_is: Judged | None = None
    sets: list[Judged] = Field(default_factory=list)
    chosen: Judged | None = None
    confirmed: Judged | None = None
    seconds: float = 0.0
    ended: bool = False


@dataclass
class Running:
    """A search under way, or that was."""

    asked: Asked
    found: FoundKept
    signal: Signal = field(default_factory=Signal)
    stop: bool = False
    trouble: str | None = None


class TuneDesk:
    """Owns the searches that run, one thread for each."""

    def __init__(self, desk: Desk) -> None:
        self.store = SearchStore(desk.store)
        self._known: dict[tuple[int, str, int], Running] = {}

    def of(self, plan_id: int, group: str, number: int) -> Running:
        """A search under way, or as it was kept."""
        known = self._known.get((plan_id, group, number))
        if known is not None:
            return known
        kept = self.store.one(plan_id, group, number)
        found = FoundKept.model_validate_json(kept.found)
        return Running(Asked.model_validate_json(kept.asked), found.model_copy(update={"ended": True}))

    def begin(self, plan: Plan, plan_id: int, group: str, asked: Asked, found: FoundKept) -> int:
        number = self.store.add(plan_id, group, asked.model_dump_json(), found.model_dump_json())
        running = Running(asked, found)
        self._known[plan_id, group, number] = running
        threading.Thread(target=self._run, args=(plan, plan_id, group, number, running), daemon=True, name="search").start()
        return number

    def _run(self, plan: Plan, plan_id: int, group: str, number: int, running: Running) -> None:
        asked = running.asked
        goal = Goal(
            with_group(plan, group, running.found.document),
            group,
            tuple(range(1, asked.seeds + 1)),
            tuple(range(CONFIRMING, CONFIRMING + CONFIRMED_WITH)),
            asked.margin,
        )

        def tell(found: Found) -> bool:
            running.found = running.found.model_copy(
                update={
                    "as_is": found.as_is,
                    "sets": list(found.sets),
                    "chosen": found.chosen,
                    "confirmed": found.confirmed,
                    "seconds": found.seconds,
                    "ended": found.ended,
                }
            )
            if found.ended or len(found.sets) % KEPT_EVERY == 0:
                self.store.keep(plan_id, group, number, running.found.model_dump_json())
            running.signal.tell()
            return not running.stop

        try:
            search(goal, running.found.space, asked.sets, tell=tell)
        except Exception as error:
            running.trouble = f"the search stopped: {error}"
            running.found = running.found.model_copy(update={"ended": True})
            log.error("search", said=str(error))
        running.signal.tell()
        self._known.pop((plan_id, group, number), None)


def tune_desk_of(request: Request) -> TuneDesk:
    desk: TuneDesk = request.app.state.tune_desk
    return desk


TuneDep = Annotated[TuneDesk, Depends(tune_desk_of)]


class HowRead(BaseModel):
    """How a value of it is read that is typed."""

    measure: MeasureName
    unit: str


class VariedView(Varied):
    """A setting that may vary, in words."""

    name: str
    how: HowRead
    now: str
    low_text: str
    high_text: str


class Points(BaseModel):
    """The sets that were rehearsed, a column for each of what is said of them."""

    number: list[int]
    cost: Numbers
    short: Numbers
    kept: list[bool]
    on_front: list[bool]


class SetView(BaseModel):
    """One set looked at closely."""

    number: int
    cost: str
    short: str
    kept: str
    again: str
    differs: list[str]
    demand: Numbers
    capacity: Numbers
    count: Numbers
    capacity_as_is: Numbers


class MattersView(Matters):
    name: str


class SearchView(BaseModel):
    number: int
    take: int
    running: bool
    looked_at: int
    of: int
    seconds: float
    seeds: int
    space: list[VariedView]
    currency: str
    as_is: SetView | None
    as_is_cost: float | None
    as_is_short: float | None
    points: Points
    chosen: SetView | None
    refused: int
    matters: list[MattersView]
    said: str
    trouble: str | None


class SearchLine(BaseModel):
    number: int
    created: str
    looked_at: int
    said: str


class Started(BaseModel):
    number: int


class MakeTake(BaseModel):
    set: int = Field(ge=1, le=2000)


@router.get("/space")
def show_space(group: str, kept: PlanDep, desk: DeskDep, take: Ordinal | None = None) -> list[VariedView]:
    """What may vary of a take, in the ranges that make sense for it."""
    document = desk.take(kept, group, take).document
    plan = with_group(kept.plan, group, document)
    return _space(plan, group, usual_space(plan.groups[group]))


@router.get("")
def list_searches(group: str, kept: PlanDep, desk: TuneDep) -> list[SearchLine]:
    """Searches of a group, newest first."""
    crew_of(kept.plan, group)
    lines = []
    for one in desk.store.all(kept.id, group):
        found = desk.of(kept.id, group, one.number).found
        lines.append(
            SearchLine(number=one.number, created=one.created, looked_at=len(found.sets), said=_said(found, kept.plan.currency))
        )
    return lines


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
    return _view(number, group, kept, desk, running, set)


@router.post("/{number}/stop")
def stop(group: str, number: Ordinal, kept: PlanDep, tune: TuneDep) -> Started:
    """Stop a search; it keeps what it has."""
    tune.of(kept.id, group, number).stop = True
    return Started(number=number)


@router.post("/{number}/take", status_code=201)
def make_take(group: str, number: Ordinal, wanted_set: MakeTake, kept: PlanDep, desk: DeskDep, tune: TuneDep) -> list[TakeLine]:
    """Keep a set as the next take."""
    found = tune.of(kept.id, group, number).found
    judged = _set(found, wanted_set.set)
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
    plan = with_group(kept.plan, group, applied(found.document, _set(found, set).values))
    return nudges(plan, group, Rehearser())


@router.get("/{number}/events", response_class=StreamingResponse)
def stream(
    group: str,
    number: Ordinal,
    kept: PlanDep,
    tune: TuneDep,
    last: Annotated[int | None, Header(alias="Last-Event-ID", ge=0)] = None,
) -> StreamingResponse:
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
    return StreamingResponse(told, media_type="text/event-stream", headers={"Cache-Control": "no-store"})


def _set(found: FoundKept, number: int) -> Judged:
    judged = next((one for one in found.sets if one.number == number and one.refused is None), None)
    if judged is None:
        raise NotKept(f"this search has no set {number} that was rehearsed")
    return judged


def _space(plan: Plan, group: str, space: list[Varied]) -> list[VariedView]:
    document = plan.groups[group].model_dump(mode="json")

    def page(end: str | None) -> Page:
        values = {} if end is None else {one.path: _plain(one, getattr(one, end)) for one in space}
        return group_page(crew_of(with_group(plan, group, applied(document, values)), group), plan.currency)

    page_now = page(None)
    now, low, high = ({path: word.text for path, word in one.words.items()} for one in (page_now, page("low"), page("high")))
    return [
        VariedView(
            **one.model_dump(),
            name=_name(one.path),
            how=_how(page_now, one.path, plan, group),
            now=now.get(one.path, ""),
            low_text=low.get(one.path, f"{one.low:g}"),
            high_text=high.get(one.path, f"{one.high:g}"),
        )
        for one in space
    ]


def _plain(one: Varied, value: float) -> float:
    return int(value) if one.whole else value


def _how(page: Page, path: str, plan: Plan, group: str) -> HowRead:
    word = page.words.get(path)
    editor = None if word is None else editor_of(word, plan, plan.groups[group])
    return HowRead(measure="number", unit="") if editor is None else HowRead(measure=editor.measure, unit=editor.unit)


_FIELDS = {"cooldown": "wait", "amount": "how many at once", "share": "share kept free"}


def _name(path: str) -> str:
    owner, _, name = path.removeprefix("policies.").removeprefix("calendar.").rpartition(".")
    word = _FIELDS.get(name, name.replace("_", " "))
    return f"{word} of {owner}" if owner else word


def _said(found: FoundKept, currency: str) -> str:
    if found.chosen and found.confirmed:
        kept = f"kept in {found.confirmed.kept} of {found.confirmed.seeds} seeds that were not searched with"
        return f"{say_money(found.chosen.cost, currency)}, {kept}"
    best = min((one.cost for one in found.sets if one.keeps), default=None)
    if best is not None:
        return f"{say_money(best, currency)} so far"
    return "nothing keeps every promise" + ("" if found.ended else " so far")


def _view(number: int, group: str, kept: KeptPlan, desk: Desk, running: Running, chosen: int | None) -> SearchView:
    found = running.found
    plan = with_group(kept.plan, group, found.document)
    seen = [one for one in found.sets if one.refused is None]
    best = {one.number for one in front(found.sets)}
    told = None
    if chosen is not None:
        told = _set(found, chosen)
    elif found.chosen is not None:
        told = found.chosen
    again = found.confirmed if told is not None and found.chosen is not None and told.number == found.chosen.number else None
    currency = plan.currency
    return SearchView(
        number=number,
        take=found.take,
        running=not found.ended,
        looked_at=len(found.sets),
        of=running.asked.sets,
        seconds=round(found.seconds, 1),
        seeds=running.asked.seeds,
        space=_space(plan, group, found.space),
        currency=currency,
        as_is=None if found.as_is is None or found.as_is.refused else _looked_at(found.as_is, None, plan, group, found, desk),
        as_is_cost=found.as_is.cost if found.as_is else None,
        as_is_short=found.as_is.short_minutes if found.as_is else None,
        points=Points(
            number=[one.number for one in seen],
            cost=[round(one.cost, 2) for one in seen],
            short=[round(one.short_minutes, 2) for one in seen],
            kept=[one.keeps for one in seen],
            on_front=[one.number in best for one in seen],
        ),
        chosen=None if told is None else _looked_at(told, again, plan, group, found, desk),
        refused=len(found.sets) - len(seen),
        matters=[MattersView(**one.model_dump(), name=_name(one.path)) for one in matters(found.sets, found.space)],
        said=_said(found, currency),
        trouble=running.trouble,
    )


def _looked_at(one: Judged, again: Judged | None, plan: Plan, group: str, found: FoundKept, desk: Desk) -> SetView:
    changed = with_group(plan, group, applied(found.document, one.values))
    rehearsal = desk.rehearser.rehearse(changed, group, 1)
    as_is = desk.rehearser.rehearse(plan, group, 1)
    before, after = group_page(as_is.crew, plan.currency), group_page(rehearsal.crew, plan.currency)
    span = Span.of(rehearsal.clock.ticks, 0, rehearsal.clock.ticks, BUCKETS)
    pairs = changed_words(before, after)
    return SetView(
        number=one.number,
        cost=say_money(one.cost, plan.currency),
        short=f"{one.short_minutes:,.1f} min",
        kept=f"{one.kept} of {one.seeds}",
        again="" if again is None else f"{again.kept} of {again.seeds} others",
        differs=[f"{_name(new.path or '')} {new.text}, was {old.text}" for old, new in pairs],
        demand=numbers(span.buckets(wanted(rehearsal)).mean),
        capacity=numbers(span.buckets(rehearsal.result.series["capacity"]).mean),
        count=numbers(span.buckets(rehearsal.result.series["serving"]).mean),
        capacity_as_is=numbers(span.buckets(as_is.result.series["capacity"]).mean),
    )
