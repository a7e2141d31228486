"""What was read from a file of demand, and which of its days are rehearsed."""

from datetime import datetime, timedelta
from typing import Any

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers
from jostle.core.demand.laying import busiest_day
from jostle.core.engine.compile import compile_setup
from jostle.core.plan.outside import Samples
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.work import Sessions
from jostle.core.rehearsal.rehearsal import clock_of, crew_of


class BroughtView(BaseModel):
    """What was read from a file, and what was done about its rows."""

    name: str
    rows: int
    unit: str
    step: str
    first: str
    length: str
    lowest: str
    highest: str
    notes: list[str]
    columns: list[str] = Field(description="The columns of a CSV file, or the series of an OpenMetrics file")
    time_column: str | None
    value_column: str
    shape: Numbers
    sample: list[list[str]] = Field(description="Its first rows, of a CSV file")
    rehearsed: str = Field(description="Which of its days lie under the plan's span")
    day: str = Field(description="The first of them")
    days: list[str] = Field(description="All days of the file, as many as the shape has parts of")
    window: list[float] = Field(description="Where those days begin and end, as shares of the file")
    scale: float
    kept: bool


def chosen_day(day: str | None, samples: Samples, plan: Plan) -> datetime | None:
    """The day of a file that is meant, on the plan's clock; None for its own dates."""
    if not day:
        return None
    if day == "busiest":
        return busiest_day(samples, plan)
    try:
        return datetime.fromisoformat(day[:10]).replace(tzinfo=plan.zone)
    except ValueError:
        raise PlanError([Problem(("day",), day, "write a date such as 2025-06-02, or busiest")]) from None


def rehearsed_days(samples: Samples, plan: Plan, begin: datetime | None, how: str | None) -> dict[str, Any]:
    """Which days of a series lie under the plan's span, in words and as a part of it."""
    first, length = samples.first.astimezone(plan.zone), samples.step * len(samples.rates)
    start = plan.start.astimezone(plan.zone) if begin is None else begin
    end = start + timedelta(days=plan.days)
    share = [(moment - first).total_seconds() / length for moment in (start, end)]
    inside = share[0] < 1 and share[1] > 0
    last = end - timedelta(seconds=1)
    said = f"{start:%a} {start.day} {start:%b} to {last:%a} {last.day} {end:%b %Y}"
    why = {"busiest": ", its busiest stretch", None: ", its own dates", "": ", its own dates"}.get(how, "")
    if not inside:
        said, why = "none of its own dates", f": it repeats by whole weeks or days until {start:%d %b %Y}"
    number = min(400, max(1, int(length // 86400) + 1))
    return {
        "rehearsed": f"Rehearsed: {said}{why}.",
        "day": f"{start:%Y-%m-%d}",
        "days": [f"{first + timedelta(days=n):%Y-%m-%d}" for n in range(number)],
        "window": [min(1.0, max(0.0, one)) for one in share],
    }


def capacity_of(plan: Plan, group: str) -> float:
    """What an instance of a group does, 1/s; of sessions, those that it seats over their mean length."""
    crew = crew_of(plan, group)
    setup = compile_setup(crew, clock_of(plan), np.zeros(clock_of(plan).ticks))
    capacity = float(setup.of("capacity"))
    return capacity / crew.group.work.length if isinstance(crew.group.work, Sessions) else capacity
