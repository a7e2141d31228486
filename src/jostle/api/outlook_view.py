"""What putting an arrangement to work will bring, said before it is done."""

from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.journal.change import say_change
from jostle.core.journal.event import say_time
from jostle.core.journal.sentence import group_page
from jostle.core.plan.quantity import say_duration, say_money
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span
from jostle.live.hand import PutToWork
from jostle.live.life import Life

AHEAD = 6 * 3600.0
BUCKETS = 120
MOST_CHANGES = 4


class OutlookView(BaseModel):
    """`now` and `then` are the counts of instances that are likely over the hours to come, as it is and as it would be."""

    change: str = Field(description="What the arrangement changes")
    lines: list[str]
    now: Numbers
    then: Numbers


def outlook_view(life: Life, hand: PutToWork) -> OutlookView:
    """What is likely with another arrangement from now on, from how things stand. Raises PlanError where it does not fit."""
    as_it_is, as_it_would_be = life.likely(AHEAD), life.foretold(hand, AHEAD)
    pages = [group_page(one.crew, one.plan.currency) for one in (as_it_is, as_it_would_be)]
    first, rows = life.time, as_it_would_be.result.decisions
    changes = rows[(rows["time"] > first + 1e-6) & (rows["decided"] != rows["desired"])]
    lines = [
        f"{int(row['desired'])} → {int(row['decided'])} at {say_time(life.clock, float(row['time']))}"
        for row in changes[:MOST_CHANGES]
    ]
    if len(changes) > MOST_CHANGES:
        lines.append(f"and {len(changes) - MOST_CHANGES} more changes within {say_duration(AHEAD)}")
    if not lines:
        lines.append(f"the count stays at {life.keeper.wanted} for {say_duration(AHEAD)} at least")
    costs = [say_money(round(_spent(one, life), 2), one.plan.currency) for one in (as_it_is, as_it_would_be)]
    lines.append(f"likely to cost {costs[1]} in {say_duration(AHEAD)}, as it is {costs[0]}")
    return OutlookView(change=say_change(*pages), lines=lines, now=_counts(as_it_is, life), then=_counts(as_it_would_be, life))


def _tick(life: Life, seconds: float) -> int:
    return min(life.ground.setup.ticks - 1, round(seconds / life.ground.setup.tick))


def _spent(record: Rehearsal, life: Life) -> float:
    """What the hours to come are likely to cost, as the engine reckons it."""
    return record.result.tally("spend") - float(life.state.now["spend"][0])


def _counts(record: Rehearsal, life: Life) -> Numbers:
    ticks = life.ground.setup.ticks
    span = Span.of(ticks, _tick(life, life.time), _tick(life, life.time + AHEAD), BUCKETS)
    return numbers(span.buckets(record.result.series["units"]).mean)
