"""Several machines in one group: which are bought, what each does and costs, and that all of it adds up."""

from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.checks.check import check
from jostle.core.costs.ledger import ledger
from jostle.core.costs.price import bills, total
from jostle.core.engine.code import EventKind
from jostle.core.journal.event import events
from jostle.core.journal.moment import moment
from jostle.core.journal.sentence import group_page
from jostle.core.journal.together import together
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.market_course import market_course
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.spend import spend_rate
from jostle.core.rehearsal.verdict import attribution, verdict
from jostle.live.span import lived
from tests.core.engine.test_spot import SPOT, made
from tests.independent.berths import Harbour

OTTER = {"vcpus": 2, "memory_gib": 8, "speed": 1.0, "price_per_hour": "0.118", "boot_time": "90 s"}
MACHINES = {
    "seal-2": {**OTTER, "memory_gib": 16, "price_per_hour": "0.15", "spot": {**SPOT, "level": 0.25}},
    "heron-4": {**OTTER, "vcpus": 4, "speed": 1.25, "price_per_hour": "0.271", "spot": {**SPOT, "level": 0.31}},
    "walrus-2": {**OTTER, "price_per_hour": "0.2", "architecture": "arm64"},
    "tern-1": {"vcpus": 1, "memory_gib": 2, "price_per_hour": "0.03", "boot_time": "60 s", "baseline": "40 %"},
}
WORKS = {
    "requests": {"kind": "requests", "cpu_seconds": 0.05},
    "jobs": {"kind": "jobs", "job_seconds": 45, "arrivals": "by_chance", "unevenness": 1},
    "sessions": {"kind": "sessions", "seats": 30, "length": "5 min"},
}
RATES = {"requests": 120, "jobs": 0.15, "sessions": 0.4}
CALM = {**SPOT, "reclaims": 0, "spread": 0}


def several(*types, spot=SPOT, **given):
    buying = {"types": ["otter-2", *types], "on_demand": {"first": 2, "share": 0.25}, **given.pop("buying", {})}
    for_all = {field: spot[field] for field in ("reclaims", "spread")}
    machines = {name: one | ({"spot": one["spot"] | for_all} if "spot" in one else {}) for name, one in MACHINES.items()}
    return made(
        spot=spot,
        **{f"machines__{name}": machine for name, machine in machines.items()},
        **{"groups__web__buying": buying, **given},
    )


def bought_as(result):
    """Names of machines by how many instances were of each kind: (type, spot) -> number."""
    kinds, counts = np.unique(result.instances["kind"][: int(result.tally("launched"))], return_counts=True)
    return {(int(kind) // 2, int(kind) % 2): int(count) for kind, count in zip(kinds, counts, strict=True)}


def test_one_type_named_is_as_if_none_were():
    plain, named = (rehearse(made(groups__web__buying=buying), "web", 3) for buying in ({}, {"types": ["otter-2"]}))
    assert verdict(plain, whole=False).figures == verdict(named, whole=False).figures


def test_the_cheapest_for_what_it_does_is_bought():
    cheap = several("seal-2", "heron-4", buying={"choose": "cheapest"})
    rehearsal = rehearse(cheap, "web", 2)
    setup = rehearsal.result.setup
    of_capacity = setup.market.units[:, :, :] / setup.kinds["capacity"][1::2, None, None]
    for row in rehearsal.result.events[rehearsal.result.events["kind"] == EventKind.SPOT_BOUGHT]:
        step, kind = int(row["time"] / 300 + 1e-9), int(rehearsal.result.instances["kind"][row["who"]])
        assert of_capacity[kind // 2, row["before"], step] == of_capacity[:, :, step].min()
    on_demand = [kind for kind, spot in bought_as(rehearsal.result) if not spot]
    # 0.118 for two vCPUs against 0.271 for four that are a quarter faster
    assert on_demand == [2]


def test_they_are_spread_over_machines_and_zones():
    stormy = {**SPOT, "reclaims": 0.2, "spread": 0}
    none_on_demand = {"on_demand": {"first": 0, "share": 0}}
    even = several("seal-2", spot=stormy, buying=none_on_demand, groups__web__minimum=12, groups__web__policies=[])
    found = rehearse(even, "web").result
    hours = [float(found.instance_seconds[(found.instances["kind"] // 2)[found.spells["instance"]] == t].sum()) for t in (0, 1)]
    assert sum(bought_as(found).values()) > 50
    assert hours[0] == pytest.approx(hours[1], rel=0.15)


def test_each_does_its_part_by_what_it_can_do():
    """Two machines of which one does 2.5 times as much: together they carry what both can carry, equally busy."""
    mixed = several(
        "heron-4",
        spot=CALM,
        rate=60,
        noise=0,
        groups__web__policies=[],
        groups__web__minimum=6,
        buying={"on_demand": {"first": 0}, "choose": "balanced"},
    )
    result = rehearse(mixed, "web").result
    kinds = result.instances["kind"][:6]
    can = result.setup.kinds["capacity"][kinds].sum()
    assert result.series["capacity"][100] == pytest.approx(can, rel=1e-6)
    assert len(set(kinds.tolist())) == 2
    idle = result.setup.of("idle_cpu")
    busy = (np.nanmean(result.series["cpu"]) - idle) / (1 - idle)
    assert busy == pytest.approx(60 / can, rel=0.02)
    assert result.tally("failed") == pytest.approx(0, abs=1)


def test_where_a_balancer_cannot_weigh_each_gets_the_same_and_the_weak_are_full_first():
    def played(by_power):
        plan = several(
            "heron-4",
            spot=CALM,
            rate=150,
            noise=0,
            groups__web__policies=[],
            groups__web__minimum=6,
            groups__web__load_balancer={"by_power": by_power},
            buying={"on_demand": {"first": 0}},
        )
        return rehearse(plan, "web")

    weighed, alike = played(True), played(False)
    assert weighed.result.tally("failed") < 1
    kinds, can = alike.result.instances["kind"][:6], alike.result.setup.kinds["capacity"]
    over = sum(max(0.0, 150 / 6 - float(can[kind])) for kind in kinds)
    assert over > 5
    assert alike.result.tally("failed") == pytest.approx(86400 * over, rel=0.02)
    assert alike.result.instances["cpu"][:6][can[kinds] == can.min()] == pytest.approx(1.0, abs=1e-3)
    text = next(
        one.text for part in group_page(alike.crew, "EUR").sections for one in part.sentences if one.key == "load_balancer"
    )
    assert "machines that can do more are given the same as others" in text


def test_money_adds_up_over_machines():
    rehearsal = rehearse(several("seal-2", "heron-4", buying={"choose": "safest"}), "web", 5)
    result, crew = rehearsal.result, rehearsal.crew
    whole = total(result, crew)
    assert abs(ledger(result, crew, rehearsal.clock).total() - whole) < Decimal("1e-13")
    assert result.tally("spend") == pytest.approx(float(whole), rel=1e-9)
    assert spend_rate(rehearsal).sum() * 10 == pytest.approx(float(whole), rel=1e-3)
    parted = attribution(rehearsal)
    assert {"heron-4", "otter-2"} <= set(parted.by_type) <= {"otter-2", "seal-2", "heron-4"}
    assert sum(parted.by_type.values()) == pytest.approx(whole, abs=Decimal("1e-6"))
    names = {one.instance: one.machine for one in bills(result, crew)}
    for number, name in names.items():
        assert name == crew.types[int(result.instances["kind"][number]) // 2].launch.machine


def test_the_market_of_a_machine_is_the_same_whatever_is_bought_beside_it():
    alone, beside = (rehearse(several(*types), "web", 7).result.setup.market.units for types in ((), ("seal-2", "heron-4")))
    assert np.array_equal(alone[0], beside[0])
    other = rehearse(several("heron-4", "seal-2"), "web", 7).result.setup.market.units
    assert np.array_equal(other[1], beside[2])


def test_where_one_machine_is_gone_another_is_bought():
    gone = {"kind": "no_spot", "at": "2025-07-07T00:00", "for": "1 d", "machine": "otter-2"}
    plan = several("seal-2", buying={"on_demand": {"first": 0}}, incidents=[gone], groups__web__minimum=6)
    found = rehearse(plan, "web", 3)
    launched = found.result.events[found.result.events["kind"] == EventKind.SPOT_BOUGHT]
    assert len(launched) > 0
    assert set(found.result.instances["kind"][launched["who"]].tolist()) == {3}
    assert verdict(found, whole=False).figures.no_spot == 0


def test_a_quota_of_one_machine_sends_launches_to_another():
    small = several("seal-2", buying={"choose": "cheapest", "on_demand": {"first": 0}}, groups__web__minimum=9)
    machines = {**small.machines, "seal-2": small.machines["seal-2"].model_copy(update={"quota": 5})}
    limited = small.model_copy(update={"machines": machines})
    result = rehearse(limited, "web", 2).result
    there = result.instances["kind"] // 2
    spells = result.spells[: int(result.tally("spells"))]
    for time in np.linspace(0, 86400 - 1, 40):
        running = (spells["begin"] <= time) & ~(spells["end"] <= time) & (spells["kind"] == 0)
        assert (there[spells["instance"][running]] == 1).sum() <= 5 or time < 1


def test_jobs_take_as_many_as_the_vcpus_of_a_machine_carry():
    work = {"kind": "jobs", "job_seconds": 60, "concurrency": 2, "arrivals": "by_chance", "unevenness": 0.5}
    jobs = several(
        "heron-4",
        spot={**SPOT, "reclaims": 0},
        groups__web__work=work,
        rate=0.2,
        noise=0,
        groups__web__policies=[],
        groups__web__minimum=8,
        groups__web__promises=[],
        buying={"on_demand": {"first": 0}},
    )
    result = rehearse(jobs, "web").result
    assert result.setup.kinds["concurrency"][::2].tolist() == [2, 4]
    assert result.setup.kinds["job_time"][::2] == pytest.approx([60, 48])
    assert result.tally("served") + result.tally("backlog") == pytest.approx(result.arrived, abs=40)


def test_swaps_go_to_whatever_machine_saves_enough_and_never_to_less():
    swapping = several(
        "seal-2",
        "heron-4",
        spot={**SPOT, "level": 0.9},
        groups__web__policies=[],
        groups__web__minimum=8,
        buying={"choose": "cheapest", "on_demand": {"first": 0}, "swap": {"every": "10 min", "saves": "10 %", "at_once": 2}},
    )
    rehearsal = rehearse(swapping, "web", 4)
    result = rehearsal.result
    can = result.setup.kinds["capacity"]
    begun = result.events[result.events["kind"] == EventKind.SWAP_BEGINS]
    assert len(begun) > 2
    kinds = result.instances["kind"]
    assert (can[kinds[begun["who"]]] >= can[kinds[begun["before"]]] - 1e-12).all()
    assert any(
        "on seal-2 in" in one.text or "on heron-4 in" in one.text for one in events(rehearsal) if one.kind == "swap begins"
    )


@pytest.mark.parametrize("types", [("seal-2",), ("seal-2", "heron-4")])
def test_what_is_lived_is_what_was_rehearsed(types):
    plan = several(*types, incidents=[{"kind": "spot_storm", "at": "2025-07-07T10:00", "for": "10 min", "share": 0.6}])
    one, other = (verdict(each, whole=False).figures for each in (rehearse(plan, "web", 4), lived(plan, "web", 4).record()))
    assert one == other


@settings(max_examples=12)
@given(
    seed=st.integers(0, 10_000),
    choose=st.sampled_from(["balanced", "cheapest", "safest"]),
    types=st.sets(st.sampled_from(["seal-2", "heron-4"])),
    kind=st.sampled_from(["requests", "jobs", "sessions"]),
    share=st.floats(0, 1),
    sticky=st.sampled_from([0, 600]),
)
def test_nothing_is_lost_and_all_is_paid_whatever_is_drawn(seed, choose, types, kind, share, sticky):
    plan = several(
        *types,
        groups__web__work=WORKS[kind],
        groups__web__promises=[],
        rate=RATES[kind],
        groups__web__load_balancer={"sticky": sticky} if kind == "requests" else None,
        buying={"choose": choose, "on_demand": {"share": share}, "swap": {"saves": 0.1}},
    )
    rehearsal = rehearse(plan, "web", seed)
    result = rehearsal.result
    told = result.tally("served") + result.tally("failed") + (0 if kind == "sessions" else result.tally("backlog"))
    assert told == pytest.approx(result.arrived, rel=0.02, abs=30)
    assert abs(ledger(result, rehearsal.crew, rehearsal.clock).total() - total(result, rehearsal.crew)) < Decimal("1e-12")
    now = result.state
    there = [(int(row["kind"]), int(row["state"])) for row in result.instances[now.alive[: int(now.now["living"][0])]]]
    for number, crew in enumerate(now.crews):
        assert crew["serving"] == sum(1 for one, life in there if one == number and life == 3)
    assert now.berths.sum() == sum(crew["billed"] for crew in now.crews[1::2])


@pytest.mark.parametrize(
    ("buying", "said"),
    [
        ({"types": ["otter-2", "heron-9"]}, "no machine has this name; there is: otter-2"),
        ({"types": ["heron-4"]}, "launches otter-2; name it among the types"),
        ({"types": ["otter-2", "tern-1"]}, "tern-1 bursts, and serves a group by itself alone"),
        ({"types": ["otter-2"], "needs": {}}, "needs find the types; leave out one of the two"),
        ({"types": [], "needs": {"vcpus": 64}}, "no machine meets this; the nearest is heron-4 with 4 vCPUs"),
        (
            {"types": [], "needs": {"vcpus": 4}},
            "launches otter-2, which has 2 vCPUs and 8 GiB, x86-64; launch one that does: heron-4",
        ),
        ({"types": [], "needs": {"memory_gib": -1}}, "cannot be negative"),
    ],
)
def test_what_cannot_be_is_refused_with_what_would_do(buying, said):
    with pytest.raises(PlanError) as refused:
        several(buying=buying)
    assert said in str(refused.value)


def test_needs_find_machines_and_the_page_says_which():
    plan = several(buying={"types": [], "needs": {"vcpus": 2, "most_vcpus": 2, "memory_gib": 8}})
    crew = crew_of(plan, "web")
    assert [one.launch.machine for one in crew.types] == ["otter-2", "seal-2"]
    text = next(one.text for part in group_page(crew, "EUR").sections for one in part.sentences if one.key == "buying")
    assert "Machines have 2 to 2 vCPUs with 8 GiB or more: otter-2 and seal-2." in text


@pytest.mark.parametrize(
    ("code", "types", "buying"),
    [
        ("spot-one-type", (), {"types": []}),
        ("needs-one-type", (), {"types": [], "needs": {"vcpus": 2, "most_vcpus": 2, "without": "seal-2"}}),
        ("types-differ", ("heron-4",), {}),
    ],
)
def test_what_is_amiss_with_machines_is_found(code, types, buying):
    rehearsal = rehearse(several(*types, buying=buying), "web")
    found = next(finding for finding in check(rehearsal, None) if finding.code == code)
    if code == "spot-one-type":
        assert found.mend.settings == {"buying.types": ["otter-2", "seal-2"]}


def test_a_harbour_written_apart_agrees():
    """Count, cost, reclaims, swaps and failures of two machines, against a model that shares nothing with the engine."""
    days, seeds = 7, 10
    market = {"spread": 0.2, "speed": "3 h", "reclaims": 0.3, "rises": 2, "notice": "2 min"}
    machines = {
        "otter-2": {**OTTER, "boot_spread": 0, "spot": {**market, "level": 0.35}},
        "heron-4": {**OTTER, "vcpus": 4, "speed": 1.25, "price_per_hour": "0.271", "spot": {**market, "level": 0.38}},
    }
    bought = {
        "types": ["otter-2", "heron-4"],
        "on_demand": {"first": 2},
        "choose": "cheapest",
        "caps": {"price": 10, "risk": 1000},
        "swap": {"every": "10 min", "saves": 0.2, "risk": 1000, "at_once": 2},
    }
    plan = made(
        days=days,
        rate=1500,
        noise=0,
        **{f"machines__{name}": machine for name, machine in machines.items()},
        spot=machines["otter-2"]["spot"],
        groups__web__buying=bought,
        groups__web__work={"kind": "requests", "cpu_seconds": 0.05, "timeout": "5 s"},
        groups__web__policies=[],
        groups__web__minimum=10,
        groups__web__promises=[],
        groups__web__evaluate_every="60 s",
        templates__front__boot_time="90 s",
        templates__front__warm_up="30 s",
    )
    crew = crew_of(plan, "web")
    assert crew.ready_after == 120
    assert crew.group.drain == 60
    runs = [rehearse(plan, "web", seed) for seed in range(1, seeds + 1)]
    can = runs[0].result.setup.kinds["capacity"][::2]
    sorts = {"otter-2": (float(can[0]), 0.118, 0.35), "heron-4": (float(can[1]), 0.271, 0.38)}
    harbours = [
        Harbour(sorts, crew.launch.zones, count=10, kept=2, rate=1500, days=days, seed=100 + seed).run() for seed in range(seeds)
    ]
    told = {
        "count": (sum(one.result.tally("served_ticks") for one in runs) / 6, sum(one.serving_minutes for one in harbours)),
        "cost": (sum(float(total(one.result, crew)) for one in runs), sum(one.paid for one in harbours)),
        "reclaims": (sum(one.result.tally("reclaimed") for one in runs), sum(one.calls for one in harbours)),
        "failures": (sum(one.result.tally("failed") for one in runs), sum(one.failed for one in harbours)),
    }
    apart = {name: ours / theirs - 1 for name, (ours, theirs) in told.items()}
    assert max(abs(one) for one in apart.values()) < 0.03, apart
    swaps = sum(one.result.tally("swaps") for one in runs), sum(one.swapped for one in harbours)
    assert swaps[0] == pytest.approx(swaps[1], rel=0.08)


def test_the_moment_says_what_the_market_has_and_what_would_be_taken():
    gone = {"kind": "no_spot", "at": "2025-07-07T06:00", "for": "1 h", "machine": "seal-2", "zone": "north"}
    plan = several("seal-2", "walrus-2", incidents=[gone], buying={"choose": "cheapest", "caps": {"price": 0.5, "risk": 0.2}})
    rehearsal = rehearse(plan, "web", 2)
    told = moment(rehearsal, 6.5 * 3600)
    assert [one.standing for one in told.market].count("now") == 1
    by_place = {(one.machine, one.zone): one for one in told.market}
    assert len(by_place) == 9
    assert (by_place["seal-2", "north"].standing, by_place["seal-2", "north"].why) == ("not", "none to be had")
    assert by_place["walrus-2", "west"].why == "not sold as spot"
    ranked = [one for one in told.market if one.standing != "not"]
    assert [one.price for one in ranked] == sorted(one.price for one in ranked)
    assert told.buys.startswith("The next launch is")
    later = rehearsal.result.events
    first = later[(later["kind"] == EventKind.SPOT_BOUGHT) & (later["time"] > 600)][0]
    before = moment(rehearsal, float(first["time"]) - 60)
    kind = int(rehearsal.result.instances["kind"][first["who"]])
    step = rehearsal.result.setup.market.units[:, :, int(first["time"] / 300)]
    if int(first["time"] / 300) == int((first["time"] - 60) / 300):
        assert (before.market[0].machine, before.market[0].zone) == (
            rehearsal.crew.types[kind // 2].launch.machine,
            rehearsal.crew.launch.zones[int(first["before"])],
        )
    assert step.min() > 0
    assert moment(rehearse(made(groups__web__buying=None), "web"), 3600).market == []


def test_the_market_as_a_strip_is_what_those_paid_who_ran():
    rehearsal = rehearse(several("seal-2", buying={"choose": "cheapest"}), "web", 3)
    setup, result = rehearsal.result.setup, rehearsal.result
    course = market_course(rehearsal, "price")
    there = ~np.isnan(course.mean)
    assert (course.low[there] <= course.mean[there] + 1e-12).all()
    assert (course.mean[there] <= course.high[there] + 1e-12).all()
    # What all of them paid is what the bill says, but for the part of a tick in which each begins and ends
    shares = np.array([0.118, 0.15])
    spot = [(one, row) for one, row in enumerate(result.instances[: int(result.tally("launched"))]) if row["kind"] % 2]
    assert spot
    figures = verdict(rehearsal, whole=False).figures
    steps = setup.market.units / (shares[:, None, None] * 10_000)
    assert 0 < figures.spot_price_most_percent <= 100 * steps.max() + 1e-9
    assert figures.spot_price_most_percent >= 100 * np.nanmax(course.mean) - 0.01
    risk = market_course(rehearsal, "risk")
    assert figures.spot_risk_most_percent >= 100 * np.nanmax(risk.mean) - 0.01
    assert np.nanmax(risk.high) == pytest.approx(1 - (1 - setup.market.chances.max()) ** 12)


def test_the_time_that_reclaims_cost_is_told():
    storm = {"kind": "spot_storm", "at": "2025-07-07T10:00", "for": "10 min", "share": 0.9}
    calm = several(spot=CALM, buying={"on_demand": {"first": 0, "share": 0}}, groups__web__policies=[], groups__web__minimum=8)
    assert verdict(rehearse(calm, "web"), whole=False).figures.reclaim_minutes == 0
    struck = several(
        spot=CALM,
        incidents=[storm],
        buying={"on_demand": {"first": 0, "share": 0}},
        groups__web__policies=[],
        groups__web__minimum=8,
    )
    rehearsal = rehearse(struck, "web")
    figures, series = verdict(rehearsal, whole=False).figures, rehearsal.result.series
    under = (series["serving"] < series["desired"]).sum() * 10 / 60
    assert figures.reclaims > 4
    assert figures.reclaim_minutes == pytest.approx(under)
    # A minute until it is seen, and the boot and warm-up of those that come
    assert 2 < figures.reclaim_minutes < 12


def test_all_together_tell_the_machines_that_really_ran():
    rehearsal = rehearse(several("seal-2", "heron-4", buying={"choose": "cheapest"}), "web", 3)
    told = {one.machine: one.most for one in together([(rehearsal, verdict(rehearsal, whole=False))]).machines}
    lives = rehearsal.result.lives
    ends = np.where(np.isnan(lives["end"]), 86400, lives["end"])
    for number, one in enumerate(rehearsal.crew.types):
        own = rehearsal.result.instances["kind"][lives["instance"]] // 2 == number
        hours = [
            float(np.maximum(0, np.minimum(ends[own], 3600 * (h + 1)) - np.maximum(lives["begin"][own], 3600 * h)).sum()) / 3600
            for h in range(24)
        ]
        assert told.get(one.launch.machine, 0.0) == pytest.approx(max(hours), abs=0.051)
