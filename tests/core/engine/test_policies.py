"""Policies, cooldowns, limits and the life of instances, by hand-worked cases.

An instance finishes 20 requests a second. It boots in 100 s and warms up for 50 s. Meters are read every 60 s and known
30 s later; policies are asked every 60 s.
"""

import numpy as np
import pytest

from jostle.core.built.play import fold_window
from jostle.core.decide.code import Dial, Fold, Outcome, Stance
from jostle.core.engine.code import EventKind
from tests.engines import changes, result
from tests.plans import ADD, HOLD, REMOVE


def test_an_addition_comes_after_metric_delay_and_serves_after_boot_and_warm_up():
    # 15/s is 75 % of one instance: the sample of 0-60 s is known at 90 s, seen at 120 s, and the new one serves from 270 s.
    found = result([15] * 60, groups__web__policies=[ADD])
    assert changes(found)[0] == (120, 1, 2)
    serving = found.state.series["serving"]
    assert serving[26] == 1
    assert serving[27] == 2
    assert found.instances["requested"][1] == 120
    assert found.instances["booted"][1] == 220
    assert found.instances["serves"][1] == 270


def test_cost_runs_from_the_request_on():
    found = result([15] * 60, groups__web__policies=[ADD])
    assert found.instance_seconds[1] == 600 - 120
    assert found.tally("spend") == pytest.approx((600 + 480) * 0.36 / 3600, abs=1e-12)


def test_a_policy_waits_its_cooldown_before_it_acts_again():
    # 38/s keeps even three instances above 63 %: the policy acts as often as its wait of 5 min allows.
    found = result([200] * 360, groups__web__policies=[ADD])
    times = [time for time, _, _ in changes(found)]
    assert times[0] == 120
    assert set(np.diff(times)) == {300.0}
    states = found.state.views["state"][:, 0]
    assert states[1] == Stance.ASKING
    assert list(states[2:6]) == [Stance.WAITING] * 4
    assert found.state.views["wait"][2, 0] == 240


def test_the_groups_cooldown_holds_every_policy_back():
    fast = {**ADD, "cooldown": 0}
    found = result([200] * 120, groups__web__policies=[fast], groups__web__cooldown="4 min")
    assert set(np.diff([time for time, _, _ in changes(found)])) == {240.0}
    assert found.decisions["outcome"][2] == Outcome.GROUP_WAITS
    assert found.decisions["group_wait"][2] == 180


def test_the_maximum_stops_additions_and_says_so_once():
    found = result([500] * 600, groups__web__policies=[{**ADD, "amount": 4}], groups__web__maximum=6)
    assert [after for _, _, after in changes(found)] == [5, 6]
    assert found.decisions["outcome"][-1] == Outcome.AT_MAXIMUM
    assert found.decisions["wanted"][-1] == 10
    limits = found.events[found.events["kind"] == EventKind.LIMIT_REACHED]
    assert len(limits) == 1
    assert limits["before"][0] == 9


def test_the_minimum_stops_removals():
    found = result([1] * 600, groups__web__policies=[REMOVE], groups__web__start_count=3, groups__web__minimum=2)
    assert [after for _, _, after in changes(found)] == [2]
    assert found.decisions["outcome"][-1] == Outcome.AT_MINIMUM


@pytest.mark.parametrize(("count", "percent", "after"), [(1, 10, 2), (10, 25, 13), (5, 50, 8), (10, 30, 13)])
def test_a_percentage_is_rounded_half_up_and_at_least_one(count, percent, after):
    policy = {**ADD, "amount": percent, "of": "percent", "threshold": "10 %"}
    found = result([15 * count] * 20, groups__web__policies=[policy], groups__web__start_count=count, groups__web__maximum=40)
    assert changes(found)[0] == (120, count, after)


def test_a_count_can_be_set():
    found = result([15] * 20, groups__web__policies=[{**ADD, "action": "set", "amount": 7}])
    assert changes(found) == [(120, 1, 7)]


def test_hold_asks_for_the_count_at_which_the_metric_stands_at_its_level():
    # 38/s on two instances is 95 %; at 50 % it takes 3.8, so 4.
    found = result([38] * 120, groups__web__policies=[HOLD], groups__web__start_count=2)
    assert changes(found) == [(120, 2, 4)]


def test_hold_counts_warming_instances_as_if_they_delivered():
    found = result([38] * 120, groups__web__policies=[{**HOLD, "cooldown": 0}], groups__web__start_count=2)
    assert changes(found) == [(120, 2, 4)]


def test_hold_stays_quiet_within_its_tolerance_and_may_be_told_never_to_remove():
    quiet = result([21] * 120, groups__web__policies=[HOLD], groups__web__start_count=2)
    assert changes(quiet) == []
    low = {"groups__web__start_count": 8}
    assert changes(result([21] * 120, groups__web__policies=[HOLD], **low))[0] == (120, 8, 3)
    assert changes(result([21] * 120, groups__web__policies=[{**HOLD, "may_remove": False}], **low)) == []


def test_the_largest_addition_wins():
    more = {**ADD, "name": "more", "amount": 3, "threshold": "72 %"}
    found = result([15] * 20, groups__web__policies=[ADD, more])
    assert changes(found)[0] == (120, 1, 4)
    assert found.decisions["winner"][1] == 1


def test_removal_needs_every_policy_that_may_remove():
    # CPU of 20 % on ten: the Trigger would remove one, the Hold at 18 % with 20 % tolerance is content, so nobody goes.
    content = {**HOLD, "level": "18 %", "tolerance": "20 %"}
    settings = {"groups__web__start_count": 10, "groups__web__maximum": 20}
    assert changes(result([40] * 60, groups__web__policies=[REMOVE], **settings))[0][2] == 9
    found = result([40] * 60, groups__web__policies=[REMOVE, content], **settings)
    assert changes(found) == []
    assert found.decisions["outcome"][1] == Outcome.NOT_AGREED


def test_agreed_removals_go_to_the_larger_count():
    hold = {**HOLD, "level": "50 %"}
    found = result([40] * 60, groups__web__policies=[REMOVE, hold], groups__web__start_count=10)
    assert changes(found)[0] == (120, 10, 9)


def test_every_policy_that_agreed_to_a_removal_begins_its_wait():
    hold = {**HOLD, "level": "50 %", "cooldown": "20 min"}
    removing = {**REMOVE, "cooldown": "2 min"}
    found = result([40] * 200, groups__web__policies=[removing, hold], groups__web__start_count=10)
    assert [time for time, _, _ in changes(found)] == [120, 1320]
    assert found.decisions["winner"][1] == 0


def test_the_ninetieth_percentile_of_a_window_is_its_nearest_rank():
    chance = np.random.default_rng(5)
    samples = chance.choice([0.1, 0.25, 0.4, 3.0, 1e-7, np.nan], 97).astype(np.float32)
    for published, window in ((97, 60), (60, 60), (31, 11), (140, 90)):
        ring = samples[np.arange(published - window, published) % 97]
        there = np.sort(ring[~np.isnan(ring)])
        expected = there[int(np.ceil(0.9 * len(there) - 1e-9)) - 1]
        assert fold_window(samples, published, window, Fold.P90) == expected


def test_a_paused_policy_neither_asks_nor_stands_in_the_way():
    content = {**HOLD, "level": "18 %", "tolerance": "20 %", "paused": True}
    settings = {"groups__web__start_count": 10, "groups__web__maximum": 20}
    assert changes(result([40] * 60, groups__web__policies=[REMOVE, content], **settings))[0][2] == 9
    assert changes(result([15] * 60, groups__web__policies=[{**ADD, "paused": True}])) == []


def test_from_zero_a_metric_of_the_instances_never_comes_back():
    found = result([15] * 120, groups__web__policies=[ADD], groups__web__minimum=0, groups__web__start_count=0)
    assert changes(found) == []
    assert set(found.state.views["state"][:, 0]) == {Stance.NO_DATA}
    backlog = {**ADD, "metric": "backlog", "threshold": 100}
    rescued = result([15] * 120, groups__web__policies=[backlog], groups__web__minimum=0, groups__web__start_count=0)
    assert changes(rescued)[0] == (120, 0, 1)


@pytest.mark.parametrize(("fold", "first"), [("maximum", 180), ("latest", 180), ("average", 240), ("minimum", 300)])
def test_a_window_is_folded_as_asked(fold, first):
    # 75 % from the second minute on, over a window of three samples: 25, 75, 75, 75 ... against 50 %.
    policy = {**ADD, "threshold": "55 %", "window": "3 min", "fold": fold}
    found = result([5] * 6 + [15] * 60, groups__web__policies=[policy])
    assert changes(found)[0][0] == first


def test_with_fewer_than_half_of_its_samples_a_window_has_no_data():
    policy = {**ADD, "window": "10 min"}
    found = result([15] * 60, groups__web__policies=[policy])
    states = found.state.views["state"][:, 0]
    assert list(states[:5]) == [Stance.NO_DATA] * 5
    assert changes(found)[0][0] == 360


def test_a_leaving_instance_drains_without_load_and_is_paid_for_until_it_is_gone():
    found = result([2] * 60, groups__web__policies=[REMOVE], groups__web__start_count=2, groups__web__drain="90 s")
    assert changes(found)[0][0] == 120
    assert found.state.series["serving"][12] == 1
    leaver = found.instances[0]
    assert leaver["drains"] == 120
    assert leaver["gone"] == 210
    assert found.instance_seconds[0] == 210


def test_those_that_do_not_serve_yet_leave_first():
    burst = [19] * 12 + [1] * 60
    policies = [{**ADD, "amount": 3}, {**REMOVE, "cooldown": 0}]
    found = result(burst, groups__web__policies=policies)
    assert changes(found)[:2] == [(120, 1, 4), (240, 4, 3)]
    assert list(np.flatnonzero(found.instances["gone"] == 240)) == [3]
    assert found.instances["drains"][0] == 300


def test_latency_as_a_metric():
    policy = {**ADD, "metric": "latency_p95", "threshold": "2 s", "window": "60 s"}
    calm = result([15] * 60, groups__web__policies=[policy])
    assert changes(calm) == []
    seen = calm.state.sight.samples[0, Dial.LATENCY_P95]
    assert np.allclose(seen, calm.latency(0.95), rtol=0.01)
    assert changes(result([30] * 60, groups__web__policies=[policy]))[0] == (120, 1, 2)
