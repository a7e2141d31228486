"""What the spot market has at an instant: what the next launch would take, what would be next, what never and why."""

from decimal import Decimal

from pydantic import BaseModel, ConfigDict, Field

from jostle.core.built.play import kind_of, step_at
from jostle.core.engine.code import Bought
from jostle.core.engine.market import UNIT, hourly
from jostle.core.engine.mix import SPOT
from jostle.core.engine.result import Result
from jostle.core.plan.quantity import say_price, say_share
from jostle.core.rehearsal.closer import taken_next
from jostle.core.rehearsal.rehearsal import Rehearsal


class Berth(BaseModel):
    """One machine in one zone. `standing` says whether the next spot launch takes it: now, next, or never under the caps."""

    model_config = ConfigDict(frozen=True)

    standing: str = Field(description="now, next, or not")
    machine: str
    zone: str
    price: str
    share: str = Field(description="Of the on-demand price")
    risk: str = Field(description="Reclaimed an hour")
    why: str


def berths(rehearsal: Rehearsal, stood: Result) -> tuple[str, list[Berth]]:
    """What the next launch would be, and what the market has, in the order in which it would be taken. Nothing where a group does
    not buy there."""
    setup, crew = rehearsal.result.setup, rehearsal.crew
    if crew.group.buying is None:
        return "", []
    ranks, dear, how = taken_next(stood)
    step = step_at(stood.elapsed, setup.market.units.shape[2])
    found: list[tuple[int, Berth]] = []
    first = dear // len(crew.types) * len(crew.types)
    for t, one in enumerate(crew.every_type[first : first + len(crew.types)], first):
        for z, zone in enumerate(crew.launch.zones):
            rank, units = int(ranks[t, z]), int(setup.market.units[t, z, step])
            sold = bool(setup.market.offered[t, z, step])
            why = "" if rank else _why_not(rehearsal, stood, t, z, step)
            told = Berth(
                standing="now" if rank == 1 else "next" if rank else "not",
                machine=one.launch.machine,
                zone=zone,
                price=say_price(Decimal(units) / UNIT, rehearsal.plan.currency) if sold else "",
                share=say_share(round(units / UNIT / float(one.machine.price_per_hour), 2)) if sold else "",
                risk=say_share(round(hourly(float(setup.market.chances[t, z, step])), 3)) if sold else "",
                why=why,
            )
            found.append((rank or len(ranks.flat) + 1, told))
    name = crew.every_type[dear].launch.machine
    return _NEXT[how].format(name), [one for _, one in sorted(found, key=lambda pair: pair[0])]


_NEXT = {
    Bought.SPOT: "The next launch is spot; on demand it would be {}.",
    Bought.BY_MIX: "The next launch is {} on demand, as the mix says. Of the market it would take:",
    Bought.NO_SPOT: "The next launch is {} on demand: no spot was to be had a while ago.",
}


def _why_not(rehearsal: Rehearsal, stood: Result, t: int, z: int, step: int) -> str:
    setup, place = rehearsal.result.setup, stood.state.zones[z]
    units, kind = setup.market.units[t, z, step], setup.kinds[kind_of(t, SPOT)]
    buying = rehearsal.crew.group.buying
    assert buying is not None
    if rehearsal.crew.every_type[t].machine.spot is None:
        return "not sold as spot"
    if place.lost > 0 or place.closed > 0:
        return "the zone takes no launches"
    if not setup.market.offered[t, z, step]:
        return "none to be had"
    amount = buying.caps.amount
    if amount is not None and units > float(amount) * UNIT:
        return f"dearer than {say_price(amount, rehearsal.plan.currency)}"
    if units > kind.cap_units:
        return f"dearer than {say_share(buying.caps.price)} of on demand"
    if setup.market.chances[t, z, step] > setup.of("cap_chance"):
        return f"more than {say_share(buying.caps.risk)} reclaimed an hour"
    return "its quota is full"
