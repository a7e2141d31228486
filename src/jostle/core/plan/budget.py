"""A budget: what a plan, or one of its groups, is to cost at the most in a week or a month."""

from datetime import date, timedelta
from typing import Literal

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Money, Name


class Budget(Model):
    group: Name | None = Field(default=None, description="Of all groups together if left out")
    each: Literal["week", "month"] = "month"
    at_most: Money = Field(gt=0)

    @property
    def whose(self) -> str:
        return self.group or "all groups"

    def since(self, day: date) -> date:
        """The first day of the week or month of a day."""
        return day.replace(day=1) if self.each == "month" else day - timedelta(days=day.weekday())
