"""Routes for working on one group: takes, rehearsals, moments, arrangements."""

from typing import Annotated

from fastapi import APIRouter, Depends, Path, Query, Request, Response
from pydantic import BaseModel, Field

from jostle.api.change import Change
from jostle.api.choice import Editor
from jostle.api.desk import Desk
from jostle.api.editor import editor_of
from jostle.api.offer import Offer, Offers, acts_on, offers_for
from jostle.api.picture import Picture, picture
from jostle.api.problem import RESPONSES
from jostle.api.strips import Numbers, at_ms
from jostle.api.verdict_view import VerdictView, verdict_view
from jostle.core.checks.check import check
from jostle.core.checks.finding import Finding
from jostle.core.journal.event import Event, events
from jostle.core.journal.life import Life, life_of
from jostle.core.journal.moment import Moment, moment
from jostle.core.journal.outlook import outlook
from jostle.core.journal.sentence import group_page
from jostle.core.journal.word import Sentence, Word
from jostle.core.plan.plan import with_group
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.spread import Spread, rehearse_seeds, spread
from jostle.core.rehearsal.verdict import Attribution, Figures, attribution
from jostle.records.store import KeptPlan, NotKept, Take

router = APIRouter(prefix="/api/plans/{plan_id}/groups/{group}", responses=RESPONSES)


def desk_of(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


def plan_of(plan_id: Annotated[int, Path(ge=1)], desk: Annotated[Desk, Depends(desk_of)]) -> KeptPlan:
    return desk.store.plan(plan_id)


DeskDep = Annotated[Desk, Depends(desk_of)]
PlanDep = Annotated[KeptPlan, Depends(plan_of)]


class TakeLine(BaseModel):
    """A take as its chip shows it."""

    number: int
    change: str
    came_from: int | None
    arrangement: int
    seed: int
    starred: bool
    figures: Figures


class EditableWord(Word):
    editor: Editor | None = None


class ShownFinding(Finding):
    """A finding with the time at which the strips show it, ms since 1970."""

    shown_at: float | None


class PageSentence(BaseModel):
    key: str
    tone: str
    paused: bool
    words: list[EditableWord]
    findings: list[ShownFinding]
    acts: list[Offer]


class PageSection(BaseModel):
    key: str
    title: str
    sentences: list[PageSentence]
    more: Offers | None


class RehearsalRequest(BaseModel):
    """A take, changes to it, and what part of the strips is wanted."""

    take: int | None = Field(default=None, description="The take to start from; the newest if left out")
    changes: list[Change] = Field(default_factory=list, max_length=50)
    seed: int | None = None
    keep: bool = Field(default=False, description="Keep the result as a new take")
    begin: float | None = Field(default=None, description="ms since 1970")
    end: float | None = None
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
    change: str
    seed: int
    demand: str
    time_zone: str
    engine_ms: float
    page: list[PageSection]
    verdict: VerdictView
    picture: Picture


class MomentRequest(BaseModel):
    take: int | None = None
    changes: list[Change] = Field(default_factory=list, max_length=50)
    seed: int | None = None
    at: float = Field(description="ms since 1970")


class InstanceRequest(BaseModel):
    take: int | None = None
    changes: list[Change] = Field(default_factory=list, max_length=50)
    seed: int | None = None
    instance: int = Field(ge=1, description="Counted from 1 in the order of launches")


class InstanceView(Life):
    instance: int


class GhostRequest(BaseModel):
    """The take whose outlines are wanted, and over what part."""

    take: int
    begin: float | None = Field(default=None, description="ms since 1970")
    end: float | None = None
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


@router.get("/takes")
def list_takes(group: str, kept: PlanDep, desk: DeskDep) -> list[TakeLine]:
    """The takes of a group, oldest first. The first is made from its newest arrangement."""
    desk.take(kept, group, None)
    return [_line(take) for take in desk.store.takes(kept.id, group)]


@router.post("/rehearsals", response_model=Rehearsed)
def rehearse_take(group: str, wanted: RehearsalRequest, kept: PlanDep, desk: DeskDep) -> Response:
    """Rehearse a take with changes; keep it as the next take if so asked."""
    take = desk.take(kept, group, wanted.take)
    by_zone = any("@" in metric for metric in wanted.metrics)
    played, change = desk.changed(kept, group, take, wanted.changes, wanted.seed, by_zone)
    changed = change != take.change
    if wanted.keep and changed and change != "no change":
        take = desk.keep(kept, group, take, played, change)
        changed = False
    starred = desk.store.starred_take(kept.id, group)
    rehearsal = played.rehearsal
    answer = Rehearsed(
        take=_line(take),
        changed=changed,
        change=change,
        seed=rehearsal.seed,
        demand=rehearsal.crew.group.demand,
        time_zone=rehearsal.plan.time_zone,
        engine_ms=round(played.engine_ms, 1),
        page=_page(rehearsal),
        verdict=verdict_view(rehearsal, played.verdict.figures, played.verdict.promises, starred),
        picture=picture(rehearsal, wanted.begin, wanted.end, wanted.buckets, wanted.metrics),
    )
    return Response(answer.model_dump_json(), media_type="application/json")


@router.post("/ghosts")
def ghost_of(group: str, wanted: GhostRequest, kept: PlanDep, desk: DeskDep) -> Ghost:
    """The outlines of a take over a span."""
    take = desk.store.take(kept.id, group, wanted.take)
    played, _ = desk.changed(kept, group, take, [], None)
    drawn = picture(played.rehearsal, wanted.begin, wanted.end, wanted.buckets)
    return Ghost(
        take=take.number,
        change=take.change,
        times=drawn.times,
        capacity=drawn.demand.capacity,
        desired=drawn.count.desired,
        metrics={strip.metric: strip.mean for strip in drawn.metrics},
    )


@router.post("/moments")
def explain(group: str, wanted: MomentRequest, kept: PlanDep, desk: DeskDep) -> MomentView | None:
    """Why the count is what it is at a time, from the last evaluation before it."""
    take = desk.take(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    clock = played.rehearsal.clock
    found = moment(played.rehearsal, wanted.at / 1000 - clock.first)
    if found is None:
        return None
    ahead = outlook(played.rehearsal, found.seconds)
    times = [None if t is None else (clock.first + t) * 1000 for t in (found.seconds, found.previous, found.following)]
    return MomentView(at=times[0] or 0.0, previous=times[1], following=times[2], moment=found, outlook=ahead)


@router.post("/instances")
def show_instance(group: str, wanted: InstanceRequest, kept: PlanDep, desk: DeskDep) -> InstanceView:
    """The life of one instance."""
    take = desk.take(kept, group, wanted.take)
    played, _ = desk.changed(kept, group, take, wanted.changes, wanted.seed)
    life = life_of(played.rehearsal, wanted.instance - 1)
    if life is None:
        raise NotKept(f"there is no instance {wanted.instance} in this rehearsal")
    return InstanceView(instance=wanted.instance, **life.model_dump())


@router.get("/takes/{number}/journal")
def journal(group: str, number: int, kept: PlanDep, desk: DeskDep) -> list[Event]:
    """Everything that happened in a take, in sentences."""
    take = desk.store.take(kept.id, group, number)
    played, _ = desk.changed(kept, group, take, [], None)
    return list(events(played.rehearsal))


@router.get("/takes/{number}/costs")
def costs(group: str, number: int, kept: PlanDep, desk: DeskDep) -> Attribution:
    """Who and what the cost of a take was for."""
    take = desk.store.take(kept.id, group, number)
    played, _ = desk.changed(kept, group, take, [], None)
    return attribution(played.rehearsal)


@router.get("/takes/{number}/spread")
def seeds_spread(
    group: str, number: int, kept: PlanDep, desk: DeskDep, seeds: Annotated[int, Query(ge=1, le=200)] = 20
) -> Spread:
    """A take under several seeds, from its own on."""
    take = desk.store.take(kept.id, group, number)
    plan = with_group(kept.plan, group, take.document)
    return spread(rehearse_seeds(plan, group, range(take.seed, take.seed + seeds)))


@router.put("/star")
def star(group: str, kept: PlanDep, desk: DeskDep, take: int | None = None) -> list[TakeLine]:
    """Star a take, against which the others are compared; none if left out."""
    desk.store.star(kept.id, group, take)
    return list_takes(group, kept, desk)


def _line(take: Take) -> TakeLine:
    return TakeLine(
        number=take.number,
        change=take.change,
        came_from=take.came_from,
        arrangement=take.arrangement,
        seed=take.seed,
        starred=take.starred,
        figures=Figures.model_validate(take.figures),
    )


def _page(rehearsal: Rehearsal) -> list[PageSection]:
    plan, group = rehearsal.plan, rehearsal.crew.group
    paused = {f"policies.{policy.name}" for policy in group.policies if policy.paused}
    paused |= {f"calendar.{entry.name}" for entry in group.calendar if entry.paused}
    findings = check(rehearsal)
    sections = []
    for section in group_page(plan, rehearsal.group_name, rehearsal.crew):
        sentences = []
        for sentence in section.sentences:
            words = [EditableWord(**word.model_dump(), editor=editor_of(word, plan, group)) for word in sentence.words]
            about = [_shown(rehearsal, finding) for finding in findings if _concerns(finding, sentence)]
            told = PageSentence(
                key=sentence.key,
                tone=sentence.tone,
                paused=sentence.key in paused,
                words=words,
                findings=about,
                acts=acts_on(sentence.key, group),
            )
            sentences.append(told)
        more = offers_for(section.key, group)
        sections.append(PageSection(key=section.key, title=section.title, sentences=sentences, more=more))
    return sections


def _shown(rehearsal: Rehearsal, finding: Finding) -> ShownFinding:
    at = None if finding.at is None else at_ms(rehearsal, finding.at)
    return ShownFinding(**finding.model_dump(), shown_at=at)


def _concerns(finding: Finding, sentence: Sentence) -> bool:
    """A finding stands under the sentence that has its setting; one about all policies under the last of them."""
    if finding.path == "policies":
        return sentence.key == "pace"
    return f"{finding.path}.".startswith(f"{sentence.key}.") or any(word.path == finding.path for word in sentence.words)
