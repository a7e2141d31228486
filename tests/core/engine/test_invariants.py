"""What holds for every plan: drawn whole by hypothesis."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.engine.outset import new_state
from jostle.core.engine.result import Result, play, run
from jostle.core.engine.setup import Setup
from tests.engines import setup
from tests.plans import ADD, HOLD

LEVELS = {
    "cpu": 0.6,
    "requests_per_instance": 12.0,
    "backlog": 50,
    "backlog_per_instance": 20,
    "latency_p95": 0.6,
    "failed_share": 0.05,
}


@st.composite
def policies(draw: st.DrawFn) -> list[dict]:
    found = []
    for number in range(draw(st.integers(0, 4))):
        shared = {
            "name": f"p{number}",
            "window": draw(st.sampled_from([60, 120, 300])),
            "fold": draw(st.sampled_from(["average", "minimum", "maximum", "latest"])),
            "cooldown": draw(st.sampled_from([0, 60, 300, 900])),
            "paused": draw(st.integers(0, 9)) == 0,
        }
        if draw(st.booleans()):
            metric = draw(st.sampled_from(sorted(LEVELS)))
            side = draw(st.sampled_from(["above", "below"]))
            found.append(
                {
                    **ADD,
                    **shared,
                    "metric": metric,
                    "side": side,
                    "threshold": LEVELS[metric] * draw(st.floats(0.3, 1.5)),
                    "action": draw(st.sampled_from(["add", "remove", "set"])),
                    "amount": draw(st.integers(1, 6)),
                }
            )
        else:
            level = draw(st.floats(0.2, 0.9))
            found.append({**HOLD, **shared, "level": level, "may_remove": draw(st.booleans())})
    return found


@st.composite
def setups(draw: st.DrawFn) -> Setup:
    low = draw(st.integers(0, 4))
    high = draw(st.integers(max(1, low), 12))
    steps = draw(st.lists(st.floats(0, 150), min_size=2, max_size=8))
    rates = np.repeat(steps, draw(st.integers(20, 90)))
    return setup(
        rates,
        groups__web__minimum=low,
        groups__web__maximum=high,
        groups__web__start_count=draw(st.integers(low, high)),
        groups__web__drain=draw(st.sampled_from([0, 45, 120])),
        groups__web__cooldown=draw(st.sampled_from([0, 120])),
        groups__web__work__timeout=draw(st.sampled_from([3, 20, 65])),
        templates__front__boot_time=draw(st.sampled_from([0, 35, 180])),
        templates__front__warm_up=draw(st.sampled_from([0, 60])),
        groups__web__policies=draw(policies()),
    )


whole_plans = settings(max_examples=60)


def same(a: Result, b: Result) -> bool:
    pairs = [(a.events, b.events), (a.decisions, b.decisions), (a.instances, b.instances), (a.state.series, b.state.series)]
    pairs += [
        (a.state.views, b.state.views),
        (a.state.sight.samples, b.state.sight.samples),
        (a.state.now, b.state.now),
        (a.state.stay, b.state.stay),
    ]
    return all(x.tobytes() == y.tobytes() for x, y in pairs)


@whole_plans
@given(setups())
def test_requests_are_conserved_and_money_is_instance_time_by_price(made):
    found = run(made)
    total = found.arrived
    assert found.tally("served") + found.tally("failed") + found.tally("backlog") == pytest.approx(total, rel=1e-9, abs=1e-6)
    assert min(found.tally(field) for field in ("served", "failed", "backlog")) >= 0
    assert found.tally("spend") == pytest.approx(found.instance_seconds.sum() * made.of("price"), rel=1e-9, abs=1e-9)
    assert found.state.stay.sum() == pytest.approx(found.tally("served"), rel=1e-9, abs=1e-6)


@whole_plans
@given(setups())
def test_the_count_stays_within_its_limits_and_agrees_with_the_instances(made):
    found = run(made)
    series, rows = found.state.series, found.instances
    assert series["desired"].min(initial=made.of("first_count")) >= made.of("minimum")
    assert series["desired"].max(initial=0) <= made.of("maximum")
    assert np.all(series["serving"] <= series["desired"])
    assert np.all(series["billed"] >= series["serving"])
    middle = (np.arange(made.ticks) + 0.5) * made.tick
    gone = np.where(np.isnan(rows["gone"]), np.inf, rows["gone"])
    there = ((rows["requested"][:, None] < middle) & (gone[:, None] > middle)).sum(axis=0)
    assert np.array_equal(there, series["billed"])


@whole_plans
@given(setups(), st.lists(st.integers(1, 400), max_size=6))
def test_slices_equal_one_run_to_the_byte(made, cuts):
    state = new_state(made)
    for until in sorted(cuts):
        state = play(made, state, until)
    assert same(Result(made, play(made, state)), run(made))


@whole_plans
@given(setups())
def test_the_same_inputs_give_the_same_bytes(made):
    assert same(run(made), run(made))


@whole_plans
@given(setups())
def test_no_policy_changes_the_count_more_often_than_its_cooldown_allows(made):
    found = run(made)
    acted = found.decisions[found.decisions["decided"] != found.decisions["desired"]]
    for number, policy in enumerate(made.rules.policies):
        times = acted["time"][acted["winner"] == number]
        assert np.all(np.diff(times) >= policy["cooldown"])
    assert np.all(np.diff(acted["time"]) >= made.of("cooldown"))


@whole_plans
@given(st.lists(st.floats(0, 120), min_size=3, max_size=6), st.integers(1, 8))
def test_more_instances_never_give_worse_latency(steps, count):
    # A quiet end, so that nothing is left waiting that one of the two would still have to judge.
    rates = np.concatenate([np.repeat(steps, 40), np.zeros(10)])
    fewer, more = (
        run(setup(rates, groups__web__start_count=n, groups__web__minimum=n, groups__web__maximum=n)) for n in (count, count + 1)
    )
    assert more.tally("failed") <= fewer.tally("failed") + 1e-6
    assert np.all(more.state.series["latency"] <= fewer.state.series["latency"] + 1e-4)
    for within in (0.2, 0.5, 2.0):
        assert more.late_share(within) <= fewer.late_share(within) + 1e-6


def test_the_record_grows_when_its_room_runs_out():
    restless = [
        {**ADD, "name": "up", "threshold": "1 %", "amount": 9, "cooldown": 0},
        {**ADD, "name": "down", "side": "below", "threshold": "60 %", "action": "remove", "amount": 9, "cooldown": 0},
    ]
    rates = np.tile(np.repeat([150.0, 1.0], 60), 60)
    made = setup(rates, groups__web__policies=restless, templates__front__boot_time=0, templates__front__warm_up=0)
    found = run(made)
    assert len(found.instances) > 300
    assert found.tally("spend") == pytest.approx(found.instance_seconds.sum() * made.of("price"), rel=1e-9)
    small = new_state(made)
    small = small._replace(
        instances=small.instances[:40].copy(),
        alive=small.alive[:40].copy(),
        events=small.events[:90].copy(),
        spells=small.spells[:50].copy(),
    )
    assert same(Result(made, play(made, small)), found)
