"""A Trigger policy is a bell on a wire: when a metric stays past a threshold for a window it acts, then waits."""

from enum import IntEnum
from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, ValidationInfo, field_validator

from jostle.core.built.play import step_of
from jostle.core.plan.editor import Act, Editor, choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.metric import Metric
from jostle.core.plan.model import Model
from jostle.core.plan.policy.base import (
    FOLD_WORDS,
    MOST_BANDS,
    Expected,
    LevelOfMetric,
    MetricPolicy,
    Order,
    Reach,
    Site,
    Start,
    read_level,
)
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.word import Word, choice_word, say, time_word
from jostle.core.plan.work import Work

Amount = Annotated[int, Field(ge=0, le=1000)]
_ON_CPU = {"metric": Metric.CPU.value, "amount": 1}


# Instances that a ladder adds, the farther beyond its threshold the more, as often over as there is room for so many of them
LADDER, ROOMS = (1, 2, 4, 8), 16


class Action(IntEnum):
    ADD = 0
    REMOVE = 1
    SET = 2


class Band(Model):
    """A larger step for a larger breach."""

    beyond: LevelOfMetric
    amount: Amount


class TriggerPolicy(MetricPolicy):
    starts: ClassVar = {
        "add": Start(
            offer="policy that adds",
            trade="scale up out threshold alarm step",
            stem="add-on-cpu",
            values={**_ON_CPU, "side": "above", "threshold": 0.62, "action": "add"},
        ),
        "remove": Start(
            offer="policy that removes",
            trade="scale down in threshold alarm step",
            stem="remove-on-cpu",
            values={**_ON_CPU, "side": "below", "threshold": 0.35, "action": "remove"},
        ),
    }
    editors: ClassVar[dict[str, Editor]] = {
        "side": choices("Side", [("above", "above"), ("below", "below")]),
        "action": choices("Action", [("add", "add"), ("remove", "remove"), ("set", "set")]),
    }
    any_metric: ClassVar[bool] = True

    kind: Literal["trigger"]
    side: Literal["above", "below"]
    threshold: LevelOfMetric
    action: Literal["add", "remove", "set"]
    amount: Amount = Field(description="How many to add or remove, or the count to set")
    of: Literal["instances", "percent"] = Field(
        default="instances", description="What the amount counts; a percentage of the desired count is at least one"
    )
    bands: list[Band] = Field(
        default_factory=list, max_length=MOST_BANDS, description="Other amounts further beyond the threshold"
    )

    @field_validator("threshold", mode="before")
    @classmethod
    def _read_threshold(cls, value: Any, info: ValidationInfo) -> Any:
        return read_level(value, info)

    @field_validator("amount")
    @classmethod
    def _at_least_one(cls, amount: int, info: ValidationInfo) -> int:
        if amount == 0 and info.data.get("action") in ("add", "remove"):
            raise wrong("add or remove at least 1")
        return amount

    @field_validator("of")
    @classmethod
    def _percent_of_what(cls, of: str, info: ValidationInfo) -> str:
        if of == "percent" and info.data.get("action") == "set":
            raise wrong("a count is set in instances; write of: instances")
        return of

    @field_validator("bands", mode="before")
    @classmethod
    def _read_bands(cls, bands: Any, info: ValidationInfo) -> Any:
        if not isinstance(bands, list):
            return bands
        read = [{**b, "beyond": read_level(b["beyond"], info)} if isinstance(b, dict) and "beyond" in b else b for b in bands]
        if all(isinstance(b, dict) and "beyond" in b for b in read) and isinstance(info.data.get("threshold"), float):
            levels = [info.data["threshold"], *(b["beyond"] for b in read)]
            down = info.data.get("side") == "below"
            if any(b >= a if down else b <= a for a, b in pairwise(levels)):
                way = "below" if down else "above"
                raise wrong(f"each band lies {way} the one before it, and the first {way} the threshold")
        return read

    @property
    def adds(self) -> bool:
        return self.action in ("add", "set")

    @property
    def removes(self) -> bool:
        return self.action in ("remove", "set")

    @property
    def highest(self) -> int | None:
        if self.action == "add":
            return None
        return max(self.amount, *(band.amount for band in self.bands), 0) if self.action == "set" else 0

    @property
    def level_at(self) -> tuple[str, float]:
        return "threshold", self.threshold

    @property
    def edge(self) -> str:
        return self.side

    @property
    def verb(self) -> str:
        return "set the count to" if self.action == "set" else self.action

    @property
    def _of(self) -> str:
        return " %" if self.of == "percent" else ""

    def step(self, count: int) -> int:
        """How many it adds or removes at a count."""
        return step_of(count, self.amount, self.of == "percent")

    def order(self) -> Order:
        numbers = {
            "level": self.threshold,
            "below": self.side == "below",
            "action": Action[self.action.upper()],
            "amount": self.amount,
            "percent": self.of == "percent",
            "removes": self.removes,
        }
        return Order(numbers, tuple((band.beyond, band.amount) for band in self.bands))

    def sentence(self, path: str, work: Work) -> list[Word]:
        bands: list[Word] = []
        for place, band in enumerate(self.bands):
            bands += [
                say(", or "),
                Word(text=f"{band.amount}{self._of}", path=f"{path}.bands.{place}.amount", value=band.amount),
                say(" beyond "),
                Word(text=self.say_level(band.beyond), path=f"{path}.bands.{place}.beyond", value=band.beyond),
            ]
        return [
            say("When "),
            *self.metric_words(path),
            say(" stays "),
            choice_word(f"{path}.side", self.side),
            say(" "),
            Word(text=self.say_level(self.threshold), path=f"{path}.threshold", value=self.threshold),
            say(" for "),
            time_word(f"{path}.window", self.window),
            say(", "),
            choice_word(f"{path}.action", self.action, self.verb),
            say(" "),
            Word(text=f"{self.amount}{self._of}", path=f"{path}.amount", value=self.amount),
            *bands,
        ]

    def in_short(self, work: Work) -> str:
        verb = {"add": "adds", "remove": "removes", "set": "sets"}[self.action]
        return f"{verb} {self.amount}{self._of} {self.side} {self.say_level(self.threshold)} {self.metric_label}"

    def sight(self, value: float, work: Work, expected: Expected | None = None) -> str:
        seen = f"{FOLD_WORDS[self.fold]} {self.metric_label} {self.say_level(value)} over {say_duration(self.window)}"
        below = self.side == "below"
        levels = [self.threshold, *(band.beyond for band in self.bands)]
        passed = [level for level in levels if (value < level if below else value > level)]
        level = passed[-1] if passed else self.threshold
        how = "not " if not passed else "just " if self.say_level(value) == self.say_level(level) else ""
        return f"{seen}, {how}{self.side} {self.say_level(level)}"

    def mark(self, level: float) -> str:
        verb = "set to" if self.action == "set" else self.action
        return f"{verb} {self.amount}{self._of} {self.side} {self.say_level(level)}"

    def reaches(self, period: float) -> list[Reach]:
        found = super().reaches(period)
        if self.adds and self.of == "instances":
            found.append(Reach("amount", 1.0, max(4.0, 2.0 * self.amount), 1.0))
        return [*found, Reach("window", period, max(8 * period, 1.5 * self.window), period)]

    @property
    def another_band(self) -> dict[str, Any] | None:
        """A band beyond the last, with a larger step; None where there are as many as may be."""
        if len(self.bands) == MOST_BANDS:
            return None
        beyond, amount = (self.bands[-1].beyond, self.bands[-1].amount) if self.bands else (self.threshold, self.amount)
        farther = beyond * 0.75 if self.side == "below" else beyond * 1.25 or self.metric.plausible / 2
        return {"beyond": round(farther if farther < self.most else (beyond + self.most) / 2, 6), "amount": amount + 1}

    def acts(self, site: Site) -> list[Act]:
        found = [Act("+ band", {"bands": None}, "add")] if len(self.bands) < MOST_BANDS else []
        if self.bands:
            found.append(Act("− band", {"bands": None}, "remove"))
        if self.action == "add" and not self.bands and site.room >= LADDER[1]:
            found.append(Act("+ ladder", {"of": "instances", **self._ladder(site.room)}))
        if self.action != "set":
            percent = self.of == "percent"
            found.append(Act("in instances" if percent else "in per cent", {"of": "instances" if percent else "percent"}))
        if self.zone is not None:
            found.append(Act("watch all zones", {"zone": None}))
        elif self.metric.by_zone and len(site.zones) > 1:
            found.append(Act("watch one zone", {"zone": site.zones[0]}))
        return found

    def _ladder(self, room: int) -> dict[str, Any]:
        """Larger steps farther beyond the threshold, none larger than there is room for."""
        steps = [step * max(1, room // ROOMS) for step in LADDER if step <= room]
        end = 0.0 if self.side == "below" else min(self.most, 2 * self.threshold or self.metric.plausible)
        apart = (end - self.threshold) / len(steps)
        rungs = [{"beyond": round(self.threshold + n * apart, 6), "amount": step} for n, step in enumerate(steps[1:], 1)]
        return {"amount": steps[0], "bands": rungs}

    def editor(self, field: str, value: Any, site: Site) -> Editor | None:
        if field == "amount":
            return number("How many", "%" if self.of == "percent" else "instances", 1.0, 1.0, 100.0, 1.0).around(value)
        return super().editor(field, value, site)
