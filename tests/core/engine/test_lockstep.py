"""Groups that share a quota."""

from jostle.core.checks.check import check
from jostle.core.journal.event import events
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from tests.plans import ADD, HOLD, REMOVE, data, plan

SMALL = {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36"}


def group(**settings):
    return {**data()["groups"]["web"], **settings}


def both(quota, first, second, **settings):
    """The billed counts of two groups under a quota, at every tick."""
    made = plan(machines={"otter-2": {**SMALL, "quota": quota}}, groups={"first": first, "second": second}, **settings)
    rehearser = Rehearser()
    return [rehearser.rehearse(made, name).result for name in made.groups]


def test_two_groups_never_run_more_than_their_quota():
    growing = group(policies=[{**ADD, "amount": 3, "cooldown": "1 min"}], maximum=8, start_count=1)
    found = both(10, growing, growing, demands__even__layers=[{"kind": "level", "rate": "150/s"}])
    together = sum(one.series["billed"].astype(int) for one in found)
    assert together.max() == 10
    assert all((one.series["billed"] > 1).any() for one in found)
    held = [one.decisions["limit"].tolist() for one in found]
    assert any(held)


def test_what_asks_first_is_served_first():
    # The second group grows at 00:10 to six; the first wants six at 00:20 and gets the four that are left.
    late, early = (
        group(minimum=1, maximum=8, calendar=[{"name": "more", "kind": "floor", "from": at, "for": "2 h", "count": 6}])
        for at in ("2025-07-07T00:20", "2025-07-07T00:10")
    )
    first, second = both(10, late, early, days=0.1)
    assert second.series["billed"][100] == 6
    assert first.series["billed"][200] == 4


def test_what_one_leaves_the_other_takes_up():
    busy = group(
        minimum=1,
        maximum=8,
        calendar=[{"name": "more", "kind": "floor", "from": "2025-07-07T00:10", "for": "30 min", "count": 8}],
    )
    busy["policies"] = [{**REMOVE, "threshold": "60 %", "cooldown": "1 min"}]
    waiting = group(minimum=1, maximum=8, calendar=[{**busy["calendar"][0], "for": "2 h", "count": 5}])
    first, second = both(9, busy, waiting, days=0.1)
    together = first.series["billed"].astype(int) + second.series["billed"]
    assert together.max() <= 9
    assert second.series["billed"][720] == 5


def test_alone_under_a_quota_a_group_is_as_before():
    made = plan(machines={"otter-2": {**SMALL, "quota": 6}}, groups__web__policies=[HOLD])
    more = plan(
        machines={"otter-2": {**SMALL, "quota": 6}, "other": {**SMALL, "quota": 6}},
        templates={"front": data()["templates"]["front"], "own": {"machine": "other", "boot_time": "100 s"}},
        groups={"web": group(policies=[HOLD]), "far": group(template="own")},
    )
    one, two = rehearse(made, "web").result, rehearse(more, "web").result
    assert one.series.tobytes() == two.series.tobytes()


def test_what_is_refused_is_told_at_that_instant_and_found():
    early = group(minimum=6, maximum=8)
    late = group(maximum=8, calendar=[{"name": "more", "kind": "floor", "from": "2025-07-07T00:10", "for": "2 h", "count": 6}])
    made = plan(machines={"otter-2": {**SMALL, "quota": 8}}, groups={"first": early, "second": late}, days=0.1)
    second = rehearse(made, "second")
    assert second.result.series["billed"].max() == 2
    told = [(event.time[11:16], event.text) for event in events(second) if event.kind == "limit"]
    assert told == [("00:10", "6 wanted, the quota leaves 2")]
    found = next(one for one in check(second, None) if one.code == "quota-holds")
    assert found.text == "For 2 h the quota of otter-2, which is 8 over all groups, holds the count down."
