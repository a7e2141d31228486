"""What a hand does to a group at a given time: the script of a load test, or of a bad day."""

from typing import Annotated, Literal

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Share
from jostle.core.plan.wall import Moment

Which = Annotated[
    int | Literal["oldest", "newest"],
    Field(description="Number of the instance, counted from 1 in the order of launches, or oldest or newest"),
]


class HandSet(Model):
    """Sets the desired count."""

    kind: Literal["set"]
    at: Moment
    count: int = Field(ge=0, le=1000)


class HandKill(Model):
    """Ends an instance on the spot."""

    kind: Literal["kill"]
    at: Moment
    instance: Which = "oldest"


class HandPin(Model):
    """From now on, scale in never picks this instance."""

    kind: Literal["pin"]
    at: Moment
    instance: Which = "oldest"


class HandStress(Model):
    """Burns a share of an instance's CPU for a time."""

    kind: Literal["stress"]
    at: Moment
    instance: Which = "oldest"
    cpu: Share = Field(default=0.9, gt=0, le=1)
    length: Duration = Field(default=600.0, alias="for", gt=0, le=604800)


Hand = Annotated[HandSet | HandKill | HandPin | HandStress, Field(discriminator="kind")]
