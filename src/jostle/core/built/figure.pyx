# cython: language_level=3, infer_types=True, cdivision=True, boundscheck=False, wraparound=False, initializedcheck=False
"""What is reckoned before and after a rehearsal, compiled: tables of waits, the market, arrivals, bounds, strips."""

import numpy as np

include "laying.pxi"
include "arithmetic.pxi"
include "../draw.pxi"
include "../plan/tariff.pxi"
include "../plan/policy/lookahead.pxi"
include "../engine/lengths.pxi"
include "../engine/spread.pxi"
include "../engine/queue.pxi"
include "../engine/waits.pxi"
include "../engine/market.pxi"
include "../engine/arrivals.pxi"
include "../decide/expect.pxi"
include "../costs/bounds.pxi"
include "../rehearsal/strip.pxi"


cdef cnp.ndarray as_doubles(object given):
    return np.ascontiguousarray(given, np.float64)


cdef cnp.ndarray as_longs(object given):
    return np.ascontiguousarray(given, np.int64)


cdef Block[double] double_block(object given) except *:
    cdef Block[double] found
    found.at, found.n, found.m, found.l = <double*>start_of(given, 8), given.shape[0], given.shape[1], given.shape[2]
    return found


def wait_tables(long way, counts, long clerks, double capacity, double patience, double unevenness, loads):
    """What each load comes to, shape (len(counts), len(Col), len(loads)), but for Col.P95; see queue.pxi."""
    tables = np.empty((len(counts), 7, len(loads)))
    cdef Block[double] room = double_block(tables)
    cdef Array[long] among = longs(counts)
    cdef Array[double] at = doubles(loads)
    with nogil:
        c_wait_tables(way, among, clerks, capacity, patience, unevenness, at, room)
    return tables


def stay_tails(tables, times, double patience, double service_rate, service):
    """Share of the answers that take longer than each time, by count and load, shape (counts, LOADS, TIMES). The tables' 95th
    percentiles are filled in from it."""
    tails = np.empty((tables.shape[0], tables.shape[2], len(times)), np.float32)
    cdef Block[float] room
    room.at, room.n, room.m, room.l = <float*>start_of(tails, 4), tails.shape[0], tails.shape[1], tails.shape[2]
    cdef Block[double] waits = double_block(tables)
    cdef Array[double] at = doubles(times)
    cdef Grid[double] lengths = double_grid(service)
    with nogil:
        c_stay_tails(waits, at, patience, service_rate, lengths, room)
    return tails


def beyond_at(tail, times, double t, double whole) -> float:
    """What of `whole` takes longer than t seconds, between the times at which it is known."""
    if tail.dtype == np.float32:
        return c_beyond_at(singles(tail), doubles(times), t, whole)
    return c_beyond_at(doubles(tail), doubles(times), t, whole)


def quantile(tail, times, double allowed) -> float:
    """Time (s) that all but `allowed` stay under."""
    if tail.dtype == np.float32:
        return c_quantile(singles(tail), doubles(times), allowed)
    return c_quantile(doubles(tail), doubles(times), allowed)


def mixed_tail(weights, tails, found) -> float:
    """Add to `found` the answers that take longer than each time, of `weights` answers by load; returns how many they are."""
    cdef Grid[float] known
    known.at, known.n, known.m = <float*>start_of(tails, 4), tails.shape[0], tails.shape[1]
    return c_mixed_tail(doubles(weights), known, doubles(found))


def mixed_beyond(tails, times, extras, answers, double t) -> float:
    """Answers that take longer than t seconds, the n-th of the tails being delayed by the n-th of the extras besides."""
    return c_mixed_beyond(double_grid(tails), doubles(times), doubles(extras), doubles(answers), t)


def mixed_quantile(tails, times, extras, answers, double allowed) -> float:
    """Time (s) that all but `allowed` answers stay under."""
    return c_mixed_quantile(double_grid(tails), doubles(times), doubles(extras), doubles(answers), allowed)


def load_place(line, loads, double can, double there, long guess) -> float:
    """Position among the loads at which what is `there` equals what is done in a tick and the line that stays."""
    return c_load_place(doubles(line), doubles(loads), can, there, guess)


def struck(long seed, long number, long place, long steps, double every, double length):
    """Whether each step of the market lies in a stretch: gaps and lengths are exponential, of these means (s)."""
    found = np.zeros(steps, np.bool_)
    strike_steps(seed, number, place, every, length, flags(found))
    return found


def market_course(long seed, long place, long steps, double spread, double stays):
    """Factors around 1 that revert to it, of a spread; `place` tells apart what has a course of its own."""
    found = np.empty(steps)
    run_course(seed, place, spread, stays, doubles(found))
    return found


def drawn(means, long seed, long steps):
    """Poisson counts of these means, one draw for each step of a tick."""
    counts = np.empty(len(means))
    cdef Array[double] expected = doubles(means), room = doubles(counts)
    with nogil:
        draw_arrivals(expected, seed, steps, room)
    return counts


def noise(long ticks, double tick, double period, double spread, long seed, long number, long first):
    """Factor of each tick: one draw for each period, mean 1, never below zero. The period's number counts from 1970."""
    factors = np.empty(ticks)
    cdef Array[double] found = doubles(factors)
    cdef double value = 1.0
    stream, last = stream_of(seed, number), -1
    for k in range(ticks):
        index = <long>(k * tick / period)
        if index != last:
            last = index
            value = max(0.0, 1.0 + spread * normal(stream, first + index))
        found[k] = value
    return factors


def learn_all(usual, rates, weeks) -> None:
    """Take in what came at each place in the week: rates (1/s) at these times of their weeks (s)."""
    cdef Array[double] came = doubles(rates), at = doubles(as_doubles(weeks))
    cdef Array[Usual] rows = usual_of(usual)
    for k in range(came.n):
        c_learn(rows, place_in_week(at[k]), came[k])


def sessions_there(arrivals, double ending, double seats) -> tuple:
    """Sessions under way in each tick where so many find a seat and that share of them ends in each, and how many find none."""
    found = np.empty(len(arrivals))
    refused = seat_all(doubles(arrivals), ending, seats, doubles(found))
    return found, refused


def late_requests(rate, long step, double capacity, double load, long fixed, loads, row_of, late) -> float:
    """Late requests per second, summed over ticks, with the count needed in each interval of `step` ticks; see bounds.pxi."""
    cdef Array[int16_t] rows
    rows.at, rows.n = <int16_t*>start_of(row_of, 2), len(row_of)
    return c_late_requests(doubles(rate), step, capacity, load, fixed, doubles(loads), rows, double_grid(late))


def needed_counts(rate, long step, double capacity, double load):
    """Count of each interval between evaluations at this utilisation."""
    cdef Array[double] came = doubles(rate)
    counts = np.empty((came.n + step - 1) // step, np.int64)
    cdef Array[long] found = longs(counts)
    for i in range(found.n):
        found[i] = needed(came, i * step, min((i + 1) * step, came.n), capacity, load)
    return counts


def all_paid_micros(micros, bint hourly, long least_micros):
    """Microseconds that are paid for of each of some running machines."""
    cdef Array[long] ran = longs(micros)
    paid = np.empty(ran.n, np.int64)
    cdef Array[long] found = longs(paid)
    for i in range(ran.n):
        found[i] = paid_micros(ran[i], hourly, least_micros)
    return paid


def spend(billed, stopped, begin, end, double tick, kind, double price_group, pieces, double price_each):
    """Currency per second in each tick; what is billed beyond the end of an instance falls in its last tick. `kind` is one row of
    KIND."""
    cdef Kind* machine = <Kind*>start_of(kind, sizeof(Kind))
    cdef cnp.ndarray ran = as_doubles(billed), still = as_doubles(stopped), done = as_doubles(pieces)
    cdef cnp.ndarray first = as_doubles(begin), last = as_doubles(end)
    rate = np.empty(len(ran))
    cdef Array[double] found = doubles(rate), runs = doubles(ran), stands = doubles(still), sold = doubles(done)
    cdef Array[double] begins = doubles(first), ends = doubles(last)
    for k in range(found.n):
        found[k] = runs[k] * machine.price + stands[k] * machine.price_stopped + price_group + sold[k] * price_each
    for i in range(begins.n):
        beyond = top_up(ends[i] - begins[i], machine.hourly, machine.least_micros)
        found[max(0, <long>math.ceil(ends[i] / tick) - 1)] += beyond * machine.price_machine / tick
    return rate


def cut(values, starts) -> tuple:
    """Minimum, maximum and mean of the values from each start to before the next, leaving nan out."""
    cdef cnp.ndarray given = as_doubles(values), edges = as_longs(starts)
    low, high, mean = np.empty(len(edges)), np.empty(len(edges)), np.empty(len(edges))
    cut_into(doubles(given), longs(edges), doubles(low), doubles(high), doubles(mean))
    return low, high, mean


def mean_between(values, begins, ends):
    """The mean of the values from each begin to before its end, leaving nan out; nan where there are none."""
    cdef cnp.ndarray given = as_doubles(values), first = as_longs(begins), last = as_longs(ends)
    sums, counts, found = np.zeros(len(given) + 1), np.zeros(len(given) + 1, np.int64), np.full(len(first), NAN)
    mean_into(doubles(given), longs(first), longs(last), doubles(sums), longs(counts), doubles(found))
    return found


def rounded(values):
    """The values to five significant digits, which are more than a screen shows."""
    cdef cnp.ndarray given = as_doubles(values)
    found = np.empty(len(given))
    round_into(doubles(given), doubles(found))
    return found


def lanes(instances, requested, gone):
    """A line for each start, in the order of requests: all starts of an instance on one, the first that is free when it is
    first requested.

    `instances` numbers who starts; the other arrays hold seconds, `gone` nan for one that is still there."""
    cdef cnp.ndarray who = as_longs(instances), begins = as_doubles(requested), ends = as_doubles(gone)
    most = int(who.max(initial=-1)) + 1
    lines, last, line_of = np.empty(len(begins), np.int64), np.zeros(most), np.full(most, -1)
    free_from = np.zeros(len(begins))
    lay_lanes(longs(who), doubles(begins), doubles(ends), longs(lines), doubles(last), longs(line_of), doubles(free_from))
    return lines
