"""What was paid for before the groups of a plan lived here, as it was brought."""

from datetime import date, datetime, time, timedelta
from decimal import Decimal
from zoneinfo import ZoneInfo

import numpy as np

from jostle.core.costs.books import BILLIONTHS, HOUR, PastSpan
from jostle.core.plan.clock import offsets
from jostle.records.store import Store
from jostle.records.table import PastHourRow

# Whole numbers add up exactly, so that days are summed where they lie
_DAYS = """
    SELECT group_name, CAST((begin + ?) / 86400 AS INTEGER) AS day, MIN(begin), COUNT(*), SUM(instances), SUM(billionths)
    FROM past_hour WHERE plan_id = ? AND begin >= ? AND begin < ? GROUP BY group_name, day
"""
_HOURS = "SELECT group_name, begin, instances, billionths FROM past_hour WHERE plan_id = ? AND begin >= ? AND begin < ?"


class PastStore:
    """The part of the records that is about the past that was brought."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def spans(self, plan_id: int, zone: ZoneInfo, before: float, apart: date | None = None) -> list[PastSpan]:
        """What was brought of the time before an instant, a span for each group and day on the clock of a zone; one day apart is
        told hour by hour."""
        with self._store.reading():
            known = self._store.asked("SELECT MIN(begin), MAX(begin) FROM past_hour WHERE plan_id = ?", plan_id)[0]
            if known[0] is None or known[0] >= before:
                return []
            end = min(before, known[1] + HOUR)
            if apart is None:
                return self._days(plan_id, zone, known[0], end)
            low, high = (datetime.combine(day, time(), zone).timestamp() for day in (apart, apart + timedelta(days=1)))
            rows = self._store.asked(_HOURS, plan_id, max(low, known[0]), min(high, end))
            hours = [PastSpan(begin, 1, group, many, Decimal(amount) / BILLIONTHS) for group, begin, many, amount in rows]
            around = [(known[0], min(low, end)), (max(high, known[0]), end)]
            return hours + [one for first, last in around if first < last for one in self._days(plan_id, zone, first, last)]

    def _days(self, plan_id: int, zone: ZoneInfo, first: float, last: float) -> list[PastSpan]:
        edges = np.arange(first, last, HOUR)
        ahead = offsets(edges, zone)
        turns = [0, *(1 + np.flatnonzero(np.diff(ahead))).tolist()]
        found: dict[tuple[str, int], PastSpan] = {}
        for turn, following in zip(turns, [*turns[1:], None], strict=True):
            until = last if following is None else edges[following]
            for group, day, begin, many, instances, amount in self._store.asked(
                _DAYS, float(ahead[turn]), plan_id, float(edges[turn]), float(until)
            ):
                # A day on which the clocks change lies on both sides of the turn.
                known = found.get((group, day), PastSpan(begin, 0, group, 0.0, Decimal()))
                both = known.hours + many
                mean = (known.instances * known.hours + instances) / both
                found[group, day] = PastSpan(known.begin, both, group, mean, known.amount + Decimal(amount) / BILLIONTHS)
        return list(found.values())

    def bring(self, plan_id: int, hours: list[PastSpan]) -> None:
        """Keep hours in one write; those that were brought before are replaced."""
        rows = ((plan_id, one.group, one.begin, one.instances, int(one.amount * BILLIONTHS)) for one in hours)
        with self._store.transaction():
            self._store.put_many("INSERT OR REPLACE INTO past_hour VALUES (?, ?, ?, ?, ?)", rows)

    def drop(self, plan_id: int) -> None:
        with self._store.transaction():
            PastHourRow.delete().where(PastHourRow.plan == plan_id).execute()
