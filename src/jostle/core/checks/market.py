"""Spot: what the market may do to a group that buys there."""

import numpy as np

from jostle.core.built.play import step_at, type_of
from jostle.core.checks.finding import Finding, Mend
from jostle.core.costs.bounds import keeps
from jostle.core.engine.code import EventKind
from jostle.core.engine.compile import Crew
from jostle.core.engine.market import MARKET_STEP
from jostle.core.engine.result import run
from jostle.core.plan.machine_type import Needs
from jostle.core.plan.plan import Plan
from jostle.core.plan.promise import ServicePromise
from jostle.core.plan.quantity import say_duration, say_number, say_share
from jostle.core.plan.spot import Spot
from jostle.core.plan.word import listed
from jostle.core.plan.work import Jobs, Requests, Sessions
from jostle.core.rehearsal.rehearsal import Rehearsal

# Half of a zone's spot taken back within ten minutes
STORM, STORM_STEPS = 0.5, 2
# Machines whose powers are further apart are told
UNLIKE = 1.5


def _sold(crew: Crew) -> dict[str, Spot]:
    """The machines of a group that are sold as spot, by name."""
    return {one.launch.machine: one.machine.spot for one in crew.types if one.machine.spot is not None}


def check_caps(crew: Crew) -> list[Finding]:
    """A cap below what the market usually asks, or below its usual risk, for every machine."""
    buying, sold = crew.group.buying, _sold(crew)
    if buying is None or not sold:
        return []
    found = []
    levels = {name: spot.level * min([1.0, *spot.zones.values()] if spot.zones else [1.0]) for name, spot in sold.items()}
    name = min(levels, key=lambda one: levels[one])
    usual = levels[name]
    if buying.caps.price < usual:
        text = (
            f"A {name} costs {say_share(usual)} of its on-demand price on the market, and the cap is "
            f"{say_share(buying.caps.price)}: it is bought only when the price is unusually low, else on demand."
        )
        raised = round(min(1.0, 1.3 * usual), 2)
        mend = Mend(text=f"up to {say_share(raised)}", settings={"buying.caps.price": raised})
        found.append(Finding(code="cap-below-price", severity="warning", path="buying.caps.price", text=text, mend=mend))
    asks = {one.launch.machine: float(one.machine.price_per_hour) * levels.get(one.launch.machine, 1.0) for one in crew.types}
    lowest = min(asks[one] for one in sold)
    if buying.caps.amount is not None and float(buying.caps.amount) < lowest:
        dear = next(one for one in sold if asks[one] == lowest)
        text = (
            f"A {dear} costs {say_number(lowest)} an hour on the market, and the most is {buying.caps.amount}: it is bought only "
            "when the price is unusually low, else on demand."
        )
        raised = float(f"{1.3 * lowest:.3g}")
        mend = Mend(text=f"up to {say_number(raised)}", settings={"buying.caps.amount": raised})
        found.append(Finding(code="cap-below-price", severity="warning", path="buying.caps.amount", text=text, mend=mend))
    least = min(spot.reclaims for spot in sold.values())
    if buying.caps.risk < least:
        text = (
            f"{say_share(least)} of instances are reclaimed an hour at the usual price, and the cap is "
            f"{say_share(buying.caps.risk)}: hardly any is ever bought as spot."
        )
        found.append(Finding(code="cap-below-risk", severity="warning", path="buying.caps.risk", text=text))
    return found


def check_spot_places(crew: Crew) -> list[Finding]:
    """All spot in one zone, where one storm takes it."""
    sold = _sold(crew)
    if crew.group.buying is None or len(crew.launch.zones) > 1 or len(sold) > 1:
        return []
    text = f"All spot is of one type in {crew.launch.zones[0]}: one storm takes all of it. Spread it over several zones."
    return [Finding(code="spot-one-zone", severity="warning", path="buying", text=text)]


def check_spot_types(plan: Plan, crew: Crew) -> list[Finding]:
    """All spot on one machine where others that are as good are sold too."""
    buying, machine = crew.group.buying, crew.machine
    if buying is None or buying.needs is not None or len(_sold(crew)) != 1 or len(crew.types) > 1:
        return []
    needs = Needs(vcpus=machine.vcpus, memory_gib=machine.memory_gib, most_vcpus=machine.vcpus)
    name = crew.launch.machine
    others = [
        other
        for other, one in plan.machines.items()
        if other != name and one.spot is not None and one.baseline is None and needs.met_by(other, one, machine)
    ]
    if not others or machine.baseline is not None:
        return []
    text = f"All spot is {name}: when that is dear or gone, so is all of it. {listed(others)} would do as well."
    mend = Mend(text=f"{listed([name, *others], 'or')}", settings={"buying.types": [name, *others]})
    return [Finding(code="spot-one-type", severity="note", path="buying", text=text, mend=mend)]


def check_types(crew: Crew) -> list[Finding]:
    """Needs that one machine alone meets, and machines that count as one each and do unlike amounts."""
    buying = crew.group.buying
    if buying is None:
        return []
    if buying.needs is not None and len(crew.types) == 1:
        text = f"Only {crew.launch.machine} meets the needs: there is nothing to choose from."
        return [Finding(code="needs-one-type", severity="warning", path="buying.needs", text=text)]
    if buying.count_in == "weights":
        return _weights(crew)
    if buying.count_in == "vcpus":
        return []
    if (apart := _unlike(_powers(crew))) is None:
        return []
    least, most, times = apart
    text = (
        f"A {most} has {times} times the power of a {least}, and each counts as one instance: a count says little. "
        "Count vCPUs or units."
    )
    return [Finding(code="types-differ", severity="warning", path="buying", text=text)]


def _weights(crew: Crew) -> list[Finding]:
    """Weights that do not follow what the machines can do."""
    powers = _powers(crew)
    if (apart := _unlike({name: power / crew.weights.get(name, 1) for name, power in powers.items()})) is None:
        return []
    least, most, times = apart
    # The weakest as one
    weights = {name: max(1, round(power / min(powers.values()))) for name, power in powers.items()}
    mend = Mend(text=f"as they can do: {listed(f'{n} {w}' for n, w in weights.items())}", settings={"buying.weights": weights})
    text = f"A unit of {most} does {times} times as much as one of {least}: the weights do not follow what the machines can do."
    return [Finding(code="weights-differ", severity="warning", path="buying", text=text, mend=mend)]


def _powers(crew: Crew) -> dict[str, float]:
    """What each machine can do, by its vCPUs and their speed."""
    return {one.launch.machine: one.machine.vcpus * one.machine.speed for one in crew.types}


def _unlike(does: dict[str, float]) -> tuple[str, str, str] | None:
    """Who does the least and who the most, and how many times as much; None where that is much alike."""
    least, most = min(does, key=lambda name: does[name]), max(does, key=lambda name: does[name])
    if does[most] <= UNLIKE * does[least]:
        return None
    return least, most, say_number(round(does[most] / does[least], 2))


def check_interrupted(crew: Crew) -> list[Finding]:
    """Work that does not end within the notice of a reclaim."""
    group, sold = crew.group, _sold(crew)
    if group.buying is None or not sold:
        return []
    notice = min(spot.notice for spot in sold.values())
    slowest = min(one.machine.speed for one in crew.types)
    match group.work:
        case Jobs(job_seconds=seconds) if seconds / slowest > notice:
            lost = f"a job takes {say_duration(seconds / slowest)}, and is given back and begun again"
        case Sessions(length=length) if length > notice:
            lost = f"a session lasts {say_duration(length)} on average, and is cut off"
        case Requests() if group.sticky > notice:
            lost = f"clients stay for {say_duration(group.sticky)}, and have to find another instance"
        case _:
            return []
    text = f"A reclaim gives {say_duration(notice)} of notice: {lost}."
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
        price = setup.market.units[type_of(int(one["kind"])), int(one["zone"]), step_at(since, setup.market.units.shape[2])]
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
    if rehearsal.aboard is not None or not setup.of("spot") or not promises or not keeps(rehearsal.result, promises):
        return []
    step = max(1, int(np.argmax(rehearsal.result.series["serving"]) * setup.tick / MARKET_STEP))
    for zone, name in enumerate(crew.launch.zones):
        chances = setup.market.chances.copy()
        chances[:, zone, step : step + STORM_STEPS] = 1 - (1 - STORM) ** (1 / STORM_STEPS)
        struck = run(setup._replace(market=setup.market._replace(chances=chances)))
        if not keeps(struck, promises):
            text = f"If half of the spot in {name} is reclaimed within ten minutes of the busiest hour, a promise breaks."
            return [Finding(code="storm-breaks", severity="warning", path="buying", text=text)]
    return []
