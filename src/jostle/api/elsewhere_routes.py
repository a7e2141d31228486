"""Routes for groups that are kept at a provider in another process."""

from typing import Annotated

from fastapi import APIRouter, Depends, Header, Request
from pydantic import BaseModel, Field

from jostle.api.desk import PlanDep
from jostle.api.elsewhere_desk import ElsewhereDesk
from jostle.api.elsewhere_view import ElsewhereGroup, elsewhere_view
from jostle.api.outside import OutsideDep
from jostle.api.problem import RESPONSES
from jostle.provider.stream import EventStream
from jostle.telling.webhook import LONGEST_URL

router = APIRouter(prefix="/api/plans/{plan_id}/live/elsewhere", responses=RESPONSES)


def elsewhere_desk_of(request: Request) -> ElsewhereDesk:
    desk: ElsewhereDesk = request.app.state.elsewhere_desk
    return desk


ElsewhereDep = Annotated[ElsewhereDesk, Depends(elsewhere_desk_of)]


class KeepElsewhere(BaseModel):
    group: str = Field(min_length=1, max_length=200)
    url: str = Field(min_length=1, max_length=LONGEST_URL, pattern=r"^https?://", description="Of a provider")


class Steered(BaseModel):
    held: bool | None = None
    dry: bool | None = Field(default=None, description="Whether the keeper only says what it would do")


@router.get("")
def list_elsewhere(kept: PlanDep, desk: ElsewhereDep) -> list[ElsewhereGroup]:
    """The groups of a plan that are kept elsewhere, as they stood at the instant that was answered last."""
    return [elsewhere_view(one) for one in desk.of(kept.id)]


@router.post("", status_code=201)
async def begin_elsewhere(wanted: KeepElsewhere, kept: PlanDep, desk: ElsewhereDep, outside: OutsideDep) -> list[ElsewhereGroup]:
    """Keep a group, as its newest arrangement has it, at a provider."""

    def begun() -> list[ElsewhereGroup]:
        desk.begin(kept, wanted.group, wanted.url)
        return list_elsewhere(kept, desk)

    return await outside.take(begun)


@router.put("/{group}")
def steer_elsewhere(group: str, wanted: Steered, kept: PlanDep, desk: ElsewhereDep) -> list[ElsewhereGroup]:
    """Hold the group, or have the keeper only say what it would do; from the next instant on."""
    desk.steer(kept.id, group, wanted.held, wanted.dry)
    return list_elsewhere(kept, desk)


@router.post("/{group}/again")
def keep_again(group: str, kept: PlanDep, desk: ElsewhereDep) -> list[ElsewhereGroup]:
    """Keep on where the keeper had stopped."""
    desk.again(kept.id, group)
    return list_elsewhere(kept, desk)


@router.delete("/{group}")
def let_go(group: str, kept: PlanDep, desk: ElsewhereDep) -> list[ElsewhereGroup]:
    """Keep it no more. Its instances stay as they are."""
    desk.let_go(kept.id, group)
    return list_elsewhere(kept, desk)


@router.get("/events", response_class=EventStream)
def stream_elsewhere(
    kept: PlanDep, desk: ElsewhereDep, last: Annotated[int | None, Header(alias="Last-Event-ID", ge=0)] = None
) -> EventStream:
    """CloudEvents that say that something has happened, resumed after `Last-Event-ID`."""
    told = desk.signal.events("elsewhere.changed", f"/api/plans/{kept.id}/live/elsewhere", last, dict, lambda: True)
    return EventStream(told, headers={"Cache-Control": "no-store"})
