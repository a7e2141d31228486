"""What was spent while a plan lived, amount by amount."""

from collections.abc import Iterator
from datetime import datetime

import numpy as np

from jostle.core.engine.name import name_of
from jostle.formats.costs_csv import Spent
from jostle.live.live import Live


def spent(live: Live, until: dict[str, float]) -> Iterator[Spent]:
    """Each amount of each hour that ends by an instant of its group (s since 1970), group by group, instance by instance."""
    for name, life in live.everyone.items():
        crew = life.leg.crew
        book, instances = life.ledger(closed=live.now < live.ends), life.state.instances.view(np.ndarray)
        for entry in book.entries:
            hour = book.hours[entry.hour]
            if hour.end > until.get(name, 0.0) + 1e-6:
                continue
            yield Spent(
                begin=hour.begin,
                end=hour.end,
                day=f"{datetime.fromtimestamp(hour.begin, live.plan.zone):%Y-%m-%d}",
                group=name,
                name="" if entry.instance is None else name_of(crew, name, life.seed, instances[entry.instance], entry.instance),
                instance=None if entry.instance is None else entry.instance + 1,
                part=entry.part,
                seconds=entry.seconds,
                amount=entry.amount,
            )
