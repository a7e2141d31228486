"""Series measured elsewhere and brought as files."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, field_validator

from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration

# Three weeks of seconds, or nearly four years of minutes
MOST_SAMPLES = 2_000_000


class Samples(Model):
    """A brought series on an even grid. `rates` (1/s for a demand) are each valid for one step from its time on."""

    first: datetime
    step: Duration = Field(gt=0)
    rates: list[Annotated[float, Field(ge=0, le=1e12)]] = Field(min_length=2, max_length=MOST_SAMPLES)

    @field_validator("first")
    @classmethod
    def _aware(cls, first: datetime) -> datetime:
        if first.tzinfo is None:
            raise wrong("the first time needs an offset, such as 2025-07-07T00:00+01:00")
        return first


class Outside(Model):
    """A metric from outside that policies may watch: named by `file` in a plan file, held as `samples` once read."""

    file: str = Field(min_length=1, max_length=255)
    gaps: Literal["line", "hold", "zero"] = "hold"
    samples: Samples | None = Field(default=None, description="The series itself, in place of the file")
