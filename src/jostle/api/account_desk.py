"""What was spent on a plan: the ledger that is kept, the hours that have not ended yet, and what was brought of the past."""

import math
from contextlib import nullcontext
from datetime import date, datetime, time

from jostle.api.live_desk import LiveDesk
from jostle.core.costs.account import About, Account
from jostle.core.costs.books import HOUR, Book, Books, past_alone, with_past
from jostle.core.costs.ledger import Entry, blank_hour
from jostle.live.live import Live
from jostle.records.past_store import PastStore
from jostle.records.store import KeptPlan


def account_of(
    kept: KeptPlan, desk: LiveDesk, begin: date | None = None, end: date | None = None, past: bool = True
) -> Account | None:
    """The account of a plan, with the days from `begin` to `end` chosen, both included, all of them if left out; None where
    nothing lives or lived, and nothing was brought."""
    running = desk.of(kept.id)
    with nullcontext() if running is None else desk.still(running) as live:
        span = desk.ledger.span(kept.id)
        if live is not None:
            first, now, ends = live.first, live.now, live.ends
        elif span is not None:
            first, now, ends = span[0], span[1], span[1]
        else:
            first = now = ends = math.inf
        zone, apart = kept.plan.zone, begin if begin == end else None
        brought = PastStore(desk.desk.store).spans(kept.id, zone, first, apart) if past else []
        if brought and now == math.inf:
            now = ends = max(one.end for one in brought)
        if now == math.inf:
            return None
        first = min([first, *(one.begin for one in brought)])
        account = Account(zone, kept.plan.currency, first, now, ends, date.min, date.max)
        account.begin = begin or account.day(first)
        account.end = min(end or account.today, account.today)
        account.about = desk.ledger.about(kept.id)
        account.take_past(brought)
        desk.ledger.add_to(account, kept.id)
        if live is not None:
            account.lives = True
            add_tail(account, live, desk.ledger.until(kept.id))
    return account


def add_tail(account: Account, live: Live, until: dict[str, float]) -> None:
    """Add what was lived since the last hour that is entered of each group (s since 1970)."""
    for name, life in live.everyone.items():
        launch, work = life.leg.crew.launch, life.leg.crew.group.work
        account.about[name] = About(launch.template, work.kind)
        account.take(name, life.ledger(until.get(name, life.clock.first) - life.clock.first))


def books_of(kept: KeptPlan, desk: LiveDesk, begin: date | None = None, end: date | None = None) -> Books | None:
    """The ledgers of what lives, instance by instance, and what was brought; of what lives no more the chosen days, by part."""
    running, zone, currency = desk.of(kept.id), kept.plan.zone, kept.plan.currency
    if running is not None:
        with desk.still(running) as live:
            found = {
                name: Book(book.hours, book.entries, life.leg.crew.launch.template)
                for name, life in live.everyone.items()
                for book in [life.ledger()]
            }
            lived = Books(zone, currency, live.first, live.now, live.ends, found)
        return with_past(lived, PastStore(desk.desk.store).spans(kept.id, zone, live.first))
    span = desk.ledger.span(kept.id)
    past = PastStore(desk.desk.store).spans(kept.id, zone, math.inf if span is None else span[0])
    if span is None:
        return past_alone(past, zone, currency) if past else None
    lived = Books(zone, currency, span[0], span[1], span[1], {})
    first, today = lived.days
    begin, about = begin or first, desk.ledger.about(kept.id)
    at = datetime.combine(begin, time(), zone).timestamp()
    for (group, part), found_sum in desk.ledger.sums(kept.id, begin, end or today).items():
        book = lived.of.setdefault(group, Book([blank_hour(at, at + HOUR)], [], about[group].template))
        book.entries.append(Entry(0, None, part, *found_sum))
    return with_past(lived, past)
