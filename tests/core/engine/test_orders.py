"""Policies of all kinds, the pipeline from ask to decision, the calendar's orders, and who leaves."""

import numpy as np
import pytest

from jostle.core.built.play import banded, count_for, fold_window, spare_ask
from jostle.core.decide.code import Fold, Outcome, Stance
from tests.engines import changes, result
from tests.plans import ADD, HOLD, REMOVE

SESSIONS = {"kind": "sessions", "seats": 10, "length": "10 min"}
RUSH = [75.0] * 360


def entry(kind, begin, **fields):
    return {"name": f"{kind}-{begin[-5:].replace(':', '')}", "kind": kind, "from": f"2025-07-07T{begin}", **fields}


@pytest.mark.parametrize(("value", "amount"), [(0.71, 1), (0.8, 1), (0.81, 3), (0.95, 6)])
def test_a_band_beyond_gives_its_own_step(value, amount):
    assert banded(value, False, 1, np.array([[0.8, 3], [0.9, 6]]), 2) == amount


def test_bands_act_on_the_group():
    policy = {**ADD, "bands": [{"beyond": "90 %", "amount": 4}]}
    assert changes(result(RUSH, groups__web__policies=[policy]))[0][1:] == (1, 5)
    assert changes(result([15.0] * 360, groups__web__policies=[policy]))[0][1:] == (1, 2)


@pytest.mark.parametrize(
    ("action", "amount", "of", "start", "after"),
    [
        ("add", 50, "percent", 4, 6),
        ("add", 10, "percent", 4, 5),
        ("set", 7, "instances", 4, 7),
        ("set", 2, "instances", 4, 2),
    ],
)
def test_actions(action, amount, of, start, after):
    policy = {**ADD, "action": action, "amount": amount, "of": of}
    found = result(RUSH, groups__web__policies=[policy], groups__web__start_count=start)
    assert changes(found)[0][1:] == (start, after)


def test_a_spare_policy_keeps_seats_free_and_removes_with_slack():
    assert count_for(85, 10, 0.15, True) == 10
    assert count_for(86, 10, 0.15, True) == 11
    assert count_for(85, 10, 20, False) == 11
    assert spare_ask(85, 10, 0.15, True, 0.1, 12) == 11
    assert spare_ask(84, 10, 0.15, True, 0.1, 11) == 11
    rates = [60 / 600] * 400
    policy = {"kind": "spare", "name": "seats", "share": "30 %", "window": "60 s", "cooldown": "2 min"}
    found = result(rates, groups__web__work=SESSIONS, groups__web__policies=[policy], groups__web__maximum=30)
    series = found.state.series[200:]
    free = 1 - series["in_use"] / series["capacity"]
    assert (free > 0.1).mean() > 0.9
    assert free.mean() == pytest.approx(0.33, abs=0.06)


def test_a_spare_policy_works_from_zero():
    policy = {"kind": "spare", "name": "spare", "number": 5, "window": "60 s"}
    found = result([10.0] * 100, groups__web__minimum=0, groups__web__policies=[policy])
    assert found.state.series["desired"][-1] == 1


def test_folds_of_a_window():
    samples = np.array([1.0, 9.0, np.nan, 4.0, 2.0, 3.0, 8.0, 5.0, 6.0, 7.0], np.float32)
    folds = {Fold.SUM: 45, Fold.COUNT: 9, Fold.P90: 9, Fold.MINIMUM: 1, Fold.MAXIMUM: 9, Fold.LATEST: 7, Fold.AVERAGE: 5}
    assert {fold: fold_window(samples, 10, 10, fold) for fold in folds} == folds
    many = np.random.default_rng(3).random(200).astype(np.float32)
    assert fold_window(many, 200, 200, Fold.P90) == np.sort(many)[179]
    assert np.isnan(fold_window(np.full(4, np.nan, np.float32), 4, 4, Fold.SUM))
    assert fold_window(np.full(4, np.nan, np.float32), 4, 4, Fold.COUNT) == 0


def test_a_policy_that_looks_at_one_zone():
    zones = {
        "subnets": {"a": {"zone": "north"}, "b": {"zone": "skerry"}},
        "groups__web__launch": {"subnets": ["a", "b"]},
        "groups__web__start_count": 2,
        "groups__web__hands": [{"kind": "stress", "at": "2025-07-07T00:10", "instance": 2, "cpu": "70 %", "for": "40 min"}],
    }
    watching = {
        place: result([20.0] * 200, **zones, groups__web__policies=[{**ADD, "zone": place}]) for place in ("north", "skerry")
    }
    assert changes(watching["north"]) == []
    assert changes(watching["skerry"])[0][1:] == (2, 3)


def test_an_outside_metric_moves_the_count():
    tide = {"first": "2025-07-07T00:00+01:00", "step": 600, "rates": [1, 1, 9, 9, 1, 1]}
    policy = {**ADD, "metric": "outside", "series": "tide", "threshold": 5, "cooldown": "30 min"}
    found = result([10.0] * 360, outside={"tide": {"file": "tide.csv", "samples": tide}}, groups__web__policies=[policy])
    assert changes(found) == [(1320.0, 1, 2)]


@pytest.mark.parametrize(("mode", "up", "down"), [("grow_and_shrink", True, True), ("grow", True, False), ("stay", False, False)])
def test_modes(mode, up, down):
    rates = [75.0] * 120 + [2.0] * 240
    found = changes(result(rates, groups__web__policies=[ADD, REMOVE], groups__web__mode=mode))
    assert any(after > before for _, before, after in found) == up
    assert any(after < before for _, before, after in found) == down


def test_all_policies_paused_at_once():
    found = result(RUSH, groups__web__policies=[ADD, HOLD], groups__web__policies_paused=True)
    assert changes(found) == []
    assert np.all(found.state.views["state"] == Stance.PAUSED)


def test_every_stage_is_recorded():
    found = result(
        [75.0] * 60 + [2.0] * 120,
        groups__web__policies=[{**ADD, "amount": 6, "cooldown": 60}, {**REMOVE, "amount": 6, "cooldown": 60}],
        groups__web__cooldown="3 min",
        groups__web__leaving={"brake": {"at_most": 2, "within": "30 min"}},
        groups__web__maximum=6,
    )
    rows = found.decisions
    first = rows[rows["decided"] != rows["desired"]][0]
    assert [int(first[s]) for s in ("wanted", "paced", "allowed", "scheduled", "braked", "decided")] == [7, 7, 7, 7, 7, 6]
    assert first["limit"] == Outcome.AT_MAXIMUM
    assert Outcome.GROUP_WAITS in rows["outcome"]
    down = rows[(rows["decided"] < rows["desired"])][0]
    assert (int(down["scheduled"]), int(down["braked"]), int(down["decided"])) == (0, 4, 4)
    assert (rows["outcome"] == Outcome.BRAKED).sum() > 10
    removed = sum(before - after for _, before, after in changes(found) if after < before)
    assert removed == 2


def test_the_brake_in_percent_of_the_desired_count():
    quick = [{**REMOVE, "amount": 9, "cooldown": 0}]
    brake = {"brake": {"at_most": 25, "of": "percent", "within": "10 min"}}
    found = changes(result([1.0] * 200, groups__web__policies=quick, groups__web__start_count=8, groups__web__leaving=brake))
    assert [after for _, _, after in found] == [6, 5, 4, 3]
    assert np.all(np.diff([time for time, _, _ in found]) == 600)


def test_a_floor_lifts_the_count_and_stops_removals():
    calendar = [entry("floor", "00:20", count=4, **{"for": "20 min"})]
    found = result([5.0] * 360, groups__web__policies=[{**REMOVE, "amount": 2, "cooldown": 60}], groups__web__calendar=calendar)
    assert changes(found)[0] == (1200.0, 1, 4)
    held = found.decisions[(found.decisions["time"] > 1300) & (found.decisions["time"] < 2400)]
    assert np.all(held["decided"] == 4)
    assert Outcome.AT_FLOOR in held["outcome"]
    assert changes(found)[1][0] == 2400


def test_bounds_narrow_both_ways():
    calendar = [entry("bounds", "00:30", minimum=2, maximum=3, **{"for": "1 h"})]
    found = result(RUSH, groups__web__policies=[{**ADD, "amount": 6, "cooldown": 60}], groups__web__calendar=calendar)
    series = found.state.series["desired"]
    assert series[179] > 3
    assert set(series[181:359].tolist()) == {3}
    assert Outcome.AT_CEILING in found.decisions["outcome"]


def test_two_at_once_the_higher_floor_and_the_narrower_bounds():
    calendar = [
        entry("floor", "00:10", count=3, **{"for": "1 h"}),
        entry("floor", "00:20", count=5, **{"for": "10 min"}),
        entry("bounds", "00:40", minimum=1, maximum=8, **{"for": "10 min"}),
        entry("bounds", "00:42", minimum=4, maximum=4, **{"for": "5 min"}),
    ]
    series = result([5.0] * 500, groups__web__calendar=calendar).state.series["desired"]
    assert [int(series[k]) for k in (50, 70, 130, 200, 256, 290)] == [1, 3, 5, 5, 4, 4]


def test_a_count_is_set_once_and_policies_go_on_from_it():
    calendar = [entry("set", "00:20", count=6)]
    found = changes(result([5.0] * 360, groups__web__policies=[{**REMOVE, "cooldown": 60}], groups__web__calendar=calendar))
    assert found[0] == (1200.0, 1, 6)
    assert found[1][1:] == (6, 5)


def test_a_set_that_is_stopped_is_tried_again_for_a_while():
    freeze = entry("freeze", "00:15", **{"for": "20 min"})
    for retry, expected in (("30 min", [(2100.0, 1, 6)]), ("5 min", [])):
        calendar = [freeze, entry("set", "00:20", count=6, retry=retry)]
        assert changes(result([5.0] * 360, groups__web__calendar=calendar)) == expected


def test_sleep_stops_the_whole_group_and_wakes_it_as_it_was():
    calendar = [entry("sleep", "01:00", **{"for": "1 h"})]
    found = result([5.0] * 1100, groups__web__start_count=3, groups__web__calendar=calendar, groups__web__leaving={"pinned": 1})
    series = found.state.series
    assert set(series["billed"][364:720].tolist()) == {0}
    assert set(series["stopped"][364:720].tolist()) == {3}
    assert series["desired"][725] == 3
    # Started in a third of the boot of 100 s, then 50 s of warm-up.
    assert series["serving"][720 + 9] == 3
    assert len(found.instances) == 3
    asleep = found.decisions[(found.decisions["time"] >= 3600) & (found.decisions["time"] < 7200)]
    assert np.all(asleep["decided"] == 0)


def test_policies_remove_only_in_their_hours():
    calendar = [entry("removals", "00:30", **{"for": "10 min"})]
    found = result(
        [2.0] * 360,
        groups__web__start_count=8,
        groups__web__policies=[{**REMOVE, "cooldown": 60}],
        groups__web__calendar=calendar,
    )
    times = [time for time, _, _ in changes(found)]
    assert min(times) == 1800
    assert max(times) < 2400
    assert Outcome.NO_REMOVALS in found.decisions["outcome"]


def test_a_cooldown_never_delays_the_calendar():
    calendar = [entry("floor", "00:05", count=6, **{"for": "10 min"})]
    slow = [{**ADD, "cooldown": "1 h"}]
    found = changes(result(RUSH, groups__web__policies=slow, groups__web__cooldown="1 h", groups__web__calendar=calendar))
    assert (300.0, 2, 6) in found


def test_a_hands_count_stands_above_the_calendar_until_the_next_set():
    calendar = [entry("floor", "00:00", count=5, **{"for": "3 h"}), entry("set", "01:00", count=6)]
    hands = [{"kind": "set", "at": "2025-07-07T00:20", "count": 2}]
    series = result([5.0] * 720, groups__web__calendar=calendar, groups__web__hands=hands).state.series["desired"]
    assert [int(series[k]) for k in (60, 130, 300, 365)] == [5, 2, 2, 6]


def leavers(found):
    rows = found.instances
    gone = ~np.isnan(rows["drains"])
    return (np.flatnonzero(gone)[np.argsort(rows["drains"][gone], kind="stable")] + 1).tolist()


@pytest.mark.parametrize(("criteria", "first"), [(["oldest"], [1, 2, 3]), (["newest"], [4, 3, 2]), ([], [1, 2, 3])])
def test_who_leaves_by_age(criteria, first):
    quiet = {"groups__web__policies": [{**REMOVE, "cooldown": 60}], "groups__web__start_count": 4}
    found = result([1.0] * 200, **quiet, groups__web__leaving={"criteria": criteria})
    assert leavers(found) == first


def test_the_fullest_zone_gives_first_and_the_oldest_version_before_the_oldest():
    settings = {
        "subnets": {"a": {"zone": "north"}, "b": {"zone": "skerry"}},
        "groups__web__launch": {"subnets": ["a", "b"]},
        "groups__web__start_count": 3,
        "groups__web__policies": [{**REMOVE, "cooldown": 60}],
    }
    # Zones by turns: 1 and 3 stand in north, 2 in skerry.
    assert leavers(result([1.0] * 200, **settings))[0] == 1
    assert leavers(result([1.0] * 200, **settings, groups__web__leaving={"criteria": ["newest"]})) == [3, 2]
    two = {"machine": "otter-2", "boot_time": 60}
    older = {"templates__front": {"versions": [two, {**two, "note": "again"}]}, "groups__web__start_version": 1}
    calendar = [entry("floor", "00:00", count=4, **{"for": "20 min"})]
    found = result(
        [1.0] * 300,
        **{**settings, **older},
        groups__web__calendar=calendar,
        groups__web__leaving={"criteria": ["oldest_version", "newest"], "balance_zones": False},
    )
    assert found.instances["version"].tolist() == [1, 1, 1, 2]
    assert leavers(found) == [3, 2, 1]


def test_the_nearest_to_the_end_of_a_paid_hour_leaves_first():
    calendar = [entry("floor", "00:40", count=3, **{"for": "40 min"})]
    found = result(
        [1.0] * 700,
        groups__web__policies=[REMOVE],
        groups__web__calendar=calendar,
        groups__web__leaving={"criteria": ["least_paid_left", "newest"]},
    )
    # At 01:20 number 1 has 40 min left of its second hour, the two of 00:40 have 20 min left of their first.
    assert leavers(found) == [3, 2]


def test_the_one_with_the_fewest_sessions_leaves_first():
    rates = [0.12] * 200 + [0.0] * 30
    found = result(
        rates,
        groups__web__work={**SESSIONS, "length": "1 h", "place": "pack", "seats": 40},
        groups__web__start_count=5,
        groups__web__drain="5 min",
        groups__web__policies=[{**REMOVE, "cooldown": "20 min"}],
        groups__web__leaving={"criteria": ["fewest_sessions", "newest"]},
    )
    assert leavers(found)[0] == 5


def test_a_draining_instance_keeps_its_sessions_until_they_end_or_are_cut_off():
    settings = {"groups__web__work": {**SESSIONS, "seats": 100}, "groups__web__start_count": 2}
    quiet = {"groups__web__policies": [{**REMOVE, "threshold": "90 %", "cooldown": "2 h"}]}
    patient, hasty = (result([0.1] * 900, **settings, **quiet, groups__web__drain=d) for d in ("2 h", "2 min"))
    assert patient.tally("cut_off") == 0
    assert hasty.tally("cut_off") > 0
    gone = patient.instances["gone"][0]
    assert hasty.instances["gone"][0] < gone < 7200
    assert patient.instances["sessions"][0] == 0


def test_a_worker_that_leaves_early_gives_its_jobs_back():
    settings = {
        "groups__web__work": {"kind": "jobs", "job_seconds": 200, "concurrency": 4, "arrivals": "evenly", "unevenness": 0},
        "groups__web__start_count": 3,
        "groups__web__hands": [{"kind": "set", "at": "2025-07-07T00:20", "count": 2}],
    }
    rates = [0.08] * 400
    given = {drain: result(rates, **settings, groups__web__drain=drain) for drain in (0, 100, 400)}
    assert [round(found.tally("returned"), 2) for found in given.values()] == [4.0, 2.0, 0.0]
    assert [round(found.tally("repeated"), 2) for found in given.values()] == [2.0, 1.5, 0.0]
    for found in given.values():
        assert found.tally("served") + found.tally("backlog") == pytest.approx(found.arrived)
