"""How a rollout is decided: what is told by chance, and how one version takes the place of another."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binom

from jostle.core.built.play import chance_of, turnover
from jostle.core.decide.code import Phase
from jostle.core.decide.memory import ALL, new_memory
from jostle.core.decide.rules import ROLLOUT, rows
from jostle.core.rehearsal.rehearser import Rehearser
from tests.plans import plan

RULES = Rehearser().setup_of(plan(), "web", 1).rules


@given(st.integers(0, 300_000), st.floats(0.001, 0.999), st.floats(0, 1))
def test_the_chance_of_so_many_successes_is_that_of_the_binomial(trials, share, part):
    successes = round(part * trials)
    found = chance_of(successes, trials, share)
    assert found == pytest.approx(float(binom.sf(successes - 1, trials, share)), rel=1e-6, abs=1e-12)


def rolling(extra, fewer, goal, maximum=1000):
    """Rules and memory of a rollout that is under way."""
    rollouts = rows(1, ROLLOUT)
    rollouts["extra"], rollouts["fewer"] = extra, fewer
    row = RULES.row.copy().view(np.recarray)
    row["maximum"] = maximum
    rules = RULES._replace(rollouts=rollouts, row=row)
    memory = new_memory(rules, 1, 1)
    memory.row["rollout"], memory.row["rolls"] = 0, True
    memory.rollouts["phase"], memory.rollouts["goal"] = Phase.BATCH_COMES, goal
    return rules, memory


@given(
    st.integers(0, 4),
    st.integers(0, 4),
    st.integers(1, 30),
    st.integers(1, 30),
    st.integers(0, 30),
    st.integers(0, 60),
    st.data(),
)
def test_one_version_takes_the_place_of_another_within_what_is_said(extra, fewer, first, goal, rest, maximum, data):
    if extra + fewer == 0 or maximum < first:
        return
    rules, memory = rolling(extra, fewer, ALL if data.draw(st.booleans()) else goal, maximum)
    wanted = min(int(memory.rollouts["goal"][0]), first)
    fresh, before, coming = 0, first, []
    for _ in range(400):
        serving = fresh + before - len(coming)
        told = turnover(rules, memory, first, fresh + before, fresh, serving, 2**30)
        assert min(told) >= 0
        more, more_before, leave, leave_before = told
        assert leave == 0
        assert more_before == 0
        assert leave_before <= before
        fresh, before = fresh + more, before - leave_before
        coming += [rest % 3] * more
        assert fresh + before <= max(first, min(first + extra, maximum))
        assert fresh + before - len(coming) >= first - fewer
        if not any(told) and not coming:
            break
        coming = [left - 1 for left in coming if left > 0]
    can_move = fewer > 0 or maximum > first
    assert (fresh, before) == ((wanted, first - wanted) if can_move else (0, first))


@given(st.integers(1, 20), st.integers(1, 20), st.integers(0, 20), st.integers(0, 20), st.integers(0, 3), st.booleans())
def test_a_count_that_changes_meanwhile_is_met(goal, canary, fresh, before, extra, rolls):
    rules, memory = rolling(extra, 0 if extra else 1, canary)
    memory.row["rolls"] = rolls
    for _ in range(60):
        more, more_before, leave, leave_before = turnover(rules, memory, goal, fresh + before, fresh, fresh + before, 2**30)
        assert fresh + before + more + more_before >= min(goal, fresh + before)
        fresh, before = fresh + more - leave, before + more_before - leave_before
        assert min(fresh, before) >= 0
    assert fresh + before == goal
    if rolls:
        assert fresh == min(canary, goal)
