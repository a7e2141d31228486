import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from jostle.core.built.figure import lanes
from jostle.core.plan.metric import Metric
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.strip import Span, metric_series
from tests.plans import plan


@given(arrays(np.float64, st.integers(1, 300), elements=st.floats(-1e6, 1e6)), st.integers(1, 80))
def test_no_spike_is_lost_in_buckets(values, number):
    cut = Span.of(len(values), 0, len(values), number).buckets(values)
    assert cut.low.min() == values.min()
    assert cut.high.max() == values.max()
    assert np.all(cut.low <= cut.mean + 1e-6)
    assert np.all(cut.mean <= cut.high + 1e-6)


@given(st.integers(1, 500), st.integers(-50, 600), st.integers(-50, 600), st.integers(1, 100))
def test_a_span_is_clipped_and_never_empty(ticks, begin, end, number):
    span = Span.of(ticks, begin, end, number)
    assert 0 <= span.begin < span.end <= ticks
    assert span.edges[0] == span.begin
    assert np.all(np.diff(span.edges) > 0)
    assert len(span.edges) <= number


def test_missing_values_are_left_out_of_a_bucket():
    cut = Span.of(4, 0, 4, 2).buckets(np.array([np.nan, 2.0, np.nan, np.nan]))
    assert cut.mean[0] == cut.low[0] == cut.high[0] == 2
    assert np.isnan(cut.mean[1])


def test_lanes_reuse_the_first_free_line():
    requested = np.array([0.0, 0.0, 10.0, 30.0, 30.0])
    gone = np.array([20.0, np.nan, np.nan, np.nan, 50.0])
    assert list(lanes(np.arange(5), requested, gone)) == [0, 1, 2, 0, 3]


def test_metrics_of_every_kind_have_their_unit():
    rehearsal = rehearse(plan(groups__web__minimum=2), "web")
    assert metric_series(rehearsal, Metric.CPU)[5] == pytest.approx(0.75)
    assert metric_series(rehearsal, Metric.REQUESTS_PER_INSTANCE)[5] == pytest.approx(15)
    assert metric_series(rehearsal, Metric.LATENCY_P95)[5] == pytest.approx(rehearsal.result.latency(0.95), rel=0.01)
    overloaded = rehearse(plan(), "web")
    assert metric_series(overloaded, Metric.FAILED_SHARE)[-1] == pytest.approx(1 / 3, rel=1e-3)
    assert metric_series(overloaded, Metric.BACKLOG)[-1] == metric_series(overloaded, Metric.BACKLOG_PER_INSTANCE)[-1] > 300


def test_all_starts_of_an_instance_lie_on_one_line():
    who = np.array([0, 1, 0, 2])
    requested = np.array([0.0, 5.0, 20.0, 40.0])
    gone = np.array([10.0, 30.0, 60.0, np.nan])
    assert list(lanes(who, requested, gone)) == [0, 1, 0, 1]
