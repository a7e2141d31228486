import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.draw import normal, uniform


@given(st.integers(0, 2**31 - 1), st.integers(0, 1000), st.integers(0, 2**40))
def test_a_draw_depends_on_its_number_only(seed, stream, index):
    again = uniform(seed, stream, index)
    uniform(seed, stream, index + 1)
    assert uniform(seed, stream, index) == again
    assert 0.0 < again < 1.0


def test_uniform_draws_fill_the_interval_evenly():
    draws = np.array([uniform(7, 1, k) for k in range(20_000)])
    counts, _ = np.histogram(draws, bins=20, range=(0, 1))
    assert np.abs(counts - 1000).max() < 5 * np.sqrt(1000)


def test_normal_draws_have_mean_zero_and_spread_one():
    draws = np.array([normal(7, 1, k) for k in range(20_000)])
    assert abs(draws.mean()) < 0.03
    assert abs(draws.std() - 1) < 0.03


def test_seeds_streams_and_neighbours_are_unrelated():
    a = np.array([uniform(1, 1, k) for k in range(5000)])
    for other in ([uniform(2, 1, k) for k in range(5000)], [uniform(1, 2, k) for k in range(5000)], np.roll(a, 1)):
        assert abs(np.corrcoef(a, other)[0, 1]) < 0.05
