"""A Hold policy is a thermostat: it keeps a metric at a level by proportion."""

from typing import Any, ClassVar, Literal

from pydantic import Field, ValidationInfo, field_validator

from jostle.core.plan.editor import Editor, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy.base import (
    FOLD_WORDS,
    MAY_REMOVE,
    Expected,
    LevelOfMetric,
    MetricPolicy,
    Order,
    Start,
    read_level,
    removing,
)
from jostle.core.plan.quantity import Share, say_duration
from jostle.core.plan.word import Word, say, share_word, time_word
from jostle.core.plan.work import Work


class HoldPolicy(MetricPolicy):
    starts: ClassVar = {
        "hold": Start(
            "policy that holds a level",
            "proportional thermostat setpoint",
            "hold-cpu",
            {"metric": Metric.CPU.value, "level": 0.55},
        )
    }
    editors: ClassVar[dict[str, Editor]] = {
        "tolerance": number("Give or take", "%", 100.0, 0.0, 50.0, 1.0),
        "may_remove": MAY_REMOVE,
    }

    kind: Literal["hold"]
    level: LevelOfMetric
    tolerance: Share = Field(default=0.1, description="How far the metric may stray, as a share of the level")
    may_remove: bool = Field(default=True, description="Whether it may also remove instances")

    @field_validator("level", mode="before")
    @classmethod
    def _read_level(cls, value: Any, info: ValidationInfo) -> Any:
        level = read_level(value, info)
        if level <= 0 and "metric" in info.data:
            raise wrong("a level to hold is above zero")
        return level

    @field_validator("fold")
    @classmethod
    def _a_level(cls, fold: str) -> str:
        if fold in ("sum", "count"):
            raise wrong("a level is held on average, minimum, maximum, latest or p90")
        return fold

    @field_validator("zone")
    @classmethod
    def _whole_group(cls, zone: str | None) -> str | None:
        if zone is not None:
            raise wrong("a Hold policy sizes the whole group; leave zone out")
        return zone

    @field_validator("metric")
    @classmethod
    def _proportional(cls, metric: Metric) -> Metric:
        if not metric.proportional:
            fit = ", ".join(m for m in Metric if m.proportional)
            raise wrong(f"a Hold policy works by proportion and needs a metric that is shared out: {fit}")
        return metric

    @property
    def adds(self) -> bool:
        return True

    @property
    def removes(self) -> bool:
        return self.may_remove

    @property
    def level_at(self) -> tuple[str, float]:
        return "level", self.level

    def order(self) -> Order:
        return Order({"level": self.level, "tolerance": self.tolerance, "removes": self.may_remove})

    def sentence(self, path: str, work: Work) -> list[Word]:
        return [
            say("Hold "),
            *self.metric_words(path),
            say(" over "),
            time_word(f"{path}.window", self.window),
            say(" at "),
            Word(text=self.metric.say(self.level), path=f"{path}.level", value=self.level),
            say(" give or take "),
            share_word(f"{path}.tolerance", self.tolerance),
            say(", "),
            removing(self.may_remove, path),
        ]

    def in_short(self, work: Work) -> str:
        return f"holds {self.metric_label} at {self.metric.say(self.level)}"

    def sight(self, value: float, work: Work, expected: Expected | None = None) -> str:
        seen = f"{FOLD_WORDS[self.fold]} {self.metric_label} {self.say_level(value)} over {say_duration(self.window)}"
        return f"{seen}, to be held at {self.metric.say(self.level)}"

    def mark(self, level: float) -> str:
        return f"hold at {self.metric.say(level)}"
