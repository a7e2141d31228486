"""The life of instances: boots, zones, refusals, the reserve, faults, health, mending, incidents and hands."""

import numpy as np
import pytest

from jostle.core.decide.code import Cause, Outcome
from jostle.core.engine.code import EventKind, Life
from jostle.core.engine.result import Result
from jostle.core.journal.event import events
from jostle.core.rehearsal.rehearser import rehearse
from tests.engines import changes, result
from tests.plans import ADD, REMOVE, plan

ZONES = {
    "subnets": {"a": {"zone": "north"}, "b": {"zone": "skerry"}, "c": {"zone": "west"}},
    "groups__web__launch": {"subnets": ["a", "b", "c"]},
}
STEP_UP = [10.0] * 60 + [75.0] * 300
GROWING = [{**ADD, "amount": 4, "cooldown": "12 h"}]


def machine(**fields):
    return {"machines": {"otter-2": {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36", **fields}}}


def told(found: Result, kind: int) -> list[float]:
    return found.events["time"][found.events["kind"] == kind].tolist()


def met(incidents, rates_per_second=10, **settings):
    """A day of the small plan with incidents."""
    made = plan(
        demands__even={"layers": [{"kind": "level", "rate": rates_per_second}], "incidents": incidents},
        **{"days": 0.25, **settings},
    )
    return rehearse(made, "web").result


def test_boot_times_are_lognormal_with_the_mean_that_was_given():
    found = result(
        np.tile(np.repeat([150.0, 1.0], 90), 40),
        **machine(boot_spread=0.4),
        groups__web__policies=[
            {**ADD, "amount": 9, "cooldown": 0},
            {**REMOVE, "amount": 9, "cooldown": 0},
        ],
    )
    fresh = found.instances[1:]
    boots = (fresh["booted"] - fresh["requested"])[np.isfinite(fresh["booted"])]
    assert len(boots) > 300
    assert boots.mean() == pytest.approx(100, rel=0.05)
    assert boots.std() == pytest.approx(40, rel=0.12)
    logs = np.log(boots)
    skew = ((logs - logs.mean()) ** 3).mean() / logs.std() ** 3
    assert abs(skew) < 0.35


def test_new_instances_go_where_the_fewest_are():
    found = result(STEP_UP, **ZONES, groups__web__policies=GROWING, groups__web__start_count=1)
    assert found.instances["zone"].tolist() == [0, 1, 2, 0, 1]


def test_without_balance_the_first_open_zone_takes_all():
    found = result(STEP_UP, **ZONES, groups__web__policies=GROWING, groups__web__leaving={"balance_zones": False})
    assert set(found.instances["zone"].tolist()) == {0}


def test_a_refused_launch_goes_to_another_zone_first():
    closed = [{"kind": "no_capacity", "at": "2025-07-07T00:00", "for": "6 h", "zone": "skerry"}]
    found = met(closed, 75, **ZONES, groups__web__policies=GROWING)
    assert 1 not in found.instances["zone"][1:].tolist()
    assert told(found, EventKind.LAUNCH_REFUSED) == []
    assert found.state.series["serving"][-1] == 5


def test_launches_that_no_zone_takes_wait_and_are_tried_again():
    closed = [{"kind": "no_capacity", "at": "2025-07-07T00:00", "for": "2 h"}]
    found = met(closed, 75, **ZONES, groups__web__policies=GROWING)
    assert len(told(found, EventKind.LAUNCH_REFUSED)) == 1
    assert told(found, EventKind.LAUNCH_TAKEN) == [7260]
    launched = found.instances[1:5]
    assert np.all(launched["requested"] < 600)
    assert np.all(launched["serves"] == 7260 + 150)
    assert found.state.series["billed"][700] == 1


def test_the_quota_holds_the_count_down_and_says_so():
    rush = {"demands__even__layers": [{"kind": "level", "rate": "75/s"}], "groups__web__policies": GROWING}
    found = rehearse(plan(**machine(quota=3), **rush), "web").result
    assert found.state.series["billed"].max() == 3
    assert Outcome.AT_QUOTA in found.decisions["limit"]


def test_groups_draw_on_a_quota_in_the_order_of_the_plan():
    made = plan(**machine(quota=5), groups__web__minimum=4)
    second = {**made.groups["web"].model_dump(mode="json"), "start_count": 1}
    both = plan(
        **machine(quota=5),
        groups__web__minimum=4,
        groups__late=second | {"minimum": 1, "policies": GROWING},
        demands__even__layers=[{"kind": "level", "rate": "75/s"}],
    )
    assert rehearse(both, "late").result.state.series["billed"].max() == 1
    assert rehearse(both, "web").result.state.series["billed"].max() == 4


def test_stopped_instances_of_the_base_start_faster_than_new_ones():
    found = result(STEP_UP, groups__web__policies=GROWING, groups__web__owned=3)
    assert found.state.series["stopped"][0] == 2
    started = found.lives[1:5]
    # Two are started in a third of the boot time of 100 s, two are new; all warm up for 50 s.
    waits = np.sort(np.round(started["serves"] - started["requested"]))
    assert waits.tolist() == [90, 90, 150, 150]
    assert found.instances["overflow"].tolist() == [False, False, False, True, True]


def test_overflow_leaves_first_and_the_base_is_stopped():
    rates = [75.0] * 200 + [5.0] * 400
    found = result(
        rates,
        groups__web__policies=[{**ADD, "amount": 4, "cooldown": "1 h"}, {**REMOVE, "amount": 4, "cooldown": "1 h"}],
        groups__web__owned=3,
    )
    rows = found.instances
    assert np.all(rows["state"][rows["overflow"]] == Life.GONE)
    assert (rows["state"] == Life.STOPPED).sum() == 2
    assert found.tally("overflow_ticks") > 0


def test_the_first_start_launches_a_surplus_and_drops_it():
    found = result([30.0] * 120, **machine(boot_spread=0.3), groups__web__minimum=4, groups__web__first_start={"surplus": 2})
    assert found.state.series["billed"][0] == 6
    assert found.state.series["serving"][0] == 0
    assert found.state.series["serving"][-1] == found.state.series["billed"][-1] == 4
    assert len(told(found, EventKind.SURPLUS_DROPPED)) == 1
    rows = found.instances
    dropped = rows["state"] == Life.GONE
    assert dropped.sum() == 2
    assert rows["serves"][dropped].min() > rows["serves"][~dropped].max()


@pytest.mark.parametrize(
    ("basis", "seen"),
    [("machine", {"stopped"}), ("heartbeat", {"stopped", "frozen"}), ("load_balancer", {"stopped", "frozen", "hung"})],
)
@pytest.mark.parametrize("fault", ["stopped", "frozen", "hung"])
def test_a_basis_of_health_sees_its_faults_and_no_others(basis, seen, fault):
    broken = [{"kind": "breaking", "at": "2025-07-07T01:00", "share": "50 %", "fault": fault}]
    health = {"basis": basis, "interval": "20 s", "unhealthy_after": 3}
    found = met(broken, groups__web__minimum=4, groups__web__health=health)
    replaced = told(found, EventKind.INSTANCE_REPLACED)
    assert replaced == ([3660, 3660] if fault in seen else [])
    # Until the checks have seen them, they are given half of the requests, which fail.
    assert found.tally("failed") == pytest.approx(10 * 60 * 0.5)
    assert found.state.series["serving"][-1] == (4 if fault in seen else 2)
    assert found.state.series["billed"][-1] == 4


def test_whoever_takes_the_place_of_one_that_is_gone_has_a_line():
    broken = [{"kind": "breaking", "at": "2025-07-07T01:00", "share": "50 %"}]
    found = met(broken, groups__web__minimum=4, groups__web__health={"interval": "20 s", "unhealthy_after": 3})
    rows = found.events[found.events["kind"] == EventKind.INSTANCE_LAUNCHED]
    # At the evaluation that follows; the count changed for none of them.
    assert rows["time"].tolist() == [3720, 3720]
    assert rows["who"].tolist() == [4, 5]
    assert not told(found, EventKind.COUNT_CHANGED)


@pytest.mark.parametrize(("count", "replaced"), [(4, [3600]), (3, [])])
def test_one_killed_is_replaced_where_the_count_stays(count, replaced):
    hands = [
        {"kind": "kill", "at": "2025-07-07T01:00", "instance": 2},
        {"kind": "set", "at": "2025-07-07T01:00", "count": count},
        {"kind": "set", "at": "2025-07-07T02:00", "count": 5},
    ]
    more = {"groups__web__minimum": 1, "groups__web__maximum": 5, "groups__web__start_count": 4, "groups__web__policies": []}
    found = met([], groups__web__hands=hands, **more)
    assert told(found, EventKind.INSTANCE_LAUNCHED) == replaced


def test_a_fault_within_the_grace_is_found_after_it():
    broken = [{"kind": "breaking", "at": "2025-07-07T00:05", "share": "50 %"}]
    found = met(broken, groups__web__minimum=2, groups__web__health={"grace": "20 min", "interval": "20 s"})
    assert told(found, EventKind.INSTANCE_REPLACED) == [1200]


def test_mending_restarts_first_and_then_replaces():
    twice = [{"kind": "breaking", "at": f"2025-07-07T0{hour}:00", "share": "100 %"} for hour in (1, 2)]
    found = met(twice, groups__web__mending={"restarts": 1}, groups__web__health={"interval": "30 s", "unhealthy_after": 2})
    assert told(found, EventKind.INSTANCE_RESTARTS) == [3660]
    assert told(found, EventKind.INSTANCE_REPLACED) == [7260]
    # A restart takes a third of the boot of 100 s, then the warm-up of 50 s, to the tick.
    assert found.state.series["serving"][366 + 9] == 1
    assert found.state.series["serving"][366 + 8] == 0


def test_instances_break_as_often_as_was_said():
    found = result(
        np.full(40 * 8640, 10.0),
        tick="10 s",
        groups__web__minimum=8,
        groups__web__maximum=8,
        groups__web__faults={"every": "1 d"},
    )
    assert len(told(found, EventKind.INSTANCE_BROKE)) == pytest.approx(8 * 40, rel=0.15)


def test_a_launch_that_never_boots_is_replaced_where_it_is_seen():
    settings = {"groups__web__policies": GROWING, "groups__web__faults": {"never_boots": 0.5}, "groups__web__maximum": 5}
    blind = result(STEP_UP, **settings)
    sighted = result(STEP_UP + [75.0] * 900, **settings, groups__web__health={"basis": "load_balancer", "grace": "4 min"})
    assert blind.state.series["serving"][-1] < 5 == blind.state.series["billed"][-1]
    assert sighted.state.series["serving"][-1] == 5


def test_a_grace_shorter_than_the_boot_ends_every_instance():
    health = {"basis": "load_balancer", "grace": "60 s", "interval": "20 s"}
    found = result(STEP_UP, groups__web__policies=GROWING, groups__web__health=health)
    assert found.state.series["serving"].max() == 1
    assert len(told(found, EventKind.INSTANCE_REPLACED)) > 20


def test_a_lost_zone_takes_its_instances_and_comes_back():
    lost = [{"kind": "zone_lost", "at": "2025-07-07T01:00", "for": "1 h", "zone": "north"}]
    found = met(lost, **ZONES, groups__web__minimum=6, groups__web__health={"interval": "20 s"})
    rows = found.instances
    assert rows["zone"][:6].tolist() == [0, 1, 2, 0, 1, 2]
    replacements = rows[6:]
    assert set(replacements["zone"].tolist()) == {1, 2}
    assert found.state.series["serving"][380] == 4
    assert found.state.series["serving"][-1] == 6


def test_slow_boots_and_a_slow_dependency():
    slow = [
        {"kind": "slow_boots", "at": "2025-07-07T00:00", "for": "2 h", "factor": 3},
        {"kind": "slow_dependency", "at": "2025-07-07T03:00", "for": "10 min", "extra": "400 ms"},
    ]
    found = met(slow, 75, groups__web__policies=GROWING)
    assert (found.instances["booted"] - found.instances["requested"])[1] == pytest.approx(300)
    series = found.state.series["latency"]
    assert series[1085] == pytest.approx(series[1070] + 0.4, abs=1e-4)
    assert series[1150] == pytest.approx(series[1070], abs=1e-4)


def test_stickiness_leaves_a_new_instance_with_little_for_a_while():
    settings = {"groups__web__policies": [{**ADD, "cooldown": "2 h"}], "groups__web__maximum": 2}
    rates = [17.0] * 60 + [19.5] * 700
    calm, sticky = result(rates, **settings), result(rates, **settings, groups__web__load_balancer={"sticky": "10 min"})
    serves = int(calm.instances["serves"][1] / 10)
    later = serves + 60
    # After one mean stay a new one has 1 - 1/e of its even share.
    assert sticky.instances["share"][1] == pytest.approx(0.5, abs=0.02)
    assert sticky.state.series["latency"][serves + 3] > calm.state.series["latency"][serves + 3]
    assert sticky.state.series["latency"][later] < sticky.state.series["latency"][serves + 3]


def test_hands_kill_pin_stress_and_set_the_count():
    hands = [
        {"kind": "kill", "at": "2025-07-07T00:10", "instance": 2},
        {"kind": "stress", "at": "2025-07-07T01:00", "instance": "oldest", "cpu": "80 %", "for": "10 min"},
        {"kind": "set", "at": "2025-07-07T02:00", "count": 5},
        {"kind": "set", "at": "2025-07-07T03:00", "count": 99},
    ]
    found = met([], groups__web__minimum=2, groups__web__maximum=8, groups__web__hands=hands)
    series = found.state.series
    assert found.instances["gone"][1] == 600
    assert found.instances["requested"][2] == 660
    assert series["serving"][62] == 1
    assert series["cpu"][363] > series["cpu"][355] + 0.3
    assert series["cpu"][425] == pytest.approx(series["cpu"][355])
    assert series["desired"][725] == 5
    assert series["desired"][1090] == 8
    assert [e["cause"] for e in found.events[found.events["kind"] == EventKind.COUNT_CHANGED]] == [Cause.HAND] * 2


def test_a_pinned_instance_stays_while_others_go():
    hands = [{"kind": "pin", "at": "2025-07-07T00:00", "instance": 1}]
    quiet = [{**REMOVE, "cooldown": 0}]
    found = met([], 2, groups__web__start_count=4, groups__web__policies=quiet, groups__web__hands=hands)
    assert np.isnan(found.instances["drains"][0])
    assert found.state.series["desired"][-1] == 1
    assert changes(found)[-1][2] == 1


def test_a_load_test_by_hand_is_sent_to_its_group_alone_and_felt():
    load = {"kind": "load", "at": "2025-07-07T10:00", "clients": 60, "each": "0.5/s", "ramp": "10 min", "hold": "20 min"}
    settings = {"groups__web__policies": [ADD], "groups__web__start_count": 2}
    quiet, loaded = result(**settings), result(**settings, groups__web__hands=[load])
    more = loaded.setup.rate - quiet.setup.rate
    begin, full, end = (360 * 10, 360 * 10 + 60, 360 * 10 + 180)
    assert (more[:begin] == 0).all()
    assert more[begin + 30] == pytest.approx(15, rel=0.05)
    assert more[full:end] == pytest.approx(30)
    assert (more[end:] == 0).all()
    assert loaded.series["desired"][end] > quiet.series["desired"][end]
    other = rehearse(plan(**settings, groups__web__hands=[load]), "web")
    assert [event.text for event in events(other) if event.kind == "hand"] == ["a hand sends the load of 60 clients for 30 min"]
    assert other.bounds.always_peak_count > rehearse(plan(**settings), "web").bounds.always_peak_count
