"""A promise: what the group owes its users, or its owner's purse."""

from typing import Annotated, Literal

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Money, Share


class AnswersPromise(Model):
    """So many of all requests answered within a time; a failed request counts as not answered."""

    kind: Literal["answers"]
    share: Share = Field(gt=0, lt=1)
    within: Duration = Field(gt=0)


class CostPromise(Model):
    """At most this amount a week."""

    kind: Literal["cost"]
    at_most: Money


Promise = Annotated[AnswersPromise | CostPromise, Field(discriminator="kind")]
