import math

import numpy as np
import pytest
from scipy import integrate

from jostle.core.built.figure import (
    beyond_at,
    erlang_c,
    in_turn_fall,
    in_turn_waiting,
    load_place,
    quantile,
    stay_beyond,
    two_kinds,
    wait_beyond,
)
from jostle.core.engine.lengths import service_points
from jostle.core.engine.queue import LOADS, TOP_LOAD, Col, line_of
from jostle.core.engine.spread import Way


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


@pytest.mark.parametrize("fall", [-3.0, -1e-12, 0.0, 0.7, 5.0, 10.0])
def test_the_stay_is_the_convolution_of_a_wait_that_is_cut_off_and_service(fall):
    waiting, patience, service = 0.4, 2.0, 5.0
    whole = integrate.quad(lambda w: math.exp(-fall * w), 0, patience)[0]
    for t in (0.01, 0.5, 1.9, 2.5):
        longer = integrate.quad(lambda w: math.exp(-fall * w) / whole, min(t, patience), patience)[0]
        assert wait_beyond(t, fall, patience) == pytest.approx(longer, abs=1e-9)
        both = integrate.quad(lambda w, t=t: math.exp(-fall * w) / whole * math.exp(-service * (t - w)), 0, min(t, patience))[0]
        expected = (1 - waiting) * math.exp(-service * t) + waiting * (both + longer)
        assert stay_beyond(t, waiting, fall, patience, service) == pytest.approx(expected, rel=1e-6)
    assert stay_beyond(0.0, waiting, fall, patience, service) == 1.0


def test_an_mm1_stay_is_exponential():
    load, service = 0.7, 10.0
    for t in (0.05, 0.3, 1.0):
        found = stay_beyond(t, erlang_c(1, load), service * (1 - load), 1e6, service)
        assert found == pytest.approx(math.exp(-service * (1 - load) * t), rel=1e-9)


@pytest.mark.parametrize(
    ("clerks", "service", "load", "patience", "lost"),
    [(1, 0.5, 0.8, 2.0, 0.1009), (2, 0.1, 0.8, 0.3, 0.0517), (4, 0.2, 0.95, 1.0, 0.0238)],
)
def test_who_waits_past_the_patience_gives_up(clerks, service, load, patience, lost):
    wait = erlang_c(clerks, load) * math.exp(-clerks / service * (1 - load) * patience)
    formula = (1 - load) * wait / (1 - load * wait)  # Boots and Tijms, 1999
    assert formula == pytest.approx(lost, abs=5e-5)
    line = line_of(Way.CHANCE, 1, [(clerks, 1 / service)], patience, 1.0)
    assert np.interp(load, line.loads, line.tables[0, Col.LOST]) == pytest.approx(formula, rel=0.002)


@pytest.mark.parametrize("way", list(Way))
@pytest.mark.parametrize("unevenness", [0.0, 1.0, 4.0])
def test_waiting_goes_on_without_a_step_through_a_load_of_one(way, unevenness):
    line = line_of(way, 10, [(2, 10.0)], 20.0, unevenness)
    assert line.loads[0] == 0.0
    assert line.loads[-1] == pytest.approx(TOP_LOAD)
    for table in line.tables:
        for col in (Col.WAITING, Col.P95, Col.LOST, Col.LINE):
            assert np.all(np.diff(table[col]) > -1e-6 * table[col].max())
        about = np.abs(line.loads - 1) < 0.1
        assert np.abs(np.diff(table[Col.LOST][about])).max() < 0.02
        # In overload as many go as come: what is not answered is lost.
        far = line.loads > 1.5
        assert table[Col.LOST][far] == pytest.approx(1 - 1 / line.loads[far], abs=0.005)


def test_one_instance_in_turn_is_one_by_chance():
    for load in (0.3, 0.9, 1.4):
        assert in_turn_fall(1.0, load) == pytest.approx(1 - load, abs=1e-6)
    for clerks in (1, 2, 8):
        assert in_turn_waiting(clerks, 1.0, 0.8, 0.2) == pytest.approx(erlang_c(clerks, 0.8), rel=1e-9)


def test_a_line_of_five_in_turn_has_its_worked_out_percentile():
    # GI/M/1 with arrivals that are each the fifth of those by chance, load 0.9, 100 ms of service
    line = line_of(Way.TURN, 5, [(1, 10.0)], 1e4, 1.0)
    row = line.row_of[5]
    assert np.interp(0.9, line.loads, line.tables[row, Col.P95]) == pytest.approx(1.840, rel=0.005)


@pytest.mark.parametrize("unevenness", [0.3, 1.0, 4.0])
def test_service_lengths_have_their_mean_and_unevenness(unevenness):
    points = service_points(unevenness, 0.2)
    weights, means = points[3, :-1], points[2, :-1]
    assert weights.sum() == pytest.approx(1)
    assert weights @ means == pytest.approx(0.2, rel=1e-6)
    assert weights @ means**2 / 0.2**2 - 1 == pytest.approx(unevenness, rel=0.1)


def test_two_kinds_of_lengths_have_their_mean_and_unevenness():
    share, long, short = two_kinds(4.0)
    assert share * long + (1 - share) * short == pytest.approx(1)
    assert 2 * (share * long**2 + (1 - share) * short**2) - 1 == pytest.approx(4)


def test_what_is_there_is_what_goes_and_what_stays():
    line = line_of(Way.CHANCE, 1, [(2, 10.0)], 20.0, 1.0)
    stays = line.tables[0, Col.LINE]
    for there in (0.0, 3.0, 150.0, 260.0, 900.0):
        place = load_place(stays, line.loads, 200.0, there, 7)
        at = np.arange(LOADS)
        load, left = np.interp(place, at, line.loads), np.interp(place, at, stays)
        assert left + 200.0 * load == pytest.approx(there, abs=1e-6)


def test_shares_of_stays_between_known_times():
    line = line_of(Way.CHANCE, 1, [(1, 10.0)], 1e3, 1.0)
    tail = line.tails[0, 0]
    for share in (0.5, 0.05, 0.01):
        at = quantile(tail, line.times, share)
        assert at == pytest.approx(-math.log(share) / 10, rel=0.005)
        assert beyond_at(tail, line.times, at, 1.0) == pytest.approx(share, rel=1e-4)
    assert beyond_at(tail, line.times, 0.0, 1.0) == 1.0
    assert beyond_at(tail, line.times, 1e9, 1.0) == 0.0
