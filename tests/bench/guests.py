"""How long the week of a host takes with its guests: the demo's deck as it is, and with twenty instances and four guests, at most
or throughout."""

from jostle.core.engine.carrying import run_aboard
from jostle.core.engine.result import run
from jostle.core.plan.demand import Demand
from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.formats.shipped import demo_plan
from tests.bench.measuring import Size, median_ms, say

TIMES = 5.0
NAMES = ["deck", "chat", "timetable", "weather", "tides-page"]


def many(plan: Plan, throughout: int | None = None) -> Plan:
    """The deck with so much to carry that some twenty instances serve at most, or so many throughout, and a fourth guest."""
    groups = {name: plan.groups[name].model_copy(update={"maximum": 200}) for name in NAMES[:4]}
    groups["tides-page"] = groups["timetable"]
    if throughout is not None:
        groups["deck"] = groups["deck"].model_copy(update={"minimum": throughout, "maximum": throughout})
    demands = {name: _more(demand) for name, demand in plan.demands.items()}
    return plan.model_copy(update={"groups": {**plan.groups, **groups}, "demands": demands})


def _more(demand: Demand) -> Demand:
    layers = [
        layer.model_copy(update={"rate": TIMES * layer.rate})
        if layer.kind == "level"
        else layer.model_copy(update={"amount": TIMES * layer.amount})
        if layer.kind == "bursts"
        else layer
        for layer in demand.layers
    ]
    return demand.model_copy(update={"layers": layers})


def hosts(size: Size) -> None:
    plan, rehearser, some = demo_plan(), Rehearser(), min(15, size.times)
    for made, names in ((plan, NAMES[:4]), (many(plan), NAMES), (many(plan, 20), NAMES)):
        setups = [rehearser.setup_of(made, name, 1) for name in names]
        serving = run_aboard(setups)[0].series["serving"]
        say(
            f"A host with {serving.mean():.0f} instances, {serving.max()} at most, and {len(names) - 1} guests, a week",
            median_ms(lambda s=setups: run_aboard(s), some),
        )
        say("  each of the guests by itself, added up", median_ms(lambda s=setups: [run(one) for one in s[1:]], some))


PARTS = (hosts,)
