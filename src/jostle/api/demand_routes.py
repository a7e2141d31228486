"""Routes for demands: what they are made of, edits of them, and what these do to the groups that meet them."""

import hashlib
from typing import Annotated
from zoneinfo import ZoneInfo

from fastapi import APIRouter, File, Form, UploadFile
from pydantic import BaseModel, Field
from pydantic_core import PydanticCustomError

from jostle.api.bounded import Instant, content_of
from jostle.api.brought_view import BroughtView, capacity_of, chosen_day, rehearsed_days
from jostle.api.demand_picture import DemandPicture, demand_picture
from jostle.api.desk import Desk, DeskDep, PlanDep
from jostle.api.group_routes import checked_name
from jostle.api.offer import Offer, sheets_for
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.api.strips import Numbers, numbers
from jostle.core.change.change import Change
from jostle.core.change.demand_change import changed_demand
from jostle.core.change.start import STARTING_LAYERS
from jostle.core.demand.laying import laid_from, scale_for
from jostle.core.demand.series import demand_series
from jostle.core.journal.demand_line import demand_sentences, say_demand
from jostle.core.plan.demand import Demand
from jostle.core.plan.editor import Editor
from jostle.core.plan.layer import Brought, Sheet
from jostle.core.plan.misfit import misfits
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem, validated
from jostle.core.plan.quantity import say_duration, say_money, say_number
from jostle.core.plan.wall import known_zone, say_moment
from jostle.core.plan.word import Word
from jostle.core.rehearsal.rehearsal import clock_of
from jostle.core.rehearsal.strip import Span
from jostle.core.rehearsal.verdict import verdict
from jostle.formats.series_csv import UNIT_WORDS
from jostle.formats.series_file import read_series_file
from jostle.records.store import KeptPlan, NameTaken, NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/demands", responses=RESPONSES)
ROW_BUCKETS = 160


class DemandLine(BaseModel):
    """A demand as a list shows it."""

    name: str
    line: str
    note: str
    used_by: list[str]
    shape: Numbers


class DemandSentence(BaseModel):
    """`key` is the path of a layer or an incident."""

    key: str
    kind: str
    muted: bool
    words: list[EditableWord]


class Effect(BaseModel):
    """What a demand does to a group that meets it, as its newest take has it."""

    group: str
    cost: str
    short: str
    broken: list[str] = Field(description="The promises that are broken")


class DemandRequest(BaseModel):
    """Edits of a demand, and what part of its strips is wanted."""

    changes: list[Change] = Field(default_factory=list, max_length=100)
    keep: bool = Field(default=False, description="Keep the demand as edited")
    state: str | None = Field(default=None, description="The state that the edits were made on; needed to keep them")
    begin: Instant | None = Field(default=None, description="ms since 1970")
    end: Instant | None = None
    buckets: int = Field(default=800, ge=1, le=4000)
    apart: str | None = Field(default=None, description="Key of a layer without which the demand is drawn besides")


class DemandView(BaseModel):
    """A demand as sentences and strips. `state` names what is kept; `undo` takes the edits back."""

    name: str
    note: EditableWord
    time_zone: str
    state: str
    used_by: list[str]
    effects: list[Effect]
    sentences: list[DemandSentence]
    picture: DemandPicture
    more_layers: list[Offer]
    more_incidents: list[Offer]
    undo: list[Change]


class NewDemand(BaseModel):
    name: str
    like: str | None = Field(default=None, description="The demand to start from; a level with a day's shape if left out")


@router.get("")
def list_demands(kept: PlanDep) -> list[DemandLine]:
    return [_line(kept.plan, name) for name in kept.plan.demands]


@router.post("", status_code=201)
def add_demand(wanted: NewDemand, kept: PlanDep, desk: DeskDep) -> DemandLine:
    """A new demand: like another, or a level with a day's shape to begin with."""
    _free(kept, wanted.name)
    demand = demand_of(kept.plan, wanted.like) if wanted.like else validated(Demand, {"layers": STARTING_LAYERS})
    return _line(_keep(desk, kept, wanted.name, demand), wanted.name)


@router.delete("/{name}", status_code=204)
def drop_demand(name: str, kept: PlanDep, desk: DeskDep) -> None:
    """Take a demand out that no group meets."""
    demand_of(kept.plan, name)
    if users := _users(kept.plan, name):
        raise NameTaken(f"{name} is met by {', '.join(users)}; give them another demand first")
    demands = {other: demand for other, demand in kept.plan.demands.items() if other != name}
    desk.store.change_plan(kept, kept.plan.model_copy(update={"demands": demands}))


@router.post("/{name}/views")
def view_demand(name: str, wanted: DemandRequest, kept: PlanDep, desk: DeskDep) -> DemandView:
    """A demand with edits, and what it does to the groups that meet it; kept if so asked."""
    plan, before = kept.plan, demand_of(kept.plan, name)
    clock = clock_of(plan)
    demand, undo = changed_demand(before, wanted.changes, clock, plan.zones)
    if wanted.keep and wanted.changes:
        if wanted.state != _state(before):
            raise NameTaken(f"{name} was changed in another window since this one showed it; your edit was not kept")
        plan = _keep(desk, kept, name, demand)
        before = demand
    else:
        plan = _with_demand(plan, name, demand)
    return DemandView(
        name=name,
        note=_note(demand),
        time_zone=plan.time_zone,
        state=_state(before),
        used_by=_users(plan, name),
        effects=[_effect(desk, kept, plan, group) for group in _users(plan, name)],
        sentences=_sentences(plan, demand),
        picture=demand_picture(demand, clock, 1, wanted.begin, wanted.end, wanted.buckets, wanted.apart),
        more_layers=sheets_for("layers"),
        more_incidents=sheets_for("incidents"),
        undo=undo,
    )


@router.post("/file", status_code=201)
def bring_demand(
    kept: PlanDep,
    desk: DeskDep,
    file: Annotated[UploadFile, File(description="CSV with a time and a value in each row, or OpenMetrics text")],
    name: Annotated[str, Form()],
    unit: Annotated[str | None, Form()] = None,
    gaps: Annotated[str, Form()] = "line",
    clock: Annotated[str | None, Form(description="Time zone of times without an offset; the plan's if left out")] = None,
    time_column: Annotated[str | None, Form()] = None,
    value_column: Annotated[str | None, Form(description="Or the series of an OpenMetrics file")] = None,
    into: Annotated[str | None, Form(description="A demand that gets it as one more layer, in place of a new one")] = None,
    day: Annotated[
        str | None, Form(description="The day of the file at which the plan's span begins; `busiest`; its own dates if left out")
    ] = None,
    peak: Annotated[float | None, Form(gt=0, le=1000, description="Scaled so that its peak needs so many instances")] = None,
    like: Annotated[str | None, Form(description="Of this group")] = None,
    keep: Annotated[bool, Form(description="False only reads the file and says what is in it")] = True,
) -> BroughtView:
    """Bring a series from a file, as a new demand or as a layer of one."""
    content = content_of(file)
    checked_name(name)
    zone = _zone(clock) if clock else kept.plan.zone
    series = read_series_file(content, zone, unit or None, gaps, time_column or None, value_column or None, guess=True)
    begin = chosen_day(day, series.samples, kept.plan)
    at = None if begin is None else laid_from(series.samples, kept.plan, begin)
    scale = scale_for(series.samples, capacity_of(kept.plan, like), peak) if peak and like else 1.0
    if keep:
        layer = Brought(kind="brought", file=(file.filename or "pasted.csv")[-255:], samples=series.samples, at=at, scale=scale)
        if into:
            demand = demand_of(kept.plan, into)
            demand = demand.model_copy(update={"layers": [*demand.layers, layer]})
        else:
            _free(kept, name)
            demand = Demand(layers=[layer], note="; ".join(series.notes)[:2000])
        _keep(desk, kept, into or name, demand)
    rates = series.samples.rates
    cut = max(1, len(rates) // 300)
    return BroughtView(
        name=into or name,
        rows=series.rows,
        unit=UNIT_WORDS[series.unit],
        step=say_duration(series.samples.step),
        first=say_moment(series.samples.first.astimezone(kept.plan.zone), with_year=True),
        length=say_duration(series.samples.step * len(rates)),
        lowest=f"{say_number(min(rates))}/s",
        highest=f"{say_number(max(rates))}/s",
        notes=series.notes,
        columns=series.columns,
        time_column=series.time_column,
        value_column=series.value_column,
        shape=[max(rates[k : k + cut]) for k in range(0, len(rates), cut)],
        sample=series.sample,
        kept=keep,
        scale=scale,
        **rehearsed_days(series.samples, kept.plan, begin, day),
    )


def _zone(name: str) -> ZoneInfo:
    try:
        return ZoneInfo(known_zone(name))
    except PydanticCustomError as error:
        raise PlanError([Problem(("clock",), name, error.message())]) from None


def demand_of(plan: Plan, name: str) -> Demand:
    if name not in plan.demands:
        raise NotKept(f"there is no demand {name}; there is: {', '.join(plan.demands) or 'none yet'}")
    return plan.demands[name]


def _free(kept: KeptPlan, name: str) -> None:
    checked_name(name)
    if name in kept.plan.demands:
        raise NameTaken(f"there is a demand called {name} already; choose another name")


def _with_demand(plan: Plan, name: str, demand: Demand) -> Plan:
    """The plan with a demand replaced or added. Raises PlanError where a group that meets it could not."""
    changed = plan.model_copy(update={"demands": {**plan.demands, name: demand}})
    unfit = [problem for group in _users(changed, name) for problem in misfits(changed, group)]
    if unfit:
        raise PlanError(unfit)
    return changed


def _keep(desk: Desk, kept: KeptPlan, name: str, demand: Demand) -> Plan:
    changed = _with_demand(kept.plan, name, demand)
    desk.store.change_plan(kept, changed)
    return changed


def _users(plan: Plan, name: str) -> list[str]:
    return [group for group, one in plan.groups.items() if one.demand == name]


def _state(demand: Demand) -> str:
    return hashlib.sha256(demand.model_dump_json().encode()).hexdigest()[:16]


def _line(plan: Plan, name: str) -> DemandLine:
    demand = plan.demands[name]
    clock = clock_of(plan)
    shape = Span.of(clock.ticks, 0, clock.ticks, ROW_BUCKETS).buckets(demand_series(demand, clock, 1)).high
    return DemandLine(name=name, line=say_demand(demand), note=demand.note, used_by=_users(plan, name), shape=numbers(shape))


def _note(demand: Demand) -> EditableWord:
    word = Word(text=demand.note or "without a note", path="note", value=demand.note)
    return editable(word, Editor(kind="text", label="Note", blank=True))


def _sentences(plan: Plan, demand: Demand) -> list[DemandSentence]:
    zones = list(plan.zones)
    return [
        DemandSentence(key=one.key, kind=one.tone, muted=sheet.muted, words=[_editable(word, sheet, zones) for word in one.words])
        for one, sheet in zip(demand_sentences(demand), (*demand.layers, *demand.incidents), strict=True)
    ]


def _editable(word: Word, sheet: Sheet, zones: list[str]) -> EditableWord:
    return editable(word, sheet.editor(word.path.split(".")[-1], word.value, zones) if word.path else None)


def _effect(desk: Desk, kept: KeptPlan, plan: Plan, group: str) -> Effect:
    take = desk.take(kept, group, None)
    rehearsal = desk.rehearser.rehearse(with_group(plan, group, take.document), group, take.seed)
    judged = verdict(rehearsal, whole=False)
    return Effect(
        group=group,
        cost=say_money(judged.figures.cost, plan.currency),
        short=say_duration(round(judged.figures.short_minutes) * 60.0),
        broken=[promise.text for promise in judged.promises if not promise.kept],
    )
