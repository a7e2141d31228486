"""An order: so many asked for at once, as a skipper writes out what he will take on board, and until when."""

from collections.abc import Iterator
from datetime import datetime
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.model import Model
from jostle.core.plan.problem import Problem
from jostle.core.plan.quantity import Count
from jostle.core.plan.wall import Moment
from jostle.core.plan.word import Word, choice_word, count_word, listed, moment_word, say

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan

KINDS = {"once": "asked for once", "kept": "kept up"}
LAPSES = {"kept": "stays", "ended": "ends"}


def _emptied(value: Any) -> Any:
    """What was emptied is left out."""
    return None if value == "" else value


class Order(Model):
    """What the market does not have stays asked for, and is never on demand instead, but for what the mix wants so."""

    editors: ClassVar[dict[str, Editor]] = {
        "count": number("Ordered", "", 1.0, 1.0, 100.0, 1.0),
        "kind": choices("What is gone", [("once", "is not asked for again"), ("kept", "is asked for again")]),
        "until": Editor(kind="moment", label="Until", blank=True),
        "then": choices("What runs then", list(LAPSES.items())),
    }

    count: Count = Field(ge=1, description="So many in all")
    kind: Literal["once", "kept"] = Field(default="once", description="Whether what is gone again is asked for once more")
    until: Annotated[Moment | None, BeforeValidator(_emptied)] = Field(
        default=None, description="Until then it stands; without end if left out"
    )
    then: Literal["kept", "ended"] = Field(default="kept", description="What becomes of those that run when it lapses")

    def words(self) -> list[Word]:
        found = [
            count_word("order.count", self.count),
            say(" are ordered, "),
            choice_word("order.kind", self.kind, KINDS[self.kind]),
            say(", "),
        ]
        if self.until is None:
            return [*found, Word(text="without end", path="order.until", value=None), say(".")]
        return [
            *found,
            say("until "),
            moment_word("order.until", self.until),
            say("; what runs then "),
            choice_word("order.then", self.then, LAPSES[self.then]),
            say("."),
        ]


def order_problems(plan: "Plan", group_name: str) -> Iterator[Problem]:
    """What is wrong with the order of a group."""
    group, place = plan.groups[group_name], ("groups", group_name, "order")
    order = group.order
    if order is None:
        return
    if group.buying is None:
        yield Problem(place, None, "an order is for the spot market; say in buying how, or write a minimum instead")
    if others := [name for name in ("policies", "calendar") if getattr(group, name)]:
        yield Problem(place, listed(others), "an order alone says how many there are; take the others out, or the order")
    if group.minimum or group.first_count:
        yield Problem(("groups", group_name, "minimum"), group.minimum, "with an order it is 0, and so are those at the start")
    if order.count > group.maximum:
        message = f"is above the maximum of {group.maximum}; order fewer, or raise that"
        yield Problem((*place, "count"), order.count, message)
    if order.until is not None and datetime.fromisoformat(order.until).replace(tzinfo=plan.zone) <= plan.start:
        yield Problem((*place, "until"), order.until, f"lies in the past: the plan begins at {plan.start:%Y-%m-%dT%H:%M}")
