"""Short means that somebody waits or fails for want of capacity, or would, and nothing else."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.engines import result

WORKS = (
    {"groups__web__work__arrivals": "evenly"},
    {"groups__web__work__arrivals": "by_chance", "groups__web__work__unevenness": 3},
    {"groups__web__load_balancer": {"spread": "least_busy"}},
    {"groups__web__work": {"kind": "jobs", "job_seconds": 4.0, "concurrency": 2}},
    {"groups__web__work": {"kind": "sessions", "seats": 50, "length": 60.0}},
)
STRETCH = st.tuples(st.sampled_from([0.0, 0.0, 0.001, 0.1, 3.0, 40.0, 90.0, 160.0]), st.integers(1, 40))


@given(st.lists(STRETCH, min_size=2, max_size=6), st.sampled_from(WORKS), st.integers(1, 6), st.integers(1, 5))
def test_where_nobody_comes_waits_or_fails_nothing_is_short(stretches, work, count, seed):
    rates = np.concatenate([np.full(ticks, rate) for rate, ticks in stretches])
    found = result(rates, seed=seed, groups__web__minimum=count, groups__web__start_count=count, **work)
    series, arrived = found.series, np.asarray(found.setup.arrivals)
    nobody = (arrived == 0) & (found.setup.means < 1e-6) & (series["waiting"] < 0.01) & (series["failed"] < 0.01)
    assert not np.any(series["short"] & nobody)


def test_ample_instances_are_never_short_though_all_the_demand_ends_at_once():
    rates = np.tile(np.concatenate([np.full(90, 150.0), np.zeros(90)]), 8)
    found = result(rates, groups__web__minimum=16, groups__web__start_count=16, groups__web__maximum=16)
    assert float(found.series["failed"].sum()) < 1e-6
    assert not found.series["short"].any()
