"""Routes for single instances outside any group, and for launch templates made of running ones."""

from itertools import count
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jostle.api.desk import PlanDep
from jostle.api.live_routes import Laid, LiveDep
from jostle.api.problem import RESPONSES
from jostle.api.template_routes import TemplateView, keep_version, version_of
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem, validated
from jostle.core.plan.template import LaunchFields, TemplateVersion
from jostle.core.plan.template_field import label_of, read_fields, written_field
from jostle.live.hand import LaunchSingles
from jostle.records.store import NotKept

router = APIRouter(prefix="/api/plans/{plan_id}/live", responses=RESPONSES)


class Launched(BaseModel):
    """Single instances to start. `fields` are those that are to be otherwise than the template has them, as they stand in its
    sheet."""

    template: str = Field(max_length=200)
    version: int | Literal["newest"] = "newest"
    count: int = Field(default=1, ge=1, le=100)
    fields: dict[str, str] = Field(default_factory=dict, max_length=30)


class FromInstance(BaseModel):
    """The name of the template that is to be, and of the image where its disk is kept too."""

    name: str = Field(max_length=200)
    image: str | None = Field(default=None, min_length=1, max_length=200)


@router.post("/singles", status_code=201)
def launch_singles(wanted: Launched, kept: PlanDep, desk: LiveDep) -> Laid:
    """Start single instances from a template, outside any group."""
    running = desk.required(kept.id)
    hand = singles_of(kept.plan, wanted)
    with desk.still(running) as live:
        taken = [*live.everyone, *kept.plan.groups]
        name = next(name for n in count(1) if (name := f"single-{n}") not in taken)
        done = desk.lay(running, name, hand.model_dump(mode="json", by_alias=True))
    return Laid(at=done.at * 1000, group=name, said=done.text)


@router.post("/groups/{group}/instances/{number}/template", status_code=201)
def keep_as_template(group: str, number: int, wanted: FromInstance, kept: PlanDep, desk: LiveDep) -> TemplateView:
    """A launch template made from a running instance: a new one, or a new version of one that is there; from its disk too where
    an image is named."""
    with desk.still(desk.required(kept.id)) as live:
        life = live.life(group)
        one = next((one for one in life.ground.instances() if one.number == number - 1), None)
        if one is None:
            raise NotKept(f"there is no instance {number} of {group}")
        launch = life.launch_of(one.version)
    image = {} if wanted.image is None else {"image": wanted.image}
    note = f"As instance {number} of {group} runs" + (f", with its disk as {wanted.image}" if wanted.image else "")
    version = TemplateVersion(**{**launch.fields.model_dump(), **image}, note=note)
    return keep_version(wanted.name, version, kept, desk.desk)


def singles_of(plan: Plan, wanted: Launched) -> LaunchSingles:
    """Raises NotKept where there is no such template or version, PlanError where a field cannot be."""
    number, version = version_of(plan, wanted.template, wanted.version)
    if unknown := [name for name in wanted.fields if name not in LaunchFields.model_fields]:
        raise PlanError([Problem(("fields", unknown[0]), wanted.fields[unknown[0]], "a template has no such field")])
    own = read_fields(wanted.fields)
    whole = validated(LaunchFields, version.model_dump(include=set(LaunchFields.model_fields)) | own)
    return LaunchSingles(
        act="launch singles",
        count=wanted.count,
        template=wanted.template,
        version=number,
        launch=whole.model_dump(mode="json"),
        instead={label_of(name): written_field(name, getattr(whole, name)) for name in own},
    )
