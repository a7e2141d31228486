"""Spot: what the market may do to a group that buys there."""

import numpy as np

from jostle.core.checks.finding import Finding, Mend
from jostle.core.costs.bounds import keeps
from jostle.core.engine.code import EventKind
from jostle.core.engine.compile import Crew
from jostle.core.engine.market import MARKET_STEP, step_at
from jostle.core.engine.result import run
from jostle.core.plan.promise import ServicePromise
from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.plan.work import Jobs, Requests, Sessions
from jostle.core.rehearsal.rehearsal import Rehearsal

# Half of a zone's spot taken back within ten minutes
STORM, STORM_STEPS = 0.5, 2


def check_caps(crew: Crew) -> list[Finding]:
    """A cap below what the market usually asks, or below its usual risk."""
    buying, spot = crew.group.buying, crew.machine.spot
    if buying is None or spot is None:
        return []
    found = []
    usual = spot.level * min([1.0, *spot.zones.values()] if spot.zones else [1.0])
    if buying.caps.price < usual:
        text = (
            f"A {crew.launch.machine} costs {say_share(usual)} of its on-demand price on the market, and the cap is "
            f"{say_share(buying.caps.price)}: it is bought only when the price is unusually low, else on demand."
        )
        raised = round(min(1.0, 1.3 * usual), 2)
        mend = Mend(text=f"up to {say_share(raised)}", settings={"buying.caps.price": raised})
        found.append(Finding(code="cap-below-price", severity="warning", path="buying.caps.price", text=text, mend=mend))
    if buying.caps.risk < spot.reclaims:
        text = (
            f"{say_share(spot.reclaims)} of instances are reclaimed an hour at the usual price, and the cap is "
            f"{say_share(buying.caps.risk)}: hardly any is ever bought as spot."
        )
        found.append(Finding(code="cap-below-risk", severity="warning", path="buying.caps.risk", text=text))
    return found


def check_spot_places(crew: Crew) -> list[Finding]:
    """All spot in one zone, where one storm takes it."""
    if crew.group.buying is None or len(crew.launch.zones) > 1:
        return []
    text = f"All spot is of one type in {crew.launch.zones[0]}: one storm takes all of it. Spread it over several zones."
    return [Finding(code="spot-one-zone", severity="warning", path="buying", text=text)]


def check_interrupted(crew: Crew) -> list[Finding]:
    """Work that does not end within the notice of a reclaim."""
    group, spot = crew.group, crew.machine.spot
    if group.buying is None or spot is None:
        return []
    match group.work:
        case Jobs(job_seconds=seconds) if seconds / crew.machine.speed > spot.notice:
            lost = f"a job takes {say_duration(seconds / crew.machine.speed)}, and is given back and begun again"
        case Sessions(length=length) if length > spot.notice:
            lost = f"a session lasts {say_duration(length)} on average, and is cut off"
        case Requests() if group.sticky > spot.notice:
            lost = f"clients stay for {say_duration(group.sticky)}, and have to find another instance"
        case _:
            return []
    text = f"A reclaim gives {say_duration(spot.notice)} of notice: {lost}."
    return [Finding(code="spot-interrupts", severity="warning", path="buying", text=text)]


def check_on_demand_part(rehearsal: Rehearsal) -> list[Finding]:
    """More on demand than the quietest hour needs."""
    buying = rehearsal.crew.group.buying
    decisions = rehearsal.result.decisions
    if buying is None or not len(decisions):
        return []
    least = int(decisions["decided"].min())
    if buying.on_demand.first <= max(1, least):
        return []
    text = f"The count falls to {least}: of the first {buying.on_demand.first} on demand some could be spot in quiet hours too."
    mend = Mend(text=f"the first {max(1, least)}", settings={"buying.on_demand.first": max(1, least)})
    return [Finding(code="on-demand-much", severity="note", path="buying.on_demand.first", text=text, mend=mend)]


def check_swaps(rehearsal: Rehearsal) -> list[Finding]:
    """Swaps that cost more while both are there than they save afterwards."""
    result, setup = rehearsal.result, rehearsal.result.setup
    if not setup.of("swap_ticks"):
        return []
    begun, ended = (result.events[result.events["kind"] == kind] for kind in (EventKind.SWAP_BEGINS, EventKind.SWAP_ENDS))
    served = {int(row["who"]): float(row["time"]) for row in ended}
    cost = saved = 0.0
    for row in begun:
        who, since = int(row["who"]), float(row["time"])
        one = result.instances[who]
        gone = float(one["gone"]) if one["gone"] == one["gone"] else result.elapsed
        taken = served.get(who, gone)
        price = setup.market.units[int(one["zone"]), step_at(since, setup.market.units.shape[1])]
        cost += float(price) * (taken - since)
        saved += float(row["after"]) * (gone - taken)
    if not len(begun) or saved >= cost:
        return []
    text = f"Of {len(begun)} swaps the overlap costs more than they save: those that come do not stay for long enough."
    mend = Mend(text="no swaps", settings={"buying.swap": None})
    return [Finding(code="swaps-dear", severity="warning", path="buying.swap.saves", text=text, mend=mend)]


def check_storm(rehearsal: Rehearsal) -> list[Finding]:
    """A promise that a storm of reclaims breaks: half of the spot in one zone, within ten minutes, when there is most of it."""
    setup, crew = rehearsal.result.setup, rehearsal.crew
    promises = [promise for promise in crew.group.promises if isinstance(promise, ServicePromise)]
    if not setup.of("spot") or not promises or not keeps(rehearsal.result, promises):
        return []
    step = max(1, int(np.argmax(rehearsal.result.series["serving"]) * setup.tick / MARKET_STEP))
    for zone, name in enumerate(crew.launch.zones):
        chances = setup.market.chances.copy()
        chances[zone, step : step + STORM_STEPS] = 1 - (1 - STORM) ** (1 / STORM_STEPS)
        struck = run(setup._replace(market=setup.market._replace(chances=chances)))
        if not keeps(struck, promises):
            text = f"If half of the spot in {name} is reclaimed within ten minutes of the busiest hour, a promise breaks."
            return [Finding(code="storm-breaks", severity="warning", path="buying", text=text)]
    return []
