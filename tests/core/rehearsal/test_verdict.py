from decimal import Decimal

import pytest

from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import differences, verdict
from tests.plans import ADD, plan

PROMISES = [{"kind": "answers", "share": "95 %", "within": "1 s"}, {"kind": "cost", "at_most": 100}]


def judged(**settings):
    return verdict(rehearse(plan(**settings), "web"))


def test_the_figures_of_a_calm_day():
    figures = judged(groups__web__minimum=2, groups__web__promises=PROMISES).figures
    assert figures.cost == Decimal("17.28")
    assert figures.instance_hours == 48
    assert figures.arrived == 30 * 86400 == pytest.approx(figures.served + figures.failed + figures.waiting)
    assert (figures.waiting, figures.failed) == (pytest.approx(2 * 1.93, abs=0.01), pytest.approx(0, abs=1e-3))
    assert (figures.short_minutes, figures.changes) == (0, 0)
    assert figures.mean_cpu_percent == pytest.approx(75, abs=0.01)
    assert (figures.min_count, figures.max_count) == (2, 2)
    assert figures.latency_p50_ms < figures.latency_p95_ms
    assert figures.foresight_cost == figures.always_peak_cost == figures.cost


def test_short_minutes_are_the_time_in_which_something_waits_or_fails():
    figures = judged(groups__web__minimum=1).figures
    assert figures.short_minutes == 24 * 60
    assert figures.latency_p95_ms is None
    assert figures.latency_p50_ms > 10_000


def test_promises_are_judged_and_cost_is_by_the_week():
    kept, cost = judged(groups__web__minimum=2, groups__web__promises=PROMISES).promises
    assert kept.kept
    assert not cost.kept
    assert "€ 121" in cost.measured
    broken = judged(groups__web__minimum=1, groups__web__promises=PROMISES).promises[0]
    assert not broken.kept


def test_a_failed_request_counts_as_not_answered():
    promise = [{"kind": "answers", "share": "60 %", "within": "60 s"}]
    # 30/s against 20/s: a third fails, and the others are answered within their timeout.
    assert judged(groups__web__promises=promise).promises[0].kept
    stricter = [{"kind": "answers", "share": "70 %", "within": "60 s"}]
    assert not judged(groups__web__promises=stricter).promises[0].kept


def test_an_unkept_share_is_never_rounded_up_to_look_kept():
    text = judged(groups__web__promises=[{"kind": "answers", "share": "66.69 %", "within": "60 s"}]).promises[0]
    assert not text.kept
    assert float(text.measured.split()[0]) < 66.69


def test_differences_say_which_way_is_better():
    slow = judged(groups__web__minimum=1).figures
    calm = judged(groups__web__minimum=2).figures
    found = {one.figure: one for one in differences(calm, slow)}
    assert found["cost"].text == "+100.0 %"
    assert found["cost"].better is False
    assert found["short_minutes"].text == "−1,440"
    assert found["short_minutes"].better is True
    assert found["latency_p95_ms"].better is True
    assert differences(calm, calm) == []


def test_changes_of_count_are_neither_good_nor_bad():
    still = judged(groups__web__minimum=2).figures
    moving = judged(groups__web__policies=[ADD]).figures
    found = {one.figure: one for one in differences(moving, still)}
    assert found["changes"].better is None


def test_an_unknown_group_or_seed_says_what_there_is():
    with pytest.raises(PlanError, match="there is: web"):
        rehearse(plan(), "wob")
    with pytest.raises(PlanError, match="2147483647"):
        rehearse(plan(), "web", -1)
