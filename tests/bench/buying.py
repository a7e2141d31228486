"""What buying on the market comes to: all on demand, mixed, mixed with swaps, over seeds; and the same through a storm."""

from typing import Any

import numpy as np

from jostle.core.plan.demand import Demand
from jostle.core.plan.plan import Plan, with_group
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import verdict
from jostle.demo import MIX
from jostle.formats.shipped import demo_plan
from tests.bench.measuring import Size

SWAP = {"every": 900, "saves": 0.2, "risk": 0.1, "at_once": 2}
MIXES: dict[str, dict[str, Any]] = {
    "booking-web": MIX,
    "tide-model": {
        "needs": {"vcpus": 4, "most_vcpus": 4, "memory_gib": 16},
        "on_demand": {"first": 1},
        "choose": "cheapest",
        "caps": {"price": 0.6, "risk": 0.12},
    },
}
STORM = {"kind": "spot_storm", "at": "2025-07-10T09:00", "for": "10 min", "share": 0.5}


def bought(plan: Plan, group: str, buying: dict[str, Any] | None) -> Plan:
    return with_group(plan, group, plan.groups[group].model_dump(mode="json") | {"buying": buying})


def stormy(plan: Plan, group: str) -> Plan:
    at = "2025-07-10T02:00" if group == "tide-model" else STORM["at"]
    name = plan.groups[group].demand
    demand = plan.demands[name].model_dump(mode="json")
    struck = Demand.model_validate(demand | {"incidents": [*demand["incidents"], STORM | {"at": at}]})
    return plan.model_copy(update={"demands": {**plan.demands, name: struck}})


def played(plan: Plan, group: str, text: str, seeds: range) -> None:
    rehearser, told = Rehearser(), []
    for rehearsal in rehearser.rehearse_each(plan, group, seeds):
        judged = verdict(rehearsal, whole=False)
        kept, one = all(promise.kept for promise in judged.promises), judged.figures
        told.append((float(one.cost), kept, one.late_percent or 0.0, one.reclaims, one.swaps))
    cost, kept_all, late, reclaims, swaps = np.array(told, dtype=float).T
    print(
        f"{group}, {text}: {cost.mean():.2f} a week (from {cost.min():.2f} to {cost.max():.2f}), {late.mean():.2f} % late, every "
        f"promise kept in {int(kept_all.sum())} of {len(seeds)}, {reclaims.mean():.1f} reclaimed, {swaps.mean():.1f} swapped",
        flush=True,
    )


def mixes(size: Size) -> None:
    demo, seeds = demo_plan(), range(1, 1 + size.seeds)
    for group, mix in MIXES.items():
        played(bought(demo, group, None), group, "all on demand", seeds)
        played(bought(demo, group, mix), group, "mixed", seeds)
        played(bought(demo, group, mix | {"swap": SWAP}), group, "mixed, with swaps", seeds)
        played(stormy(bought(demo, group, mix | {"swap": SWAP}), group), group, "mixed, with swaps, through a storm", seeds)


PARTS = (mixes,)
