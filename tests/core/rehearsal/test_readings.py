"""What is drawn is what was seen: over every kind of work, metric and zone, a period of the curve gives the sample."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.decide.rules import metric_row
from jostle.core.plan.metric import Metric
from jostle.core.plan.work import WORK_KINDS
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.strip import metric_series, zone_series
from tests.plans import ADD, REMOVE, plan

WORKS = {
    "requests": {"kind": "requests", "cpu_seconds": "100 ms", "timeout": "20 s", "memory_mib_each": 3, "kib_in": 4},
    "jobs": {"kind": "jobs", "job_seconds": "90 s", "memory_mib_each": 30},
    "sessions": {"kind": "sessions", "seats": 20, "length": "8 min", "memory_mib_each": 8, "kib_out": 20},
}
RATES = {"requests": 45, "jobs": 0.05, "sessions": 0.12}
LAST = (Metric.BACKLOG, Metric.AGE)


def made(kind, seed, drain, sticky):
    balancer = {"sticky": "10 min"} if sticky and kind == "requests" else None
    rush = {"kind": "surge", "at": "2025-07-07T02:00", "factor": 3, "hold": "1 h"}
    return rehearse(
        plan(
            days=0.25,
            demands__even__layers=[{"kind": "level", "rate": RATES[kind]}, rush],
            groups__web__work=WORKS[kind],
            groups__web__load_balancer=balancer,
            groups__web__drain=drain,
            groups__web__policies=[{**ADD, "cooldown": "2 min"}, {**REMOVE, "cooldown": "3 min"}],
            groups__web__hands=[
                {"kind": "stress", "at": "2025-07-07T01:00", "for": "20 min", "cpu": "30 %", "instance": "oldest"}
            ],
        ),
        "web",
        seed,
        by_zone=True,
    )


@settings(max_examples=6)
@given(st.sampled_from(sorted(WORKS)), st.integers(1, 99), st.sampled_from(["0 s", "4 min"]), st.booleans())
def test_a_period_of_the_curve_gives_the_sample(kind, seed, drain, sticky):
    rehearsal = made(kind, seed, drain, sticky)
    step, series = int(rehearsal.result.setup.of("period_ticks")), rehearsal.result.series
    for metric in WORK_KINDS[kind].metrics:
        samples = rehearsal.result.state.sight.samples[0, metric_row(metric)]
        periods = metric_series(rehearsal, metric)[: len(samples) * step].reshape(-1, step)
        serving = series["serving"][: len(samples) * step].reshape(-1, step).astype(float)
        weights = np.where(np.isnan(periods), 0.0, serving)
        if metric == Metric.FAILED_SHARE:
            weights = (series["served"] + series["failed"])[: len(samples) * step].reshape(-1, step).astype(float)
        if metric == Metric.FREE_SEATS:
            weights = np.ones_like(periods)
        if metric == Metric.LATENCY_P95:
            there = ~np.isnan(samples)
            assert np.all(samples[there] >= np.nanmin(periods[there], axis=1) * 0.97)
            assert np.all(samples[there] <= np.nanmax(periods[there], axis=1) * 1.03)
            continue
        if metric in LAST:
            assert samples == pytest.approx(periods[:, -1], rel=1e-5, abs=1e-5)
            continue
        with np.errstate(invalid="ignore"):
            means = np.nansum(np.nan_to_num(periods) * weights, axis=1) / weights.sum(axis=1)
        there = ~np.isnan(samples) & (weights.sum(axis=1) > 0)
        assert samples[there] == pytest.approx(means[there], rel=1e-4, abs=1e-4), metric


def test_a_zone_is_drawn_as_it_was_seen():
    rehearsal = made("sessions", 3, "4 min", False)
    step = int(rehearsal.result.setup.of("period_ticks"))
    for zone in rehearsal.crew.launch.zones:
        place = 1 + rehearsal.crew.launch.zones.index(zone)
        for metric in (one for one in WORK_KINDS["sessions"].metrics if one.by_zone):
            samples = rehearsal.result.state.sight.samples[place, metric_row(metric)]
            assert np.array_equal(zone_series(rehearsal, metric, zone)[::step][: len(samples)], samples, equal_nan=True)


def test_sessions_that_drain_are_not_counted_with_those_that_serve():
    rehearsal = made("sessions", 1, "4 min", False)
    each = metric_series(rehearsal, Metric.SESSIONS_PER_INSTANCE)
    assert np.nanmax(each) <= 20
    assert np.nanmax(rehearsal.result.series["in_use"] - rehearsal.result.series["seated"]) > 0
