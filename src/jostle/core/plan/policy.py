"""Scaling policies: the standing orders of a group.

A Hold policy is a thermostat: it keeps a metric at a level by proportion. A Trigger policy is a bell on a wire: when
a metric stays past a threshold for a window it acts, then waits. A Spare policy is the innkeeper who always keeps a
few rooms free.
"""

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, WithJsonSchema, field_validator, model_validator

from jostle.core.plan.measure import wrong
from jostle.core.plan.metric import Metric
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name, Share

Fold = Literal["average", "minimum", "maximum", "latest", "sum", "count", "p90"]
LevelOfMetric = Annotated[
    float,
    WithJsonSchema(
        {
            "anyOf": [{"type": "number"}, {"type": "string"}],
            "description": "A level in the metric's unit: 66 %, 400 ms, 120/s, or a bare number in its base unit",
        }
    ),
]
Amount = Annotated[int, Field(ge=0, le=1000)]
MOST_BANDS = 8


def _level(value: Any, info: ValidationInfo) -> Any:
    metric = info.data.get("metric")
    if not isinstance(metric, Metric):
        return 0.0
    if info.data.get("fold") == "count":
        return Metric.BACKLOG.read(value)
    return metric.read(value)


class PolicyBase(Model):
    name: Name
    window: Duration = Field(default=180.0, gt=0, description="How far back the published samples are folded")
    fold: Fold = Field(default="average", description="How the window's samples become one value")
    cooldown: Duration = Field(default=300.0, description="The wait after a change of this policy")
    paused: bool = False


class MetricPolicy(PolicyBase):
    metric: Metric
    series: Name | None = Field(default=None, description="Which of the plan's outside metrics, where the metric is outside")
    zone: Name | None = Field(default=None, description="Only the instances of one zone; the whole group if left out")

    @field_validator("zone")
    @classmethod
    def _zone_of_what(cls, zone: str | None, info: ValidationInfo) -> str | None:
        metric = info.data.get("metric")
        if zone is not None and (metric is None or not metric.by_zone):
            raise wrong(f"only these metrics are read by zone: {', '.join(metric for metric in Metric if metric.by_zone)}")
        return zone

    @model_validator(mode="before")
    @classmethod
    def _series_named(cls, value: Any) -> Any:
        outside = isinstance(value, dict) and value.get("metric") == Metric.OUTSIDE
        if outside and value.get("series") is None:
            raise wrong("metric: outside needs series: the name of one of the plan's outside metrics")
        if isinstance(value, dict) and not outside and value.get("series") is not None:
            raise wrong("series goes with metric: outside; leave it out")
        return value

    @property
    def metric_label(self) -> str:
        """What it looks at: the metric, the zone, the outside series."""
        label = self.series or self.metric.label
        return f"{label} in {self.zone}" if self.zone else label

    def say_level(self, value: float) -> str:
        """A level of its folded metric, with its unit; a count of samples has none."""
        return Metric.BACKLOG.say(value) if self.fold == "count" else self.metric.say(value)


class HoldPolicy(MetricPolicy):
    kind: Literal["hold"]
    level: LevelOfMetric
    tolerance: Share = Field(default=0.1, description="How far the metric may stray, as a share of the level")
    may_remove: bool = Field(default=True, description="Whether it may also remove instances")

    @field_validator("level", mode="before")
    @classmethod
    def _read_level(cls, value: Any, info: ValidationInfo) -> Any:
        level = _level(value, info)
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


class Band(Model):
    """A larger step for a larger breach."""

    beyond: LevelOfMetric
    amount: Amount


class TriggerPolicy(MetricPolicy):
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
        return _level(value, info)

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
        read = [{**b, "beyond": _level(b["beyond"], info)} if isinstance(b, dict) and "beyond" in b else b for b in bands]
        if all(isinstance(b, dict) and "beyond" in b for b in read) and isinstance(info.data.get("threshold"), float):
            levels = [info.data["threshold"], *(b["beyond"] for b in read)]
            down = info.data.get("side") == "below"
            if any(b >= a if down else b <= a for a, b in pairwise(levels)):
                way = "below" if down else "above"
                raise wrong(f"each band lies {way} the one before it, and the first {way} the threshold")
        return read


class SparePolicy(PolicyBase):
    kind: Literal["spare"]
    share: Share | None = Field(default=None, gt=0, lt=1, description="Share of the capacity kept free")
    number: float | None = Field(
        default=None, gt=0, le=1e9, description="Kept free: seats, requests per second, or jobs side by side"
    )
    slack: Share = Field(default=0.1, description="How much more than that, as a share of it, must stay free after a removal")
    may_remove: bool = Field(default=True, description="Whether it may also remove instances")

    @field_validator("fold")
    @classmethod
    def _an_amount(cls, fold: str) -> str:
        if fold in ("sum", "count"):
            raise wrong("what is in use is folded by average, minimum, maximum, latest or p90")
        return fold

    @model_validator(mode="before")
    @classmethod
    def _one_of_both(cls, value: Any) -> Any:
        if isinstance(value, dict) and (value.get("share") is None) == (value.get("number") is None):
            raise wrong("give either share, such as 15 %, or number, such as 60: how much is to stay free")
        return value


Policy = Annotated[HoldPolicy | TriggerPolicy | SparePolicy, Field(discriminator="kind")]
