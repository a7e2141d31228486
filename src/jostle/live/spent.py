"""What was spent while a plan lived, amount by amount."""

from collections.abc import Iterator
from datetime import datetime

from jostle.formats.costs_csv import Spent
from jostle.live.live import Live


def spent(live: Live) -> Iterator[Spent]:
    """Each amount of each hour, group by group."""
    for name, life in live.everyone.items():
        book, launch = life.ledger(), life.leg.crew.launch
        for entry in book.entries:
            hour = book.hours[entry.hour]
            yield Spent(
                begin=hour.begin,
                end=hour.end,
                day=f"{datetime.fromtimestamp(hour.begin, live.plan.zone):%Y-%m-%d}",
                group=name,
                instance=None if entry.instance is None else entry.instance + 1,
                machine="" if entry.instance is None else launch.machine,
                zone=entry.zone,
                version=entry.version,
                overflow=entry.overflow,
                what=entry.what,
                seconds=entry.seconds,
                amount=entry.amount,
                spot=entry.spot,
            )
