"""A rollout: a new version of the template brought in a few instances at a time, as a ferry changes its crew by watches.

A canary is a few of them first, compared with the others for a while before more follow.
"""

import math
from collections.abc import Iterator
from datetime import datetime
from typing import TYPE_CHECKING, Any, ClassVar, Literal, Self

from pydantic import Field, ValidationInfo, field_validator, model_validator

from jostle.core.built.play import portion
from jostle.core.plan.editor import Act, Editor, choices, number
from jostle.core.plan.entry import Entry
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.problem import Problem
from jostle.core.plan.quantity import Count, Duration, Number, Share, Times, say_duration, say_number
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import Word, choice_word, count_word, say, share_word, time_word

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan

Of = Literal["instances", "percent"]
_OF = choices("Of what", [("instances", "instances"), ("percent", "percent of the count")])
METRICS = {"failed_share": "the share of answers that fail", "cpu": "the CPU", "latency_p95": "the latency p95"}
NEXT = {"on": "goes on", "stop": "stops", "back": "goes back"}
_BACK = {"stop": "stops there", "back": "goes back"}


def _many(path: str, count: int, of: Of) -> list[Word]:
    unit = "%" if of == "percent" else "instance" if count == 1 else "instances"
    return [count_word(path, count), say(" "), Word(text=unit, path=f"{path.rpartition('.')[0]}.of", value=of)]


class Canary(Model):
    """A few first, compared over their watch with the others. It is tested at so many looks, each with its part of the chance of
    a false alarm, whether they do worse."""

    editors: ClassVar[dict[str, Editor]] = {
        "count": number("How many", "", 1.0, 1.0, 50.0, 1.0),
        "of": _OF,
        "watch": number("Watched for", "min", 1 / 60, 5.0, 240.0, 5.0),
        "metric": choices("Compared by", list(METRICS.items())),
        "worse_by": number("Worse by more than", "%", 100.0, 0.0, 200.0, 5.0),
        "false_alarms": number("False alarms", "%", 100.0, 0.1, 10.0, 0.1),
        "looks": number("Looks", "", 1.0, 1.0, 12.0, 1.0),
        "at_least": number("To judge by at least", "", 1.0, 0.0, 100000.0, 100.0),
        "worse": choices("Where it is worse", list(_BACK.items())),
        "unclear": choices("Where that cannot be told", list(NEXT.items())),
    }

    count: int = Field(default=10, ge=1, le=1000, description="So many instances, or per cent of the count")
    of: Of = "percent"
    watch: Duration = Field(default=1800.0, gt=0, le=604800, description="How long they are compared with the others")
    metric: Literal["failed_share", "cpu", "latency_p95"] = Field(default="failed_share", description="What is compared")
    worse_by: Times = Field(default=0.2, le=100, description="Worse by no more than this is not counted as worse")
    false_alarms: Share = Field(
        default=0.01, gt=0, le=0.5, description="Chance at the most that a version that is no worse is taken for one that is"
    )
    looks: int = Field(default=4, ge=1, le=100, description="How often it is looked within the watch, at even distances")
    at_least: Number = Field(default=1000.0, le=1e9, description="Answers of theirs below which nothing can be told")
    worse: Literal["stop", "back"] = Field(default="back", description="What follows where they do worse")
    unclear: Literal["on", "stop", "back"] = Field(default="stop", description="What follows where that cannot be told")

    def words(self, path: str) -> list[Word]:
        return [
            *_many(f"{path}.count", self.count, self.of),
            say(" first, for "),
            time_word(f"{path}.watch", self.watch),
            say(": by "),
            choice_word(f"{path}.metric", self.metric, METRICS[self.metric]),
            say(", worse by more than "),
            share_word(f"{path}.worse_by", self.worse_by),
            say(" than with the others, at one of "),
            count_word(f"{path}.looks", self.looks),
            say(" looks, it "),
            choice_word(f"{path}.worse", self.worse, _BACK[self.worse]),
            say(" (a false alarm in "),
            share_word(f"{path}.false_alarms", self.false_alarms),
            say(" of cases at most); with fewer than "),
            Word(text=say_number(self.at_least), path=f"{path}.at_least", value=self.at_least),
            say(" to judge by it "),
            choice_word(f"{path}.unclear", self.unclear, NEXT[self.unclear]),
            say("; then "),
        ]


class Rollout(Entry):
    """Brings a version of the template in, batch by batch."""

    offer: ClassVar = "rollout of a version"
    trade: ClassVar = "rolling update canary deployment release"
    start: ClassVar = {"to": "newest"}
    editors: ClassVar[dict[str, Editor]] = {
        "batch": number("In a batch", "", 1.0, 1.0, 50.0, 1.0),
        "of": _OF,
        "extra": number("More than desired", "", 1.0, 0.0, 20.0, 1.0),
        "fewer": number("Fewer than desired", "", 1.0, 0.0, 20.0, 1.0),
        "watch": number("Watched for", "min", 1 / 60, 0.0, 120.0, 1.0),
        "pause": number("Pause", "min", 1 / 60, 0.0, 240.0, 5.0),
        "patience": number("Given up after", "min", 1 / 60, 5.0, 240.0, 5.0),
    }

    kind: Literal["rollout"]
    to: int | Literal["newest"] = Field(description="Number of the version that is brought in")
    batch: int = Field(default=25, ge=1, le=1000, description="So many instances, or per cent of the count, at a time")
    of: Of = "percent"
    extra: Count = Field(default=1, description="Beyond the count there may be so many more meanwhile")
    fewer: Count = Field(default=0, description="Below the count there may be so many fewer meanwhile")
    watch: Duration = Field(default=300.0, le=604800, description="How long a batch is watched before the next")
    pause: Duration = Field(default=0.0, le=604800, description="And how long is waited after that")
    patience: Duration = Field(default=1800.0, gt=0, le=604800, description="A batch that does not serve within this stops it")
    canary: Canary | None = Field(default=None, description="A few first, compared with the others")

    @field_validator("fewer")
    @classmethod
    def _can_move(cls, fewer: int, info: ValidationInfo) -> int:
        if fewer == 0 and info.data.get("extra") == 0:
            raise wrong("with none more and none fewer than desired nothing can be replaced; let one of them be 1 or more")
        return fewer

    @model_validator(mode="after")
    def _once(self) -> Self:
        if self.length is not None or self.until is not None or self.repeat is not None or self.also or self.excepted:
            raise wrong(f"{self.name} comes once, and ends when all are replaced; leave for, until, repeat, also and except out")
        return self

    def batches(self, count: int) -> int:
        """The batches that so many instances come to, those of the canary aside; parts of the count are what they are of many."""
        count = max(count, 100) if self.of == "percent" else count
        left = count - (portion(self.canary.count, self.canary.of == "percent", count) if self.canary else 0)
        return max(1, math.ceil(left / portion(self.batch, self.of == "percent", max(1, count))))

    def least_time(self, count: int) -> float:
        """Seconds that it takes at the least with so many instances: all watches and pauses."""
        batches = self.batches(count)
        return (self.canary.watch if self.canary else 0.0) + batches * self.watch + (batches - 1) * self.pause

    def stretched(self, longer: float, count: int) -> dict[str, Any]:
        """Its settings where it is to take so many seconds longer with so many instances: pauses, or of one batch the watch."""
        batches = self.batches(count)
        if batches == 1:
            return {"watch": max(0.0, round(self.watch + longer))}
        return {"pause": max(0.0, round(self.pause + longer / (batches - 1)))}

    def comes_in(self, plan: "Plan") -> bool:
        """Whether it comes once a plan has begun; what lies before that is over, and the version of the group says what runs."""
        begin = datetime.fromisoformat(self.begin).replace(tzinfo=self.zone_in(plan.zone))
        return not self.paused and begin >= plan.start

    def in_short(self) -> str:
        return f"{self.version_text} brought in"

    @property
    def version_text(self) -> str:
        return "the newest version" if self.to == "newest" else f"version {self.to}"

    def order(self, path: str) -> list[Word]:
        first = [] if self.canary is None else self.canary.words(f"{path}.canary")
        return [
            say("Bring in "),
            Word(text=self.version_text, path=f"{path}.to", value=self.to),
            say(" at "),
            Word(text=say_moment(datetime.fromisoformat(self.begin)), path=f"{path}.from", value=self.begin),
            say(": "),
            *first,
            *_many(f"{path}.batch", self.batch, self.of),
            say(" at a time, "),
            count_word(f"{path}.extra", self.extra),
            say(" more and "),
            count_word(f"{path}.fewer", self.fewer),
            say(" fewer than desired meanwhile, each batch watched for "),
            time_word(f"{path}.watch", self.watch),
            say(", a pause of "),
            time_word(f"{path}.pause", self.pause),
            say(" between; given up where one does not serve after "),
            time_word(f"{path}.patience", self.patience),
        ]

    def acts(self) -> list[Act]:
        if self.canary is None:
            return [Act("a canary first", {"canary": {}})]
        return [Act("without the canary", {"canary": None})]

    def editor(self, field: str, value: Any) -> Editor | None:
        first, _, rest = field.partition(".")
        known = Canary.editors.get(rest) if first == "canary" else self.editors.get(field)
        return known.around(value) if known else super().editor(field, value)


def rollout_problems(plan: "Plan", group_name: str) -> Iterator[Problem]:
    """What is wrong with the rollouts of a group."""
    group = plan.groups[group_name]
    found = [(number, one) for number, one in enumerate(group.calendar) if isinstance(one, Rollout)]
    for position, one in found:
        there = len(plan.templates[group.template].versions)
        place: tuple[str | int, ...] = ("groups", group_name, "calendar", position)
        if one.to != "newest" and not 1 <= one.to <= there:
            yield Problem((*place, "to"), one.to, f"{group.template} has versions 1 to {there}; bring in one of them")
        if not one.comes_in(plan):
            continue
        at = datetime.fromisoformat(one.begin)
        if group.owned is not None:
            yield Problem((*place, "to"), one.to, "owned instances stay when they are stopped; leave out owned, or the rollout")
        if group.order is not None:
            yield Problem((*place, "to"), one.to, "an order buys once and replaces nothing; leave out the order, or the rollout")
        if group.buying is not None and group.buying.count_in != "instances":
            yield Problem((*place, "to"), one.to, "a rollout counts instances; count in instances, or leave it out")
        others = [other for _, other in found if other is not one and other.comes_in(plan) and other.begin <= one.begin]
        for other in others:
            if other.begin == one.begin and other.name > one.name:
                continue
            begun, least = datetime.fromisoformat(other.begin), other.least_time(max(1, group.minimum))
            if (at - begun).total_seconds() < least:
                said = f"{other.name} takes until {say_duration(least)} after {say_moment(begun)} at the least; begin after that"
                yield Problem((*place, "from"), one.begin, said)
