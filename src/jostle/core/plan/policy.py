"""Scaling policies: the standing orders of a group.

A Hold policy is a thermostat: it keeps a metric at a level by proportion. A Trigger policy is a bell on a wire: when
a metric stays past a threshold for a window it acts, then waits.
"""

from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, WithJsonSchema, field_validator

from jostle.core.plan.metric import Metric
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name, Share, wrong

Fold = Literal["average", "minimum", "maximum", "latest"]
LevelOfMetric = Annotated[
    float,
    WithJsonSchema(
        {
            "anyOf": [{"type": "number"}, {"type": "string"}],
            "description": "A level in the metric's unit: 66 %, 400 ms, 120/s, or a bare number in its base unit",
        }
    ),
]


def _level(value: Any, info: ValidationInfo) -> Any:
    metric = info.data.get("metric")
    return metric.read(value) if isinstance(metric, Metric) else 0.0


class PolicyBase(Model):
    name: Name
    metric: Metric
    window: Duration = Field(default=180.0, gt=0, description="How far back the published samples are folded")
    fold: Fold = Field(default="average", description="How the window's samples become one value")
    cooldown: Duration = Field(default=300.0, description="The wait after a change of this policy")
    paused: bool = False


class HoldPolicy(PolicyBase):
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

    @field_validator("metric")
    @classmethod
    def _proportional(cls, metric: Metric) -> Metric:
        if not metric.proportional:
            fit = ", ".join(m for m in Metric if m.proportional)
            raise wrong(f"a Hold policy works by proportion and needs a metric that is shared out: {fit}")
        return metric


class TriggerPolicy(PolicyBase):
    kind: Literal["trigger"]
    side: Literal["above", "below"]
    threshold: LevelOfMetric
    action: Literal["add", "remove", "set"]
    amount: int = Field(ge=0, le=1000, description="How many to add or remove, or the count to set")
    of: Literal["instances", "percent"] = Field(
        default="instances", description="What the amount counts; a percentage of the desired count is at least one"
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


Policy = Annotated[HoldPolicy | TriggerPolicy, Field(discriminator="kind")]
