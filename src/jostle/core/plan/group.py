"""An instance group: a crew whose size follows the work, with the orders that say how."""

from collections import Counter
from typing import Annotated

from pydantic import Field, ValidationInfo, field_validator

from jostle.core.plan.model import Model
from jostle.core.plan.policy import Policy
from jostle.core.plan.promise import Promise
from jostle.core.plan.quantity import Duration, Name, wrong
from jostle.core.plan.work import Requests

Count = Annotated[int, Field(ge=0, le=1000)]


class Meters(Model):
    """How the dials are read: a sample every period, known to the policies after the delay."""

    period: Duration = Field(default=60.0, gt=0, le=3600)
    delay: Duration = Field(default=30.0, le=3600)


class Group(Model):
    template: Name = Field(description="Name of a launch template of the plan")
    minimum: Count
    maximum: Count = Field(ge=1)
    start_count: Count | None = Field(default=None, description="Instances serving at the start; the minimum if left out")
    work: Requests
    demand: Name = Field(description="Name of the demand that it is rehearsed against unless another is named")
    promises: list[Promise] = Field(default_factory=list, max_length=10)
    policies: list[Policy] = Field(default_factory=list, max_length=20)
    cooldown: Duration = Field(default=0.0, description="A wait after any change, for all policies of the group")
    drain: Duration = Field(default=60.0, le=86400, description="How long a leaving instance finishes its work")
    meters: Meters = Meters()
    evaluate_every: Duration = Field(default=60.0, gt=0, le=3600, description="How often the policies are asked")

    @property
    def first_count(self) -> int:
        return self.minimum if self.start_count is None else self.start_count

    @field_validator("maximum")
    @classmethod
    def _above_minimum(cls, maximum: int, info: ValidationInfo) -> int:
        minimum = info.data.get("minimum")
        if minimum is not None and maximum < minimum:
            raise wrong(f"the maximum cannot be below the minimum of {minimum}; write {minimum} or more")
        return maximum

    @field_validator("start_count")
    @classmethod
    def _within_limits(cls, start: int | None, info: ValidationInfo) -> int | None:
        low, high = info.data.get("minimum"), info.data.get("maximum")
        if start is not None and low is not None and high is not None and not low <= start <= high:
            raise wrong(f"the starting count lies between the minimum and the maximum: {low} to {high}")
        return start

    @field_validator("policies")
    @classmethod
    def _names_once(cls, policies: list[Policy]) -> list[Policy]:
        twice = [name for name, times in Counter(p.name for p in policies).items() if times > 1]
        if twice:
            raise wrong(f"two policies are called {twice[0]}; give each its own name")
        return policies
