"""Demand meets capacity. The small plan's instance finishes 20 requests a second; a tick is 10 s; the timeout 20 s."""

import numpy as np
import pytest

from jostle.core.engine.code import EventKind
from tests.engines import result


def test_what_fits_is_served_at_once():
    found = result([15] * 360)
    assert found.tally("served") == pytest.approx(15 * 3600)
    assert found.tally("failed") == found.tally("backlog") == 0
    assert np.allclose(found.state.series["cpu"], 0.75)


def test_an_idle_instance_burns_its_share_and_serves_that_much_less():
    found = result([9] * 60, groups__web__work__idle_cpu="10 %")
    assert found.setup.of("capacity") == pytest.approx(18)
    assert np.allclose(found.state.series["cpu"], 0.1 + 0.9 * 0.5)


def test_a_backlog_builds_up_and_is_worked_off():
    rates = [30] * 2 + [10] * 10
    found = result(rates)
    assert list(found.state.series["waiting"][:5]) == [100, 200, 100, 0, 0]
    assert found.tally("failed") == 0
    assert found.tally("served") == sum(rates) * 10


def test_what_waits_past_the_timeout_fails():
    # 30/s against 20/s: the wait grows by half a tick each tick and reaches the 20 s of the timeout in tick 6.
    found = result([30] * 60)
    failed = found.state.series["failed"]
    assert not failed[:6].any()
    assert np.allclose(failed[7:], 100)
    assert found.tally("backlog") == pytest.approx(20 * 20, rel=0.51)


def test_with_nobody_serving_requests_wait_for_the_timeout_and_fail():
    found = result([10] * 30, groups__web__minimum=0, groups__web__start_count=0)
    failed = found.state.series["failed"]
    assert list(failed[:2]) == [0, 0]
    assert np.allclose(failed[2:], 100)
    assert found.tally("backlog") == pytest.approx(200)
    assert np.isnan(found.state.series["cpu"]).all()
    assert found.latency(0.95) is None


def test_a_timeout_between_ticks_counts_in_parts():
    found = result([10] * 30, groups__web__minimum=0, groups__web__start_count=0, groups__web__work__timeout="25 s")
    assert list(found.state.series["failed"][:4]) == [0, 0, 50, 100]


def test_those_served_from_a_backlog_had_waited_since_they_arrived():
    # 30/s for 20 s leaves 200 behind; then 10/s. The 200 of tick 2 are all of the backlog, which arrived in the last
    # 6.7 s before it and so is 8.3 s old on average when it is served; those of tick 3 are 5 s old, those of tick 4 wait no more.
    found = result([30] * 2 + [10] * 10)
    added = found.state.series["latency"] - found.setup.waits[2, -1]
    assert added[2] == pytest.approx(10 * (2.5 - (4 / 3 + 2) / 2), abs=0.01)
    assert added[3] == pytest.approx(5.0, abs=0.01)
    assert found.state.series["latency"][5] < 1


def test_short_times_are_told_by_their_events():
    found = result([10] * 6 + [30] * 2 + [10] * 8)
    told = [(row["time"], row["kind"]) for row in found.events]
    assert told == [(60, EventKind.SHORT_BEGINS), (90, EventKind.SHORT_ENDS)]


@pytest.mark.parametrize(("vcpus", "load"), [(1, 0.5), (2, 0.7), (4, 0.85), (8, 0.3)])
def test_a_steady_load_meets_erlang_c(vcpus, load):
    from scipy import optimize

    from jostle.core.engine.queue import erlang_c, stay_beyond

    service = 10.0
    found = result(
        [vcpus * service * load] * 600,
        machine_types={"otter-2": {"vcpus": vcpus, "memory_gib": 8, "price_per_hour": 1}},
    )
    share, wait = erlang_c(vcpus, load), vcpus * service * (1 - load)
    for quantile in (0.5, 0.95):
        expected = optimize.brentq(lambda t, q=quantile: stay_beyond(t, share, wait, service) - (1 - q), 1e-9, 1e3)
        assert found.latency(quantile) == pytest.approx(expected, rel=0.005)
    assert found.late_share(0.3) == pytest.approx(stay_beyond(0.3, share, wait, service), rel=0.01)


def test_base_latency_and_backlog_come_on_top():
    calm = result([10] * 60)
    later = result([10] * 60, groups__web__work__base_latency="100 ms")
    assert later.latency(0.95) == pytest.approx(calm.latency(0.95) + 0.1, abs=1e-6)
    busy = result([40] * 600)
    assert busy.state.series["latency"][300] > 19


def test_the_percentile_is_over_all_requests_not_over_ticks():
    # One tick in ten carries 90 % of the requests and is slow; the mean of the ticks' percentiles would hide it.
    found = result(([0.2] * 9 + [19.6]) * 60)
    assert found.latency(0.95) > 0.95 * found.state.series["latency"][9]
    assert found.latency(0.95) > 3 * found.state.series["latency"].mean()
