"""Demand meets capacity. The small plan's instance finishes 20 requests a second; a tick is 10 s; the timeout 20 s."""

import math

import numpy as np
import pytest

from jostle.core.built.figure import erlang_c
from jostle.core.engine.code import EventKind
from tests.engines import result


def test_what_fits_is_served_at_once():
    found = result([15] * 360)
    assert found.tally("served") + found.tally("backlog") == pytest.approx(15 * 3600)
    assert found.tally("failed") == pytest.approx(0, abs=1e-3)
    # Of 15 under way and waiting, those that wait are what M/M/2 has waiting at a load of 0.75.
    assert found.tally("backlog") == pytest.approx(erlang_c(2, 0.75) * 0.75 / 0.25, rel=0.01)
    assert np.allclose(found.state.series["cpu"][3:], 0.75)


def test_an_idle_instance_burns_its_share_and_serves_that_much_slower():
    found = result([9] * 60, groups__web__work__idle_cpu="10 %")
    assert found.setup.of("capacity") == pytest.approx(18)
    assert np.allclose(found.state.series["cpu"][3:], 0.1 + 0.9 * 0.5)
    alone = result([0.01] * 60, groups__web__work__idle_cpu="10 %")
    assert alone.latency(0.5) == pytest.approx(math.log(2) / 9, rel=0.01)


def test_a_backlog_builds_up_and_is_worked_off():
    rates = [30] * 4 + [10] * 20
    found = result(rates)
    waiting = found.state.series["waiting"]
    assert np.all(np.diff(waiting[:4]) > 90)
    assert np.all(np.diff(waiting[4:8]) < -40)
    assert waiting[-1] < 1
    assert found.tally("served") + found.tally("failed") == pytest.approx(sum(rates) * 10, abs=1)


def test_what_waits_past_the_timeout_fails():
    # 30/s against 20/s: the wait grows by half a tick each tick and reaches the 20 s of the timeout in tick 6.
    found = result([30] * 60)
    failed = found.state.series["failed"]
    assert failed[:3].max() < 20
    assert failed[14:] == pytest.approx(100, rel=0.02)
    assert found.tally("backlog") == pytest.approx(20 * 30, rel=0.06)
    # Who is answered has waited less than the timeout, and is served besides.
    assert found.latency(0.5) < 20.5
    assert found.late_share(22) == pytest.approx(found.tally("failed") / (found.arrived - found.tally("backlog")), abs=0.001)


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


def test_short_times_are_told_by_their_events():
    found = result([10] * 6 + [30] * 2 + [10] * 8)
    told = [(row["time"], row["kind"]) for row in found.events]
    assert told == [(60, EventKind.SHORT_BEGINS), (80, EventKind.SHORT_ENDS)]


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
