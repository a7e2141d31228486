"""Demand as a user describes it.

The rate at an instant is (sum of levels and brought series) x daily shape x weekday factor x growth x surges x noise,
and what load tests send besides. Incidents change no rate; they strike the group while it works.
"""

from typing import Self

from pydantic import Field, model_validator

from jostle.core.plan.incident import Incident
from jostle.core.plan.layer import Layer
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model


class Demand(Model):
    layers: list[Layer] = Field(min_length=1, max_length=40)
    incidents: list[Incident] = Field(default_factory=list, max_length=40)
    note: str = Field(default="", max_length=2000)

    @model_validator(mode="after")
    def _has_base(self) -> Self:
        if not any(layer.role == "base" for layer in self.layers):
            raise wrong("a demand needs a level, bursts or a brought series for its other layers to shape")
        return self
