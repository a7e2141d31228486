"""Routes for notices: the rules of when to tell, what was told, and where it is sent."""

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Request
from pydantic import BaseModel, Field

from jostle.api.bounded import Ordinal
from jostle.api.desk import PlanDep
from jostle.api.outside import OutsideDep
from jostle.api.page import EditableWord, editable
from jostle.api.problem import RESPONSES
from jostle.api.seen import Part, changed, read
from jostle.api.watch_desk import WatchDesk
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.setting import with_setting
from jostle.core.plan.wall import say_moment
from jostle.core.plan.watch import WATCH_KINDS, WatchBase
from jostle.core.today import epoch
from jostle.records.store import KeptPlan
from jostle.records.watch_store import Delivery, Target
from jostle.telling.webhook import Unreachable, checked

router = APIRouter(prefix="/api/plans/{plan_id}/watching", responses=RESPONSES)
NOTICES_SHOWN, DELIVERIES_SHOWN = 100, 50


def watch_desk_of(request: Request) -> WatchDesk:
    desk: WatchDesk = request.app.state.watch_desk
    return desk


WatchDep = Annotated[WatchDesk, Depends(watch_desk_of)]


class WatchLine(BaseModel):
    """A rule as a sentence."""

    words: list[EditableWord]
    quiet: bool


class WatchOffer(BaseModel):
    kind: str
    text: str
    also: str = Field(description="Words of the trade by which it is found")


class NoticeLine(BaseModel):
    number: int
    at: float = Field(description="ms since 1970 on the clock of what lives")
    clock: str
    group: str
    text: str
    over: bool


class TargetLine(BaseModel):
    """`said` is what came of the last notice that was sent there."""

    number: int
    url: str
    secret: str
    said: str


class DeliveryLine(BaseModel):
    number: str
    url: str
    text: str
    done: bool
    said: str
    again: str = Field(description="When it is tried again, in words; empty where it is not")


class WatchingView(BaseModel):
    rules: list[WatchLine]
    offers: list[WatchOffer]
    notices: list[NoticeLine]
    targets: list[TargetLine]
    deliveries: list[DeliveryLine]


class WatchChange(BaseModel):
    """`set` a value at a path such as watches.0.for, `add` a rule (value: its kind), or `remove` one."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(pattern=r"^watches(\.[a-z0-9_]+)*$", max_length=200)
    value: Any = None


class NewTarget(BaseModel):
    url: str = Field(min_length=1, max_length=2000)


@router.get("")
def show_watching(kept: Annotated[KeptPlan, read("watches")], desk: WatchDep) -> WatchingView:
    """The rules, what was told by them, and where it is sent."""
    return _view(kept.plan, kept.id, desk)


@router.post("/changes")
def change_watches(change: WatchChange, part: Annotated[Part, changed("watches")], watch: WatchDep) -> WatchingView:
    """Change when somebody is to be told; it holds from now on."""
    document = part.plan.model_dump(mode="json", by_alias=True)
    match change.op:
        case "set":
            document = with_setting(document, change.path, change.value)
        case "add":
            if change.value not in WATCH_KINDS:
                raise PlanError([Problem(("value",), change.value, f"write one of {', '.join(WATCH_KINDS)}")])
            document["watches"].append(WATCH_KINDS[change.value].start)
        case "remove":
            place = change.path.partition(".")[2]
            if not place.isdecimal() or int(place) >= len(document["watches"]):
                raise PlanError([Problem((change.path,), None, f"there are rules 0 to {len(document['watches']) - 1}")])
            del document["watches"][int(place)]
    return _view(part.keep(read_plan(document)), part.kept.id, watch)


@router.post("/targets", status_code=201)
def add_target(wanted: NewTarget, kept: PlanDep, desk: WatchDep) -> WatchingView:
    """Have notices sent to an address as well. Each is signed with the secret that comes with it."""
    try:
        checked(wanted.url)
    except Unreachable as error:
        raise PlanError([Problem(("url",), wanted.url, str(error))]) from None
    desk.store.add_target(kept.id, wanted.url)
    return _view(kept.plan, kept.id, desk)


@router.delete("/targets/{number}")
def drop_target(number: Ordinal, kept: PlanDep, desk: WatchDep) -> WatchingView:
    """Send nothing there any more."""
    desk.store.drop_target(kept.id, number)
    return _view(kept.plan, kept.id, desk)


@router.post("/targets/{number}/trial")
async def try_target(number: Ordinal, kept: PlanDep, desk: WatchDep, outside: OutsideDep) -> DeliveryLine:
    """Send a notice there, now, that says it is a trial; what came of it."""
    return await outside.take(lambda: _line(desk.try_target(kept.id, kept.plan, desk.store.target(kept.id, number))))


def _view(plan: Plan, plan_id: int, desk: WatchDesk) -> WatchingView:
    deliveries = desk.store.deliveries(plan_id, DELIVERIES_SHOWN)
    return WatchingView(
        rules=[_rule(watch, f"watches.{place}", list(plan.groups)) for place, watch in enumerate(plan.watches)],
        offers=[WatchOffer(kind=name, text=kind.offer, also=kind.trade) for name, kind in WATCH_KINDS.items()],
        notices=[
            NoticeLine(
                number=number,
                at=one.at * 1000,
                clock=say_moment(datetime.fromtimestamp(one.at, plan.zone)),
                group=one.group,
                text=one.text,
                over=one.over,
            )
            for number, one in desk.store.notices(plan_id, NOTICES_SHOWN)
        ],
        targets=[_target(target, deliveries) for target in desk.store.targets(plan_id)],
        deliveries=[_line(one) for one in deliveries],
    )


def _rule(watch: WatchBase, path: str, groups: list[str]) -> WatchLine:
    words = [
        editable(word, watch.editor(word.path.split(".")[-1], word.value, groups) if word.path else None)
        for word in watch.words(path)
    ]
    return WatchLine(words=words, quiet=watch.quiet is not None)


def _target(target: Target, deliveries: list[Delivery]) -> TargetLine:
    last = next((one.said for one in deliveries if one.target.id == target.id and one.said), "")
    return TargetLine(number=target.id, url=target.url, secret=target.secret, said=last)


def _line(one: Delivery) -> DeliveryLine:
    again = "" if one.due is None or not one.tries else f"again in {say_duration(max(0, round(one.due - epoch())))}"
    return DeliveryLine(number=one.number, url=one.target.url, text=one.text, done=one.done, said=one.said, again=again)
