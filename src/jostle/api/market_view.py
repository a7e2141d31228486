"""The spot market of a machine over the plan's span: what it asks in each zone, and what would be taken."""

from datetime import datetime
from decimal import Decimal

from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.engine.market import UNIT, hourly, market_of
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import say_price, say_share
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import listed
from jostle.core.rehearsal.rehearsal import clock_of
from jostle.core.rehearsal.strip import Span

BUCKETS = 240


class ZoneMarket(BaseModel):
    """The price in one zone, in buckets from the span's begin to its end, and what it is like."""

    zone: str
    low: Numbers
    high: Numbers
    mean: Numbers
    said: str


class MarketView(BaseModel):
    machine: str
    begin: float = Field(description="ms since 1970")
    end: float
    top: float = Field(description="The on-demand price of an hour, or what spot asks at the most where that is more")
    on_demand: float
    on_demand_text: str
    zones: list[ZoneMarket]


class SpotMarket(BaseModel):
    """Where spot prices come from, and whether they were brought."""

    said: str
    brought: bool


def spot_market(plan: Plan) -> SpotMarket:
    market = plan.market
    if market is None or not market.courses:
        return SpotMarket(said="Spot prices are drawn by chance, around the level of each machine.", brought=False)
    known: dict[str, list[str]] = {}
    for one in market.courses:
        known.setdefault(one.machine, []).append(one.zone)
    where = "; ".join(f"{machine} in {listed(zones)}" for machine, zones in known.items())
    begin, end = min(one.times[0] for one in market.courses), max(one.times[-1] for one in market.courses)
    days = " to ".join(say_moment(datetime.fromtimestamp(at, plan.zone)) for at in (begin, end))
    return SpotMarket(said=f"Spot prices are those of {market.file}, {days}: {where}. Others are drawn by chance.", brought=True)


def market_view(plan: Plan, name: str, seed: int) -> MarketView:
    """Raises PlanError where there is no such machine, or it is not sold as spot."""
    machine = plan.machines.get(name)
    if machine is None:
        raise PlanError([Problem(("machine",), name, f"no machine has this name; there is: {', '.join(plan.machines)}")])
    if machine.spot is None:
        raise PlanError([Problem(("machine",), name, "is not sold as spot")])
    clock, zones = clock_of(plan), plan.zones or ["anywhere"]
    market = market_of([(name, machine)], zones, clock.first, clock.seconds, seed, plan.market)
    steps = market.units.shape[2]
    span = Span.of(steps, 0, steps, BUCKETS)
    told = []
    for zone, units, chances in zip(zones, market.units[0], market.chances[0], strict=True):
        cut = span.buckets(units / UNIT)
        edges = (units.min(), round(float(units.mean())), units.max())
        low, mean, high = (say_price(Decimal(int(one)) / UNIT, plan.currency) for one in edges)
        said = f"{mean} an hour on average, {low} to {high}; {say_share(hourly(float(chances.mean())))} reclaimed an hour"
        told.append(ZoneMarket(zone=zone, low=numbers(cut.low), high=numbers(cut.high), mean=numbers(cut.mean), said=said))
    price = float(machine.price_per_hour)
    return MarketView(
        machine=name,
        begin=clock.first * 1000,
        end=(clock.first + clock.seconds) * 1000,
        top=max(price, float(market.units.max()) / UNIT),
        on_demand=price,
        on_demand_text=f"on demand {say_price(machine.price_per_hour, plan.currency)}",
        zones=told,
    )
