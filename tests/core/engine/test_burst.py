"""Bursting machines earn and spend credits, weighted versions get their shares, and a network may be full before a CPU."""

from collections import deque

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

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
    cpu = series["cpu"][20]
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


WORK = {
    "requests": {"kind": "requests", "cpu_seconds": 0.1, "timeout": 20, "arrivals": "evenly"},
    "by chance": {"kind": "requests", "cpu_seconds": 0.1, "timeout": 20},
    "jobs": {"kind": "jobs", "job_seconds": 30},
    "sessions": {"kind": "sessions", "seats": 10, "length": "10 min"},
}
# 1/s at which one instance is at its full speed
FULL = {"requests": 20.0, "by chance": 20.0, "jobs": 1 / 30, "sessions": 10 / 600}


@given(
    work=st.sampled_from(sorted(WORK)),
    tick=st.sampled_from([1, 10, 60]),
    count=st.integers(1, 4),
    loads=st.lists(st.floats(0.0, 2.0), min_size=1, max_size=5),
    first=st.just(0.0) | st.floats(0.001, 600.0),
)
def test_credits_are_neither_made_nor_lost(work, tick, count, loads, first):
    rates = np.repeat(loads, 1800 // tick) * FULL[work] * count
    found = result(
        rates,
        tick=tick,
        groups__web__work=WORK[work],
        groups__web__minimum=count,
        groups__web__maximum=count,
        **BURSTS | {"machines__otter-2__first_credits": first, "machines__otter-2__most_credits": "30 days"},
    )
    cpu = found.state.series["cpu"].astype(float)
    saved = 2 * tick * count * (0.2 - cpu)
    account = count * first + np.cumsum(saved)
    near = 1e-6 * 2 * tick * count * len(cpu) + 1e-3
    assert account.min() >= -near
    assert found.instances["credits"][:count].sum() == pytest.approx(account[-1], abs=near)


def apart(rate, seconds, first, step=0.1):
    """Requests served and failed by one machine, in steps of time, without what the engine knows of ticks."""
    credits, line, served, failed, inside = first, deque(), 0.0, 0.0, 0.0
    for k in range(round(seconds / step)):
        arrived = rate(k * step) * step
        line.append([k * step, arrived])
        inside += arrived
        can = 20.0 * step * (1.0 if credits > 0 else 0.2)
        done = min(inside, can)
        credits = max(0.0, credits + (0.2 - done / (20.0 * step)) * 2 * step)
        inside -= done
        served += done
        while done > 1e-12:
            taken = min(done, line[0][1])
            line[0][1] -= taken
            done -= taken
            if line[0][1] <= 1e-12:
                line.popleft()
        while line and line[0][0] < k * step - 20:
            failed += line[0][1]
            inside -= line.popleft()[1]
    return served, failed


@pytest.mark.parametrize("high", [8.0, 14.0, 19.0])
def test_what_is_served_hangs_neither_on_the_tick_nor_on_the_engine(high):
    """A load that comes and goes, against a model apart."""

    def rate(time):
        return high if time % 3600 < 1800 else 2.0

    told = {"served": [], "failed": []}
    for tick in (1, 10, 60):
        found = result(
            [rate(k * tick) for k in range(10_800 // tick)],
            tick=tick,
            groups__web__work=WORK["requests"],
            **BURSTS | {"machines__otter-2__first_credits": 120},
        )
        for name, each in told.items():
            each.append(found.tally(name))
    for each, truth in zip(told.values(), apart(rate, 10_800, 120.0), strict=True):
        assert each == pytest.approx([truth] * 3, rel=0.05)
        assert max(each) <= 1.05 * min(each)


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
