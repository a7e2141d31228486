"""A controller that knows no simulation: it reads meters and asks a provider, decides, and keeps what it has seen in a ring."""

import math
from collections.abc import Iterator
from typing import Protocol

import numpy as np

from jostle.core.calendar.orders import orders
from jostle.core.decide.code import DIALS
from jostle.core.decide.decide import decide
from jostle.core.decide.memory import new_memory, set_by_hand
from jostle.core.decide.row import DECISION, FLEET, ORDER, VIEW
from jostle.core.decide.rules import Rules, rows
from jostle.core.decide.sight import Sight
from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearsal import crew_of


class Readings(Protocol):
    """Meters, each sample under its number."""

    def taken_by(self, time: float) -> int:
        """How many samples were taken until then."""
        ...

    def sample(self, number: int) -> tuple[np.ndarray, float]:
        """All dials of the group and its zones, and how many instances served."""
        ...


class Provider(Protocol):
    """Where the instances are."""

    def counts(self, time: float) -> tuple[int, int, int, int]:
        """Present, serving, pinned, and the quota."""
        ...

    def hands(self, since: float, until: float) -> Iterator[int]:
        """Counts that were set by hand after `since` and until `until`."""
        ...


class Controller:
    """Holds one group as its plan says, an instant at a time. Times are seconds from the plan's start."""

    def __init__(self, plan: Plan, group: str, rules: Rules, readings: Readings, provider: Provider, zones: int) -> None:
        self.plan, self.group, self.rules = plan, plan.groups[group], rules
        self.readings, self.provider = readings, provider
        self.memory = new_memory(rules, self.group.first_count)
        self.lead = crew_of(plan, group).lead
        one = rules.row[0]
        longest = max((int(policy.window) for policy in rules.policies), default=1)
        ring = longest + math.ceil(float(one.meter_delay + one.evaluate_every) / float(one.period)) + 1
        outside = max((int(policy.metric) for policy in rules.policies), default=0)
        shape = (zones, max(DIALS, outside + 1), ring)
        self.sight = Sight(np.full(shape, np.nan, np.float32), np.zeros(ring, np.float32))
        self.taken = 0
        self.time = 0.0

    def decide(self, time: float) -> tuple[np.ndarray, np.ndarray]:
        """The decision row and the views of the policies at an instant."""
        for number in range(self.taken, self.readings.taken_by(time)):
            place = number % len(self.sight.metered)
            self.sight.samples[:, :, place], self.sight.metered[place] = self.readings.sample(number)
            self.taken = number + 1
        for count in self.provider.hands(self.time, time):
            set_by_hand(self.rules, self.memory, count)
        self.time = time
        fleet, row, views = rows(1, FLEET), rows(1, DECISION), rows((1, len(self.rules.policies)), VIEW)
        fleet.present, fleet.serving, fleet.pinned, fleet.quota = self.provider.counts(time)
        order = rows(1, ORDER)
        told = orders(self.group.calendar, self.plan.start.timestamp(), self.plan.zone, np.array([time]), self.lead)
        for field in ORDER.names or ():
            order[field] = getattr(told, field)
        decide(self.rules, self.memory, self.sight, order, fleet, time, row, views, 0)
        return row, views[0]
