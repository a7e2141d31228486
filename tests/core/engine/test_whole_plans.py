"""What holds for every plan, whatever its work, its life and its orders: drawn whole by hypothesis."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from jostle.core.built.play import top_up
from jostle.core.calendar.orders import Gate
from jostle.core.decide.code import Cause
from jostle.core.engine.code import Billed, HandAct, Life
from jostle.core.engine.outset import new_state
from jostle.core.engine.result import Result, play, run
from jostle.core.engine.setup import Setup
from jostle.core.plan.plan import Plan
from jostle.core.plan.work import WorkKind
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.core.rehearsal.verdict import judge, verdict
from tests.plans import plan

BURSTS = {"baseline": 0.3, "first_credits": 300, "most_credits": 900}
BOUGHT = {"on_demand": {"first": 1, "share": 0.3}, "choose": "cheapest", "look_again": "20 min"}
SEAL = {"vcpus": 2, "memory_gib": 16, "price_per_hour": "0.5", "speed": 1.2, "quota": 4, "spot": {"level": 0.25, "reclaims": 0.3}}
HERON = {"vcpus": 4, "memory_gib": 8, "price_per_hour": "0.8", "boot_time": 50, "spot": {"level": 0.5, "zones": {"north": 0.6}}}
SWAPPED = BOUGHT | {"swap": {"every": "10 min", "saves": 0.1, "at_once": 2}}
WORKS = (
    {"kind": "requests", "cpu_seconds": 0.1, "timeout": 20, "idle_cpu": 0.03},
    {"kind": "requests", "cpu_seconds": 0.1, "timeout": 35, "kib_out": 30},
    {"kind": "jobs", "job_seconds": 40, "concurrency": 3},
    {"kind": "sessions", "seats": 12, "length": "4 min", "place": "spread"},
    {"kind": "sessions", "seats": 12, "length": "4 min", "place": "pack"},
)
RATES = {"requests": 90.0, "jobs": 0.5, "sessions": 0.4}
METRICS = {
    "requests": {"cpu": 0.6, "requests_per_instance": 12, "backlog": 50, "latency_p95": 0.6, "failed_share": 0.05, "memory": 0.2},
    "jobs": {"cpu": 0.6, "backlog": 20, "backlog_per_instance": 5, "age_of_oldest": 60, "network_in": 1},
    "sessions": {"cpu": 0.6, "sessions_per_instance": 8, "free_seats": 10, "free_seats_share": 0.2, "failed_share": 0.02},
}
HELD = {
    "requests": ("cpu", "requests_per_instance"),
    "jobs": ("cpu", "backlog_per_instance"),
    "sessions": ("sessions_per_instance",),
}
SUBNETS = {"a": {"zone": "north"}, "b": {"zone": "skerry"}, "c": {"zone": "west"}}


@st.composite
def policies(draw: st.DrawFn, kind: str) -> list[dict[str, Any]]:
    found = []
    for number in range(draw(st.integers(0, 4))):
        policy: dict[str, Any] = {
            "name": f"p{number}",
            "window": draw(st.sampled_from([60, 180])),
            "cooldown": draw(st.sampled_from([0, 60, 600])),
            "paused": draw(st.integers(0, 7)) == 0,
        }
        which = draw(st.sampled_from(["trigger", "hold", "spare", "lookahead"]))
        if which == "trigger":
            metric, level = draw(st.sampled_from(sorted(METRICS[kind].items())))
            level *= draw(st.floats(0.3, 1.5))
            policy |= {
                "metric": metric,
                "side": draw(st.sampled_from(["above", "below"])),
                "threshold": level,
                "action": draw(st.sampled_from(["add", "remove", "set"])),
                "amount": draw(st.integers(1, 6)),
                "fold": draw(st.sampled_from(["average", "minimum", "maximum", "latest", "p90"])),
            }
            if policy["side"] == "above" and draw(st.booleans()) and metric in ("backlog", "age_of_oldest"):
                policy["bands"] = [{"beyond": level * 2, "amount": 5}]
            if metric == "cpu" and draw(st.booleans()):
                policy["zone"] = "north"
        elif which == "hold":
            metric = draw(st.sampled_from(HELD[kind]))
            policy |= {
                "metric": metric,
                "level": METRICS[kind][metric] * draw(st.floats(0.5, 1.4)),
                "may_remove": draw(st.booleans()),
            }
        elif which == "lookahead":
            policy |= {
                "history": draw(st.sampled_from(["even", None])),
                "level": draw(st.floats(0.2, 0.95)),
                "lead": draw(st.sampled_from([None, 1200])),
                "advice": draw(st.booleans()),
                "may_remove": draw(st.booleans()),
            }
        else:
            policy |= {"share": draw(st.floats(0.05, 0.6)), "slack": draw(st.sampled_from([0, 0.2]))}
        found.append({"kind": which, **policy})
    return found


@st.composite
def calendars(draw: st.DrawFn) -> list[dict[str, Any]]:
    kinds = {
        "floor": {"count": 4},
        "bounds": {"minimum": 2, "maximum": 5},
        "set": {"count": 3, "retry": "10 min"},
        "sleep": {},
        "removals": {},
        "freeze": {},
    }
    found = []
    for number, kind in enumerate(draw(st.lists(st.sampled_from(sorted(kinds)), max_size=3))):
        begin = draw(st.integers(0, 170))
        entry = {"name": f"e{number}", "kind": kind, "from": f"2025-07-07T{begin // 60:02}:{begin % 60:02}", **kinds[kind]}
        found.append(entry if kind == "set" else {**entry, "for": draw(st.sampled_from(["7 min", "40 min", "2 h"]))})
    return found


def at(draw: st.DrawFn) -> str:
    minute = draw(st.integers(0, 170))
    return f"2025-07-07T{minute // 60:02}:{minute % 60:02}"


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    work = draw(st.sampled_from(WORKS))
    rate = RATES[work["kind"]] * draw(st.floats(0.1, 2))
    low = draw(st.integers(0, 3))
    high = draw(st.integers(max(1, low), 10))
    hands = [
        {"kind": "set", "at": at(draw), "count": draw(st.integers(0, 9))},
        {"kind": "kill", "at": at(draw), "instance": draw(st.sampled_from(["oldest", "newest", 2]))},
        {"kind": "stress", "at": at(draw), "cpu": 0.7, "for": "9 min"},
        {"kind": "pin", "at": at(draw)},
    ]
    incidents = [
        {"kind": "zone_lost", "at": at(draw), "for": "20 min", "zone": "north"},
        {"kind": "no_capacity", "at": at(draw), "for": "25 min"},
        {"kind": "slow_boots", "at": at(draw), "for": "30 min", "factor": 3},
        {"kind": "breaking", "at": at(draw), "share": 0.5, "fault": draw(st.sampled_from(["stopped", "frozen", "hung"]))},
    ]
    machine = {
        "vcpus": 2,
        "memory_gib": 8,
        "price_per_hour": "0.36",
        "boot_spread": draw(st.sampled_from([0, 0.3])),
        "billed_by": draw(st.sampled_from(["second", "hour"])),
        "least_billed": draw(st.sampled_from([0, 60])),
        **draw(st.sampled_from([{}, {}, BURSTS, {"network_mbit": 8}])),
        "spot": {"level": 0.4, "reclaims": 0.2},
    }
    front = {"machine": "otter-2", "boot_time": draw(st.sampled_from([0, 35, 180])), "warm_up": 50}
    asking = {"kind": "load_test", "at": at(draw), "clients": 40, "waits": True, "think": 4, "ramp": 300, "hold": 2400}
    if draw(st.integers(0, 3)) == 0:
        machine["quota"] = draw(st.integers(1, 8))
    bought = [BOUGHT, SWAPPED]
    if "baseline" not in machine and "network_mbit" not in machine:
        bought.append(
            SWAPPED | {"types": ["otter-2", "seal-2", "heron-4"], "choose": draw(st.sampled_from(["balanced", "safest"]))}
        )
        bought.append(BOUGHT | {"needs": {"vcpus": 2}})
    return plan(
        days=3 / 24,
        machines={"otter-2": machine, "seal-2": SEAL, "heron-4": HERON},
        subnets=SUBNETS,
        demands__even={
            "layers": [
                {"kind": "level", "rate": rate},
                {"kind": "surge", "at": at(draw), "factor": 2.5, "ramp": 300, "hold": 600, "decay": 900},
                {"kind": "noise", "spread": 0.1},
                *([asking] if draw(st.booleans()) else []),
            ],
            "incidents": draw(st.lists(st.sampled_from(incidents), max_size=2)),
        },
        groups__web__work=work,
        groups__web__load_balancer=draw(st.sampled_from([None, None, {"sticky": "5 min"}, {"weights": {"2": 0.2}}])),
        templates__front={"versions": [front, {**front, "warm_up": 20}]},
        groups__web__start_version=draw(st.sampled_from([None, None, 1])),
        groups__web__minimum=low,
        groups__web__maximum=high,
        groups__web__start_count=draw(st.integers(low, high)),
        **draw(
            st.sampled_from([{}, {"groups__web__owned": max(1, high // 2)}, *({"groups__web__buying": one} for one in bought)])
        ),
        groups__web__first_start=draw(st.sampled_from([None, {"surplus": 2}])),
        groups__web__launch={"subnets": draw(st.sampled_from([["a"], ["a", "b", "c"]]))},
        groups__web__drain=draw(st.sampled_from([0, 45, 240])),
        groups__web__cooldown=draw(st.sampled_from([0, 120])),
        groups__web__mode=draw(st.sampled_from(["grow_and_shrink", "grow_and_shrink", "grow", "stay"])),
        groups__web__leaving=draw(
            st.sampled_from([{}, {"brake": {"at_most": 2, "within": "10 min"}, "pinned": 1}, {"criteria": ["newest"]}])
        ),
        groups__web__health={"basis": draw(st.sampled_from(["machine", "heartbeat", "load_balancer"])), "grace": 200},
        groups__web__mending={"restarts": draw(st.integers(0, 2))},
        groups__web__faults=draw(st.sampled_from([{}, {"every": "1 h", "hung": 0.5, "never_boots": 0.2}])),
        groups__web__calendar=draw(calendars()),
        groups__web__hands=draw(st.lists(st.sampled_from(hands), max_size=3)),
        groups__web__policies=draw(policies(work["kind"])),
    )


@st.composite
def setups(draw: st.DrawFn) -> Setup:
    return rehearse(draw(plans()), "web", draw(st.integers(1, 50))).result.setup


whole_plans = settings(max_examples=80, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])


def parts(found: Result) -> list[bytes]:
    """Everything that a run leaves behind."""
    state = found.state
    kept = (
        found.events,
        found.decisions,
        found.instances,
        found.spells,
        state.series,
        state.entered,
        found.views,
        state.sight.samples,
        state.now,
        state.stay,
        state.memory.books,
        state.memory.usual,
    )
    return [one.tobytes() for one in kept]


@whole_plans
@given(setups(), st.lists(st.integers(1, 1000), max_size=5))
def test_slices_equal_one_run_to_the_byte(made, cuts):
    state = new_state(made)
    for until in sorted(cuts):
        state = play(made, state, until)
    assert parts(Result(made, play(made, state))) == parts(run(made))


@whole_plans
@given(setups())
def test_a_record_that_is_not_cleared_first_is_written_as_a_whole(made):
    soiled = new_state(made)
    there = int(soiled.now["launched"][0])
    later = (soiled.instances[there:], soiled.spells[there:], soiled.events, soiled.decisions, soiled.views, soiled.candidates)
    for record in (soiled.series, soiled.entered[1:], *later):
        record.view(np.ndarray).view(np.uint8)[:] = 0xA5
    assert parts(Result(made, play(made, soiled))) == parts(run(made))


@whole_plans
@given(plans())
def test_figures_alone_are_those_of_the_whole_rehearsal(drawn):
    """Bare, under one seed after the other, and as a verdict tells them."""
    rehearser = Rehearser()
    for bare in rehearser.rehearse_each(drawn, "web", (3, 4), bare=True):
        whole = rehearser.rehearse(drawn, "web", bare.seed)
        told, figures = judge(bare), verdict(whole, whole=False)
        assert told == judge(whole)
        assert told[:3] == (figures.figures.cost, figures.figures.short_minutes, figures.figures.changes)
        assert told.broken == figures.figures.promises - figures.figures.promises_kept
        assert bare.result.events.tobytes() == whole.result.events.tobytes()
        assert bare.result.state.stay.tobytes() == whole.result.state.stay.tobytes()


@settings(max_examples=8, suppress_health_check=list(HealthCheck))
@given(st.lists(setups(), min_size=4, max_size=4))
def test_parallel_runs_equal_serial_ones_to_the_byte(made):
    with ThreadPoolExecutor(4) as pool:
        together = [parts(found) for found in pool.map(run, made)]
    assert together == [parts(run(one)) for one in made]


@whole_plans
@given(setups())
def test_work_is_conserved(made):
    found = run(made)
    in_, out = found.arrived, found.tally("served") + found.tally("failed") + found.tally("backlog") + found.state.held_jobs.sum()
    assert out == pytest.approx(in_, rel=1e-9, abs=1e-6)
    assert min(found.tally(field) for field in ("served", "failed", "backlog")) >= -1e-9
    series = found.state.series
    assert np.all(series["served"] >= 0)
    if made.of("work") == WorkKind.SESSIONS:
        there = found.instances["sessions"].sum()
        assert found.tally("in_use") == there
        assert there <= 12 * len(found.instances)
        assert np.all(series["in_use"] >= 0)


@whole_plans
@given(setups())
def test_money_is_instance_time_by_price(made):
    assume(not made.of("spot"))
    found = run(made)
    seconds = found.instance_seconds
    spells = found.spells[found.spells["kind"] == Billed.RUNNING]
    closed = ~np.isnan(spells["end"])
    beyond = sum(top_up(float(s), made.of("hourly"), made.of("least_micros")) for s in seconds[closed])
    assert found.tally("spend") == pytest.approx((seconds.sum() + beyond) * made.of("price"), rel=1e-9, abs=1e-9)


@whole_plans
@given(setups())
def test_the_count_keeps_to_its_limits_and_agrees_with_the_instances(made):
    found = run(made)
    series, rows, spells = found.state.series, found.decisions, found.spells
    assert series["desired"].max(initial=0) <= made.of("maximum")
    asleep = (rows["cause"] == Cause.SLEEP) & (rows["decided"] == 0)
    assert np.all(rows["decided"][~asleep] >= np.minimum(made.of("minimum"), rows["desired"][~asleep]))
    assert np.all(series["serving"] <= series["billed"])
    middle = (np.arange(made.ticks) + 0.5) * made.tick
    ends = np.where(np.isnan(spells["end"]), np.inf, spells["end"])
    for kind, field in ((Billed.RUNNING, "billed"), (Billed.STANDING, "stopped")):
        of_kind = spells["kind"] == kind
        there = (spells["begin"][of_kind][:, None] < middle) & (ends[of_kind][:, None] > middle)
        assert np.array_equal(there.sum(axis=0), series[field])
    now, instances = found.state.now[0], found.instances
    present = np.isin(instances["state"], [Life.REQUESTED, Life.BOOTING, Life.WARMING, Life.SERVING, Life.BROKEN])
    assert now.present == present.sum()
    assert now.serving == (instances["state"] == Life.SERVING).sum()
    assert now.draining == (instances["state"] == Life.DRAINING).sum()
    assert now.waiting == (instances["state"] == Life.REQUESTED).sum()
    assert now.dead == ((instances["state"] == Life.BROKEN) & instances["given_work"]).sum()
    assert found.state.zones["serving"].sum() == now.serving
    assert found.state.zones["present"].sum() == now.present - now.waiting


@whole_plans
@given(setups())
def test_a_pinned_instance_is_never_sent_away_but_by_sleep(made):
    found = run(made)
    if np.any(made.orders["gates"] & Gate.SLEEP):
        return
    there = 0 if made.of("cold") else min(made.of("pinned"), made.of("first_count"))
    pinned = found.instances[:there]
    assert np.isnan(pinned["drains"]).all()


@whole_plans
@given(setups())
def test_each_stage_only_holds_back(made):
    rows = run(made).decisions
    by_policy = rows[(rows["cause"] == Cause.POLICY) & (rows["winner"] >= 0)]
    wanted, now = by_policy["wanted"].astype(int), by_policy["desired"].astype(int)
    for stage in ("paced", "allowed"):
        assert np.all((by_policy[stage] == wanted) | (by_policy[stage] == now))
    up = by_policy["decided"] > now
    assert np.all(by_policy["decided"][up] <= np.maximum(wanted, made.of("minimum"))[up])
    if not np.any(made.hands["kind"] == HandAct.SET):
        assert np.array_equal(rows["desired"][1:], rows["decided"][:-1])
