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


class AgePromise(Model):
    """So many of all jobs taken up within a time; one that still waits at the end counts by the age it has then."""

    kind: Literal["age"]
    share: Share = Field(default=1.0, gt=0, le=1)
    within: Duration = Field(gt=0)


class SeatsPromise(Model):
    """So many of all sessions find a seat."""

    kind: Literal["seats"]
    share: Share = Field(gt=0, le=1)


class CostPromise(Model):
    """At most this amount a week."""

    kind: Literal["cost"]
    at_most: Money


ServicePromise = AnswersPromise | AgePromise | SeatsPromise
Promise = Annotated[ServicePromise | CostPromise, Field(discriminator="kind")]
PROMISED_WORK = {"answers": "requests", "age": "jobs", "seats": "sessions"}
