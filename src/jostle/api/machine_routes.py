"""Routes for machines: what each is and costs, which meet a need, and what a group's week would be on each."""

from decimal import Decimal
from typing import Annotated, Any, Literal

from fastapi import APIRouter, File, Query, UploadFile
from pydantic import BaseModel, Field

from jostle.api.bounded import content_of
from jostle.api.desk import DeskDep, PlanDep
from jostle.api.market_view import MarketView, SpotMarket, market_view, spot_market
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.api.seen import Part, changed, read
from jostle.api.verdict_view import verdict_view
from jostle.core.change.catalogue_change import changed_catalogue
from jostle.core.journal.event import say_time
from jostle.core.journal.machine_line import machine_words, prices_words
from jostle.core.journal.market_line import Berth, berths
from jostle.core.plan.editor import Editor, amount, number
from jostle.core.plan.launch import launch_of
from jostle.core.plan.machine import EDITORS, MONEY_FIELDS, Machine
from jostle.core.plan.plan import Plan, market_problems, with_group
from jostle.core.plan.problem import PlanError
from jostle.core.plan.quantity import say_price
from jostle.core.plan.spot import Spot
from jostle.core.plan.spot_prices import SpotPrices
from jostle.core.plan.word import Word
from jostle.core.rehearsal.closer import stood_at
from jostle.core.rehearsal.other_machine import on_machine
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import verdict
from jostle.formats.prices_csv import read_prices
from jostle.records.store import KeptPlan, Take

router = APIRouter(prefix="/api/plans/{plan_id}/machines", responses=RESPONSES)
CATALOGUE = ("machines", "prices")
# How a machine comes to be sold as spot: at a share of its price
SOLD = number("Sold as spot at", "%", 100.0, 5.0, 100.0, 1.0)


class Week(BaseModel):
    """What a group's span would come to on a machine, or why it could not be."""

    cost: str
    short: str
    service: str
    broken: list[str]
    instances: str
    refused: str | None = None


class Taken(BaseModel):
    """What a group would take of the spot market at an instant, in words."""

    at: str
    said: str
    market: list[Berth]


class CatalogueChange(BaseModel):
    """`set` a value at a path of a machine or of the prices, `add` a machine like another (value: the new name), or
    `remove` one that nothing runs on."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(pattern=r"^(machines|prices)\.[a-z0-9_.-]+$", max_length=200)
    value: Any = None


class MachineRow(BaseModel):
    """A machine as the library shows it, its figures in words."""

    name: str
    words: dict[str, list[EditableWord]] = Field(description="The words of each column, which stand for its settings")
    price_per_work: str = Field(description="Price of an hour of one vCPU at reference speed")
    used_by: list[str]
    fits: bool = Field(description="Whether it meets the need that was asked for")
    sold_as_spot: bool
    in_use: bool = Field(description="Whether the group that was asked about runs on it")
    week: Week | None


@router.get("")
def list_machines(
    kept: Annotated[KeptPlan, read(*CATALOGUE)],
    desk: DeskDep,
    vcpus: Annotated[int, Query(ge=0, le=100_000)] = 0,
    memory_gib: Annotated[float, Query(ge=0, le=1e6, allow_inf_nan=False)] = 0,
    architecture: Literal["x86-64", "arm64"] | None = None,
    group: str | None = None,
) -> list[MachineRow]:
    """The machines, those that meet the need first, by price; with the week of a group on each if one is named."""
    plan = kept.plan

    def fits(machine: Machine) -> bool:
        return (
            machine.vcpus >= vcpus
            and machine.memory_gib >= memory_gib
            and (architecture is None or machine.architecture == architecture)
        )

    named = sorted(plan.machines, key=lambda name: (not fits(plan.machines[name]), plan.machines[name].price_per_hour))
    users: dict[str, list[str]] = {}
    for one in plan.groups:
        users.setdefault(launch_of(plan, one).machine, []).append(one)
    fitting = {name for name in named if fits(plan.machines[name])}
    take = desk.take(kept, group, None) if group and fitting else None
    weeks = {name: _week(desk.rehearser, plan, group, take, name) for name in fitting} if group and take else {}
    return [_row(plan, name, users.get(name, []), name in fitting, group, weeks.get(name)) for name in named]


@router.get("/prices")
def list_prices(kept: Annotated[KeptPlan, read(*CATALOGUE)]) -> list[EditableWord]:
    """What is paid besides machines, as the words of a sentence."""
    return _prices(kept.plan)


def _prices(plan: Plan) -> list[EditableWord]:
    return [editable(word, _editor(word, plan.currency)) for word in prices_words(plan.prices, plan.currency)]


@router.get("/market")
def show_brought_prices(kept: Annotated[KeptPlan, read("market")]) -> SpotMarket:
    """Where spot prices come from."""
    return spot_market(kept.plan)


@router.get("/market/taken")
def show_taken(
    kept: PlanDep,
    desk: DeskDep,
    group: Annotated[str, Query(max_length=100)],
    hours: Annotated[float, Query(ge=0, le=100_000, allow_inf_nan=False, description="From the start of the span")],
) -> Taken:
    """What the next launch of a group would take at an instant of its rehearsal; says nothing where it does not buy."""
    played, _ = desk.changed(kept, group, desk.take(kept, group, None), [], None)
    seconds = min(3600 * hours, played.rehearsal.clock.seconds)
    said, market = berths(played.rehearsal, stood_at(played.rehearsal, seconds))
    return Taken(at=say_time(played.rehearsal.clock, seconds), said=said, market=market)


@router.post("/market", status_code=201)
def bring_prices(
    part: Annotated[Part, changed("market")], file: Annotated[UploadFile, File(description="CSV: time, machine, zone, price")]
) -> SpotMarket:
    """Bring the prices that spot really had, in place of courses by chance."""
    plan = part.plan
    courses = read_prices(content_of(file), plan.zone, plan.currency, list(plan.machines), plan.zones)
    brought = SpotPrices(file=(file.filename or "pasted.csv")[-255:], courses=courses)
    plan = plan.model_copy(update={"market": brought})
    if problems := list(market_problems(plan)):
        raise PlanError(problems)
    return spot_market(part.keep(plan))


@router.delete("/market")
def drop_prices(part: Annotated[Part, changed("market")]) -> SpotMarket:
    """Have spot prices drawn by chance again."""
    return spot_market(part.keep(part.plan.model_copy(update={"market": None})))


@router.get("/{machine}/market")
def show_market(machine: str, kept: PlanDep, seed: Annotated[int, Query(ge=0, lt=2**31)] = 1) -> MarketView:
    """What the spot market asks for a machine over the plan's span, zone by zone."""
    return market_view(kept.plan, machine, seed)


@router.post("/changes")
def change_catalogue(change: CatalogueChange, part: Annotated[Part, changed(*CATALOGUE)]) -> list[EditableWord]:
    """Change the catalogue; all groups are rehearsed anew with it. Answers with what is paid besides machines."""
    return _prices(part.keep(changed_catalogue(part.plan, change.op, change.path, change.value)))


def _editor(word: Word, currency: str) -> Editor | None:
    field = (word.path or "").split(".")[-1]
    if field in MONEY_FIELDS and word.value is not None:
        return amount(MONEY_FIELDS[field], currency, 0.0, max(0.01, 3 * float(word.value)), max(0.001, float(word.value) / 50))
    if ".spot" in (word.path or ""):
        inside = (word.path or "").partition(".spot")[2].removeprefix(".")
        known = Spot.editors.get("zones" if inside.startswith("zones.") else inside) if inside else SOLD
    else:
        known = EDITORS.get(field)
    return known and known.around(word.value)


def _row(plan: Plan, name: str, users: list[str], fits: bool, group: str | None, week: Week | None) -> MachineRow:
    machine, currency = plan.machines[name], plan.currency
    work = machine.price_per_hour / (machine.vcpus * Decimal(str(machine.speed)))
    said = machine_words(name, machine, currency)
    return MachineRow(
        name=name,
        words={column: [editable(word, _editor(word, currency)) for word in words] for column, words in said.items()},
        price_per_work=say_price(round(work, 3), currency),
        used_by=users,
        sold_as_spot=machine.spot is not None,
        fits=fits,
        in_use=fits and group in users,
        week=week,
    )


def _week(rehearser: Rehearser, plan: Plan, group: str, take: Take, machine: str) -> Week:
    plan = with_group(plan, group, take.document)
    try:
        rehearsal = rehearser.rehearse(on_machine(plan, group, plan.groups[group], machine), group, take.seed)
    except PlanError as error:
        return Week(cost="", short="", service="", broken=[], instances="", refused=error.problems[0].message)
    judged = verdict(rehearsal, whole=False)
    view = verdict_view(rehearsal, judged)
    return Week(
        cost=view.cost,
        short=view.short,
        service=f"{view.service.name.lower()} {view.service.figure}",
        broken=[promise.text for promise in judged.promises if not promise.kept],
        instances=f"{judged.figures.min_count} to {judged.figures.max_count}",
    )
