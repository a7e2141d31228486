"""Which days of a brought series are laid under a plan's span, and how high it is laid."""

from datetime import datetime, timedelta

import numpy as np

from jostle.core.plan.clock import DAY
from jostle.core.plan.outside import Samples
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem


def busiest_day(samples: Samples, plan: Plan) -> datetime:
    """The day on which the busiest stretch of the series begins that is as long as the plan's span and, where the series is long
    enough, begins on the same day of the week."""
    days = _days(samples, plan)
    if len(days) == 1:
        return days[0]
    starts = np.array([day.timestamp() for day in days])
    times = samples.first.timestamp() + samples.step * np.arange(len(samples.rates))
    summed = np.concatenate([[0.0], np.cumsum(np.asarray(samples.rates))])
    low = np.searchsorted(times, starts)
    high = np.searchsorted(times, starts + plan.days * DAY)
    return days[int((summed[high] - summed[low]).argmax())]


def _days(samples: Samples, plan: Plan) -> list[datetime]:
    """Days on which a stretch of the plan's length may begin."""
    length = samples.step * len(samples.rates)
    first = samples.first.astimezone(plan.zone).replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    number = max(1, int((length - plan.days * DAY) // DAY) + 1)
    days = [(first + timedelta(days=n)).replace(tzinfo=plan.zone) for n in range(number)]
    alike = [day for day in days if day.weekday() == plan.start.astimezone(plan.zone).weekday()]
    return alike or days


def laid_from(samples: Samples, plan: Plan, day: datetime) -> str | None:
    """When the first row of a series is to be laid, on the plan's wall clock, so that this day of it lies at the plan's start.

    None where it lies there by itself. Raises PlanError where the series has no such day.
    """
    zone = plan.zone
    first = samples.first.astimezone(zone)
    last = first + timedelta(seconds=samples.step * len(samples.rates))
    if not first.date() <= day.date() <= last.date():
        said = f"is not among the days of the file, {first:%Y-%m-%d} to {last:%Y-%m-%d}"
        raise PlanError([Problem(("day",), f"{day:%Y-%m-%d}", said)])
    start = plan.start.astimezone(zone)
    shift = start.replace(tzinfo=None) - day.replace(hour=0, minute=0, second=0, microsecond=0, tzinfo=None)
    return None if not shift else (first.replace(tzinfo=None) + shift).isoformat()


def scale_for(samples: Samples, capacity: float, instances: float) -> float:
    """So many times the series makes its peak need so many instances that do `capacity` (1/s) each. Raises PlanError."""
    peak = max(samples.rates)
    if peak <= 0:
        raise PlanError([Problem(("peak",), None, "the series is zero throughout and cannot be scaled")])
    return float(f"{instances * capacity / peak:.6g}")
