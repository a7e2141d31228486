"""What of the paid instances was needed, against foresight for the demand that came, and what sleep and spot kept back."""

from collections import defaultdict
from collections.abc import Callable
from decimal import Decimal
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jostle.core.costs import bounds
from jostle.core.costs.ledger import Hour
from jostle.core.costs.price import total
from jostle.core.engine.result import run
from jostle.core.engine.setup import Setup
from jostle.core.plan.calendar import Sleep
from jostle.core.plan.clock import DAY
from jostle.core.plan.promise import ServicePromise
from jostle.live.life import Life

NEEDED, SPARE, OVERFLOW, MOVING, BESIDE = "needed", "spare", "overflow to spare", "boots and drains", "all else"
HOSTED, FREE = "guests on hosts", "free on hosts"


class KeptBack(NamedTuple):
    """What the lived span would have cost more otherwise, rehearsed with the same dice and without what hands did."""

    group: str
    by: str
    amount: Decimal


def need(life: Life, within: Callable[[Hour], bool]) -> dict[str, Decimal]:
    """The amount of some hours of a life, parted by what it was needed for; the parts add up to the last digit.

    A machine's price is parted by the time of instances: as many serving as foresight would have had in that interval were
    needed, what served beyond them is spare, what booted, warmed up or drained is neither. Disks, addresses and what the group
    pays for itself are all else. Where foresight finds no count that keeps the promises, nothing is parted. Of a host and its
    guests, whose counts hang together, it is told what guests held and what was free.
    """
    book = life.ledger()
    if life.leg.crew.group.shares_hosts:
        whole = sum((one.amount for one in book.entries if within(book.hours[one.hour])), Decimal())
        return {FREE if life.leg.crew.group.hosts else HOSTED: whole}
    parts: dict[str, Decimal] = defaultdict(Decimal)
    counts = _foreseen(life)
    amounts: dict[int, Decimal] = defaultdict(Decimal)
    for entry in book.entries:
        if not within(book.hours[entry.hour]):
            continue
        if entry.part.what == "machine" and counts is not None:
            amounts[entry.hour] += entry.amount
        else:
            parts[BESIDE] += entry.amount
    if counts is None:
        return dict(parts)
    owned, series = life.leg.crew.group.owned, life.state.series.view(np.ndarray)
    for number, amount in amounts.items():
        low, high = (
            round((at - life.clock.first) / life.clock.tick) for at in (book.hours[number].begin, book.hours[number].end)
        )
        shares, needed = _shares(series[low:high], counts[low:high], owned), amount
        for name, share in shares.items():
            parts[name] += amount * share
            needed -= amount * share
        parts[NEEDED] += needed
    return dict(parts)


def _shares(rows: np.ndarray, counts: NDArray[np.int64], owned: int | None) -> dict[str, Decimal]:
    """Shares of the paid time of instances in some ticks that were not needed, by what they were."""
    billed, serving = rows["billed"].astype(np.int64), np.minimum(rows["serving"], rows["billed"]).astype(np.int64)
    spare = serving - np.minimum(serving, counts)
    beyond = np.minimum(spare, np.maximum(billed - owned, 0)) if owned is not None else np.zeros_like(spare)
    whole = max(1, int(billed.sum()))
    named = {SPARE: spare - beyond, OVERFLOW: beyond, MOVING: billed - serving}
    return {name: Decimal(int(ticks.sum())) / whole for name, ticks in named.items()}


def _foreseen(life: Life) -> NDArray[np.int64] | None:
    """The count that foresight would have had in each tick that was lived; None where none keeps the promises."""
    played = int(life.state.now["tick"][0])
    if life.time < life.every:
        return None
    setup, _ = bounds.cheapest_alone(_cut(life.leg.setup, played), life.leg.crew)
    counts = bounds.foresight_counts(setup, _promised(life))
    return None if counts is None else np.repeat(counts, int(setup.of("evaluate_ticks")))[:played]


def _promised(life: Life) -> list[ServicePromise]:
    return [one for one in life.leg.crew.group.promises if isinstance(one, ServicePromise)]


def _cut(setup: Setup, ticks: int) -> Setup:
    """The same for the first ticks alone."""
    evaluations = ticks // int(setup.of("evaluate_ticks"))
    cut = setup._replace(
        means=setup.means[:ticks],
        arrivals=setup.arrivals[:ticks],
        orders=setup.orders[:evaluations],
        quota=setup.quota[:evaluations],
        clients=setup.clients[:, :ticks],
    )
    return cut.changed(ticks=ticks)


def foresight_cost(life: Life) -> Decimal | None:
    """What the lived span would have cost with perfect knowledge of its demand; None where no count keeps the promises."""
    if life.time < life.every or life.leg.crew.group.shares_hosts:
        return None
    return bounds.foresight_cost(_cut(life.leg.setup, int(life.state.now["tick"][0])), _promised(life), life.leg.crew)


def all_kept_back(life: Life) -> list[KeptBack]:
    """What sleep, and what spot, kept back in the lived span, each against the same rehearsed without it."""
    if life.time < life.every or life.leg.crew.group.shares_hosts:
        return []
    plan, crew, found = life.leg.plan.model_copy(update={"days": life.time / DAY}), life.leg.crew, []
    group = plan.groups[life.group]
    setup = life.rehearser.setup_of(plan, life.group, life.seed)
    cost = total(run(setup), crew)
    if any(isinstance(entry, Sleep) and not entry.paused for entry in group.calendar):
        awake = group.model_copy(update={"calendar": [entry for entry in group.calendar if not isinstance(entry, Sleep)]})
        without = plan.model_copy(update={"groups": {**plan.groups, life.group: awake}})
        slept = run(life.rehearser.setup_of(without, life.group, life.seed))
        found.append(KeptBack(life.group, "sleep", total(slept, crew) - cost))
    if setup.of("spot"):
        found.append(KeptBack(life.group, "spot", total(run(setup.changed(spot=False)), crew) - cost))
    return found
