from concurrent.futures import ThreadPoolExecutor

import numpy as np

from jostle.core.rehearsal.rehearser import Rehearser
from tests.plans import HOLD, data, plan

BIG = {"vcpus": 8, "memory_gib": 32, "price_per_hour": "1.44", "quota": 12}
SMALL = {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36", "quota": 12}


def two_groups(**settings):
    """`web` comes second and draws on what `first` leaves of a quota of 12."""
    made = data(machines={"otter-2": SMALL}, demands__even={"layers": [{"kind": "level", "rate": "120/s"}]}, **settings)
    web = {**made["groups"]["web"], "policies": [HOLD], "maximum": 12}
    return plan(**{**made, "groups": {"first": web, "web": web}})


def quota_of_second(rehearser, made):
    return rehearser.rehearse(made, "web").result.setup.quota


def test_a_machine_type_that_changes_changes_what_the_groups_before_leave():
    rehearser = Rehearser()
    before = two_groups()
    slow = quota_of_second(rehearser, before)
    faster = {name: one.model_copy(update={"speed": 4.0}) for name, one in before.machines.items()}
    after = before.model_copy(update={"machines": faster})
    fast = quota_of_second(rehearser, after)
    assert fast.sum() > slow.sum()
    assert np.array_equal(fast, quota_of_second(Rehearser(), after))
    assert np.array_equal(slow, quota_of_second(rehearser, before))


def test_what_is_kept_is_found_by_content():
    rehearser = Rehearser()
    first, second = (plan(groups__web__policies=[HOLD]) for _ in range(2))
    assert first.demands["even"] is not second.demands["even"]
    one, other = (rehearser.rehearse(made, "web") for made in (first, second))
    assert one.result.setup.arrivals.tobytes() == other.result.setup.arrivals.tobytes()
    assert len(rehearser._demands) == 1
    assert one.bounds is other.bounds
    assert rehearser.rehearse(plan(prices={"disk_gib_month": "9"}), "web").bounds is not one.bounds


def test_a_changed_copy_has_another_key():
    demand = plan().demands["even"]
    key = demand.content
    changed = demand.model_copy(update={"note": "another"})
    assert changed.content != key == demand.content
    assert demand.model_copy().content == key


def test_what_does_not_fit_is_made_and_not_kept():
    rehearser = Rehearser(most_bytes=1000)
    assert rehearser.rehearse(plan(), "web").result.arrived > 0
    assert len(rehearser._demands) == 0


def test_threads_may_share_one():
    rehearser = Rehearser()
    made = two_groups()
    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(lambda seed: rehearser.rehearse(made, "web", seed % 3).result.decisions.tobytes(), range(12)))
    assert all(found[k] == found[k % 3] for k in range(12))
    assert found[:3] == [Rehearser().rehearse(made, "web", seed).result.decisions.tobytes() for seed in range(3)]
