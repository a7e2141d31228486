"""Why a lived day came to what it did: from what was rehearsed to what was lived, one thing after the other put in its place.

Each part is the day played with that and all before it as they were, less the day without it; so the parts add up.
"""

from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from itertools import pairwise

from jostle.core.costs.ledger import Ledger, ledger
from jostle.core.costs.sharing import shared_ledgers
from jostle.core.engine.setup import Setup
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.live.company import Company
from jostle.live.hand import Act, LoadService, PutToWork, StopLoad, Trouble
from jostle.live.life import Life, begun_together
from jostle.live.live import Done, Live

_ARRANGEMENTS = (PutToWork,)
_AND_TROUBLE = (PutToWork, LoadService, StopLoad, Trouble)


@dataclass(frozen=True)
class Stage:
    """What the day comes to with one thing more as it was: its amount, and the mean of paid instances."""

    what: str
    amount: Decimal
    count: float


@dataclass(frozen=True)
class Difference:
    """Of one group on one day. `stages` begin with what was rehearsed and end with all that is known; what is between the last of
    them and `lived` is not explained."""

    group: str
    stages: list[Stage]
    lived: Stage

    @property
    def parts(self) -> list[tuple[str, Decimal, float]]:
        """What each thing made of the amount and of the count, in the order in which it was put in place; the last is what is not
        explained."""
        steps = [*self.stages, Stage("not explained", self.lived.amount, self.lived.count)]
        return [(after.what, after.amount - before.amount, after.count - before.count) for before, after in pairwise(steps)]


def difference(live: Live, group: str, day: date) -> Difference:
    """From what was rehearsed beforehand, as the group was when it began to live, to what was lived on a day of it."""
    life, zone = live.life(group), live.plan.zone
    midnight = datetime.combine(day, datetime.min.time(), zone)
    # To the end of the day, or to now
    end = min(live.now, midnight.timestamp() + 25 * 3600)
    ticks = round((end - live.first) / life.clock.tick)
    plan, names = life.first_plan, [one.group for one in life.company.lives]
    crews = [crew_of(plan, name) for name in names]
    rehearsed, began = ([life.rehearser.setup_of(plan, name, seed) for name in names] for seed in (1, life.seed))
    came = [
        old._replace(means=new.means, arrivals=new.arrivals, clients=new.clients)
        for old, new in zip(rehearsed, began, strict=True)
    ]
    log = [done for done in live.log if done.group in names and done.at <= end]

    def engine(what: str, setups: list[Setup]) -> Stage:
        results = next(Company(setups).on_from_here(setups, [min(ticks, setups[0].ticks)]))
        books = [ledger(result, crew, life.clock) for result, crew in zip(results, crews, strict=True)]
        return _stage(what, shared_ledgers(books, results, life.clock)[names.index(group)], live, day)

    def with_hands(what: str, acts: tuple[type[Act], ...]) -> Stage:
        done = [one for one in log if isinstance(one.act, acts)]
        whole = acts == (Act,)
        if not done and not (whole and set(names) & set(live.begun.left_alone)):
            return Stage(what, stages[-1].amount, stages[-1].count)
        return _stage(what, _twin(live, life, done, end, whole).ledger(), live, day)

    stages = [engine("rehearsed", rehearsed)]
    stages.append(engine("the demand that came", came))
    stages.append(engine("boots, faults and prices as they were", began))
    stages.append(with_hands("arrangements put to work", _ARRANGEMENTS))
    stages.append(with_hands("load and trouble that were tried", _AND_TROUBLE))
    stages.append(with_hands("hands", (Act,)))
    return Difference(group, stages, _stage("lived", life.ledger(), live, day))


def _twin(live: Live, life: Life, log: list[Done], end: float, whole: bool) -> Life:
    """The group's life up to an instant, with some of what hands did."""
    arrangements = {one.group: one.legs[0].arrangement for one in life.company.lives}
    twins = begun_together(life.first_plan, list(arrangements), arrangements, life.seed, life.rehearser)
    by_name = {twin.group: twin for twin in twins}
    for twin in twins:
        twin.kept = not (whole and twin.group in live.begun.left_alone)
    for done in log:
        by_name[done.group].go_on(done.at - live.first, decided=True)
        by_name[done.group].lay(done.act)
    by_name[life.group].go_on(end - live.first, decided=True)
    return by_name[life.group]


def _stage(what: str, book: Ledger, live: Live, day: date) -> Stage:
    inside = {number: hour for number, hour in enumerate(book.hours) if hour.day(live.plan.zone) == day}
    amount = sum((entry.amount for entry in book.entries if entry.hour in inside), Decimal())
    seconds = sum(hour.end - hour.begin for hour in inside.values())
    paid = sum(hour.billed[1] * (hour.end - hour.begin) for hour in inside.values())
    return Stage(what, amount, paid / seconds if seconds else 0.0)
