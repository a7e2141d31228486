"""How long services take: what is told of them agrees with itself, and with lengths that are drawn."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.engine.lengths import done_within, service_points, time_of

UNEVEN = st.floats(0.05, 16)


@given(UNEVEN, st.floats(0.001, 10), st.floats(0.01, 0.999))
def test_the_time_of_a_share_is_that_within_which_so_many_are_done(unevenness, mean, share):
    assert done_within(unevenness, mean, time_of(unevenness, mean, share)) == pytest.approx(share, abs=1e-9)


@given(UNEVEN, st.floats(0.001, 10))
def test_both_agree_with_the_points_that_waits_are_reckoned_from(unevenness, mean):
    edges, longer = service_points(unevenness, mean)[:2]
    for edge, share in zip(edges[1:], longer[1:], strict=True):
        assert done_within(unevenness, mean, edge) == pytest.approx(1 - share, abs=1e-9)


@pytest.mark.parametrize("unevenness", [0.25, 1.0, 4.0])
def test_drawn_lengths_are_done_as_often(unevenness):
    chance, mean = np.random.default_rng(1), 0.05
    if unevenness <= 1:
        drawn = chance.gamma(1 / unevenness, mean * unevenness, 400_000)
    else:
        spread = np.sqrt(np.log(1 + unevenness))
        drawn = chance.lognormal(np.log(mean) - spread**2 / 2, spread, 400_000)
    for share in (0.5, 0.95, 0.99):
        assert (drawn <= time_of(unevenness, mean, share)).mean() == pytest.approx(share, abs=0.002)


def test_what_is_all_alike_is_done_at_once():
    assert (done_within(0.0, 0.05, 0.0499), done_within(0.0, 0.05, 0.05), time_of(0.0, 0.05, 0.999)) == (0.0, 1.0, 0.05)
    assert done_within(4.0, 0.05, 0.0) == 0.0
