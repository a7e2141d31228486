import math

import numpy as np
import pytest
from scipy import integrate, optimize

from jostle.core.engine.queue import (
    LOADS,
    erlang_c,
    load_at,
    load_position,
    mixture_beyond,
    mixture_quantile,
    stay_beyond,
    wait_tables,
)


@pytest.mark.parametrize("servers", [1, 2, 4, 8, 16, 64])
@pytest.mark.parametrize("load", [0.05, 0.3, 0.6, 0.85, 0.97])
def test_erlang_c_is_the_formula_of_the_textbook(servers, load):
    offered = servers * load
    last = offered**servers / math.factorial(servers) / (1 - load)
    expected = last / (sum(offered**k / math.factorial(k) for k in range(servers)) + last)
    assert erlang_c(servers, load) == pytest.approx(expected, rel=1e-12)


def test_a_published_value_of_erlang_c():
    # Two servers offered 1 erlang: a third of the arrivals wait.
    assert erlang_c(2, 0.5) == pytest.approx(1 / 3)
    assert erlang_c(1, 0.5) == pytest.approx(0.5)


@pytest.mark.parametrize(("share", "wait", "service"), [(0.3, 4.0, 10.0), (0.9, 12.0, 3.0), (0.5, 5.0, 5.0)])
def test_the_stay_is_the_convolution_of_wait_and_service(share, wait, service):
    for t in (0.01, 0.1, 0.5, 2.0):
        waited = integrate.quad(lambda w, t=t: wait * math.exp(-wait * w) * math.exp(-service * (t - w)), 0, t)[0]
        expected = (1 - share) * math.exp(-service * t) + share * (waited + math.exp(-wait * t))
        assert stay_beyond(t, share, wait, service) == pytest.approx(expected, rel=1e-9)
    assert stay_beyond(0.0, share, wait, service) == 1.0


def test_an_mm1_stay_is_exponential():
    load, service = 0.7, 10.0
    for t in (0.05, 0.3, 1.0):
        found = stay_beyond(t, erlang_c(1, load), service * (1 - load), service)
        assert found == pytest.approx(math.exp(-service * (1 - load) * t), rel=1e-12)


def test_the_grid_of_loads_goes_there_and_back():
    for position in np.linspace(0, LOADS - 1, 37):
        assert load_position(load_at(position)) == pytest.approx(position, abs=1e-9)
    assert load_position(2.0) == pytest.approx(LOADS - 1)


def test_the_tables_hold_the_95th_percentile():
    tables = wait_tables(2, 19.4, 10.0)
    for i in (0, 80, 200, LOADS - 1):
        root = optimize.brentq(lambda t, i=i: stay_beyond(t, tables[0, i], tables[1, i], 10.0) - 0.05, 1e-6, 1e3)
        assert tables[2, i] == pytest.approx(root, rel=1e-6)
    assert np.all(np.diff(tables[2]) > 0)


def test_a_mixture_counts_every_request_once():
    tables = wait_tables(2, 20.0, 10.0)
    weights = np.zeros((65, LOADS))
    weights[0, 10], weights[3, 200] = 900.0, 100.0
    assert mixture_beyond(0.0, weights, tables, 10.0, 0.1) == pytest.approx(1000)
    at = mixture_quantile(50.0, weights, tables, 10.0, 0.1, 100.0)
    assert mixture_beyond(at, weights, tables, 10.0, 0.1) == pytest.approx(50.0, rel=1e-6)
