"""What single instances hold, though sessions are known by level while nothing but time passes."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.engine.code import Life
from jostle.core.engine.outset import new_state
from jostle.core.engine.result import Result, play, run
from tests.engines import setup
from tests.independent.theatre import holdings
from tests.plans import REMOVE

STAY, HOURS = 200.0, 24


def made(rates, place, seats=60, minimum=6, **more):
    work = {"kind": "sessions", "seats": seats, "length": STAY, "place": place}
    return setup(rates, tick="10 s", groups__web__work=work, groups__web__minimum=minimum, **more)


@pytest.mark.parametrize("place", ["spread", "pack"])
@pytest.mark.parametrize("load", [0.12, 0.6])
def test_what_the_emptiest_and_the_fullest_hold_agrees_with_a_model_guest_by_guest(place, load):
    rate = 6 * 60 * load / STAY
    engine, state, seen = made(np.full(HOURS * 360, rate), place), None, []
    state = new_state(engine)
    for tick in range(HOURS * 180, HOURS * 360, 6):
        state = play(engine, state, tick)
        seen.append(np.sort(state.instances["sessions"][:6]))
    model = holdings(6, 60, rate, STAY, place == "pack", HOURS * 3600, seed=3)
    assert np.mean(seen, axis=0) == pytest.approx(model, rel=0.06, abs=0.7)


@settings(max_examples=25)
@given(
    rates=st.lists(st.floats(0, 4), min_size=2, max_size=12),
    place=st.sampled_from(["spread", "pack"]),
    slices=st.lists(st.integers(1, 719), max_size=6),
    seats=st.integers(1, 80),
)
def test_no_session_is_lost_and_slices_change_nothing(rates, place, slices, seats):
    drawn = np.repeat(rates, 60)
    more = {"groups__web__policies": [REMOVE], "groups__web__start_count": 5, "groups__web__drain": "10 min"}
    engine = made(drawn, place, seats, minimum=1, **more)
    whole = run(engine)
    state = new_state(engine)
    for tick in sorted(slices):
        state = play(engine, state, min(tick, len(drawn)))
    state = play(engine, state, len(drawn))
    assert Result(engine, state).instances.tobytes() == whole.instances.tobytes()
    there = np.isin(state.instances["state"], (Life.SERVING, Life.DRAINING))
    assert state.instances["sessions"][there].sum() == state.now["in_use"][0]
    assert state.instances["sessions"].max() <= seats
