import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.built.play import binomial, exponential, lognormal, normal, poisson, stream_of, uniform


@given(st.integers(0, 2**31 - 1), st.integers(0, 1000), st.integers(0, 2**40))
def test_a_draw_depends_on_its_number_only(seed, stream, index):
    again = uniform(stream_of(seed, stream), index)
    uniform(stream_of(seed, stream), index + 1)
    assert uniform(stream_of(seed, stream), index) == again
    assert 0.0 < again < 1.0


def test_uniform_draws_fill_the_interval_evenly():
    draws = np.array([uniform(stream_of(7, 1), k) for k in range(20_000)])
    counts, _ = np.histogram(draws, bins=20, range=(0, 1))
    assert np.abs(counts - 1000).max() < 5 * np.sqrt(1000)


def test_normal_draws_have_mean_zero_and_spread_one():
    draws = np.array([normal(stream_of(7, 1), k) for k in range(20_000)])
    assert abs(draws.mean()) < 0.03
    assert abs(draws.std() - 1) < 0.03


def test_seeds_streams_and_neighbours_are_unrelated():
    a = np.array([uniform(stream_of(1, 1), k) for k in range(5000)])
    for other in (
        [uniform(stream_of(2, 1), k) for k in range(5000)],
        [uniform(stream_of(1, 2), k) for k in range(5000)],
        np.roll(a, 1),
    ):
        assert abs(np.corrcoef(a, other)[0, 1]) < 0.05


@pytest.mark.parametrize("mean", [0.3, 4.0, 40.0, 400.0])
def test_poisson_counts_have_their_mean_as_variance(mean):
    counts = np.array([poisson(stream_of(5, 4), k, mean) for k in range(20_000)])
    assert counts.min() >= 0
    assert counts.mean() == pytest.approx(mean, rel=0.02)
    assert counts.var() == pytest.approx(mean, rel=0.05)


@pytest.mark.parametrize(("trials", "share"), [(8, 0.2), (300, 0.01), (1000, 0.3), (5, 0.5)])
def test_binomial_counts_follow_the_distribution(trials, share):
    counts = np.array([binomial(stream_of(5, 5), k, trials, share, (1 - share) ** trials) for k in range(20_000)])
    assert counts.max() <= trials
    assert counts.mean() == pytest.approx(trials * share, rel=0.02)
    assert counts.var() == pytest.approx(trials * share * (1 - share), rel=0.05)


def test_nothing_of_nothing_succeeds():
    assert binomial(stream_of(5, 5), 1, 0, 0.3, 1.0) == 0
    assert poisson(stream_of(5, 4), 1, 0.0) == 0


def test_exponential_and_lognormal_draws_have_mean_one():
    waits = np.array([exponential(stream_of(5, 3), k) for k in range(20_000)])
    boots = np.array([lognormal(stream_of(5, 2), k, 0.5) for k in range(20_000)])
    assert waits.mean() == pytest.approx(1, rel=0.03)
    assert waits.std() == pytest.approx(1, rel=0.04)
    assert boots.mean() == pytest.approx(1, rel=0.02)
    assert boots.std() == pytest.approx(0.5, rel=0.06)
    assert lognormal(stream_of(5, 2), 1, 0.0) == 1.0
