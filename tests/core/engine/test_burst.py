"""Bursting machines earn and spend credits, weighted versions get their shares, and a network may be full before a CPU."""

import numpy as np
import pytest

from jostle.core.rehearsal.rehearser import rehearse
from tests.engines import result
from tests.plans import plan

# 2 vCPUs that give 20 % for good; 20 requests/s at full speed
BURSTS = {
    "machines__otter-2__baseline": 0.2,
    "machines__otter-2__first_credits": "10 min",
    "machines__otter-2__most_credits": "20 min",
}


def test_credits_last_as_long_as_they_must_and_then_the_baseline_is_all():
    found = result([18.0] * 720, **BURSTS)
    series = found.state.series
    cpu = series["cpu"][0]
    # What is spent beyond the baseline: 2 vCPUs x (cpu - 0.2) a second, of 600 s
    lasts = 600 / (2 * (cpu - 0.2))
    gone = int(np.argmax(series["capacity"] < 20)) * 10
    assert gone == pytest.approx(lasts, abs=20)
    late = series[-60:]
    assert late["cpu"].mean() == pytest.approx(0.2, abs=0.01)
    assert late["served"].mean() / 10 == pytest.approx(4, rel=0.03)
    assert found.tally("tired_ticks") == pytest.approx((7200 - gone) / 10, abs=8)


def test_credits_are_saved_up_to_their_most_in_quiet_hours():
    quiet, loud = [0.0] * 720, [18.0] * 720
    found = result(quiet + loud, **BURSTS)
    cpu = found.state.series["cpu"][721]
    gone = int(np.argmax(found.state.series["capacity"] < 20)) * 10 - 7200
    assert gone == pytest.approx(1200 / (2 * (cpu - 0.2)), abs=20)


def test_below_the_baseline_nothing_is_spent():
    found, plain = result([3.0] * 360, **BURSTS), result([3.0] * 360)
    assert found.tally("tired_ticks") == 0
    assert np.array_equal(found.state.series["cpu"], plain.state.series["cpu"])


@pytest.mark.parametrize("kind", ["jobs", "sessions"])
def test_without_credits_jobs_take_longer_and_no_reading_passes_the_baseline(kind):
    work = {"jobs": {"kind": "jobs", "job_seconds": 100}, "sessions": {"kind": "sessions", "seats": 10, "length": "10 min"}}[kind]
    found = result([0.03] * 4000, **BURSTS, groups__web__work=work)
    plain = result([0.03] * 4000, groups__web__work=work)
    assert found.tally("tired_ticks") > 0
    assert np.nanmax(found.state.series["cpu"][-500:]) <= 0.2 + 1e-6
    if kind == "jobs":
        assert found.tally("backlog") > plain.tally("backlog") + 10
    else:
        assert found.tally("failed") == plain.tally("failed")


def test_a_version_gets_the_share_that_its_weight_says():
    versions = [{"machine": "otter-2", "boot_time": 10, "warm_up": 0}] * 2
    settings = {
        "templates__front": {"versions": versions},
        "groups__web__start_version": 1,
        "groups__web__load_balancer": {"weights": {"2": 0.25}},
        "groups__web__hands": [{"kind": "set", "at": "2025-07-07T00:05", "count": 2}],
    }
    found = result([10.0] * 200, **settings)
    shares = found.instances["share"]
    assert shares[:2] == pytest.approx([0.8, 0.2])
    even = result([10.0] * 200, **{**settings, "groups__web__load_balancer": {}})
    assert even.state.series["latency"][-1] < found.state.series["latency"][-1]


def test_a_network_that_is_full_first_holds_requests_back_while_cpu_reads_low():
    # 20 requests/s by CPU; 10 KiB each through 0.8192 Mbit/s are 10
    work = {"kind": "requests", "cpu_seconds": 0.1, "timeout": 20, "arrivals": "evenly", "kib_out": 10}
    found = result([15.0] * 400, **{"machines__otter-2__network_mbit": 0.8192}, groups__web__work=work)
    assert found.state.series["capacity"][-1] == pytest.approx(10)
    assert found.state.series["cpu"][-1] == pytest.approx(0.5)
    assert found.tally("failed") > 0


def test_sessions_take_no_more_seats_than_the_network_carries():
    work = {"kind": "sessions", "seats": 10, "length": "10 min", "kib_out": 10}
    found = result([0.1] * 400, **{"machines__otter-2__network_mbit": 0.5}, groups__web__work=work)
    assert found.state.series["seated"].max() == 6


def test_a_rehearsal_says_how_long_credits_were_gone():
    from jostle.core.rehearsal.verdict import verdict

    made = plan(**BURSTS, days=0.25, demands__even__layers=[{"kind": "level", "rate": 18}])
    assert verdict(rehearse(made, "web")).figures.credits_gone_minutes > 300
