"""A policy that looks ahead: what it learns, what it expects, and that nothing later than now is known to it."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from jostle.core.built.play import learn
from jostle.core.checks.check import check
from jostle.core.decide.code import Stance
from jostle.core.decide.history import usual_week
from jostle.core.decide.memory import carry_learning, new_memory
from jostle.core.decide.rules import rows
from jostle.core.journal.ahead_line import ahead_line
from jostle.core.journal.moment import moment
from jostle.core.plan.plan import read_plan
from jostle.core.plan.policy.lookahead import NEWEST, RUSH, SLOT, SLOTS, USUAL
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.forecast import foreseen
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.keeper.keeper import Keeper
from tests.keeper.test_lived import lived_alike
from tests.plans import ADD, REMOVE, data

ZONE = ZoneInfo("Atlantic/Faroe")
START = datetime(2025, 7, 7, tzinfo=ZONE)
AHEAD = {"kind": "lookahead", "name": "ahead", "history": "past", "level": "60 %", "window": "1 h"}
# A morning at nine that rises from 20/s to 150/s, each day
DAY = [20.0] * 108 + [150.0] * 72 + [20.0] * 108


def brought(rates, days, step=SLOT):
    """A demand that was brought, from so many days before the plan's start on."""
    first = (START - timedelta(days=days)).isoformat()
    return {"layers": [{"kind": "brought", "file": "past.csv", "samples": {"first": first, "step": step, "rates": rates}}]}


def ahead_plan(policy=AHEAD, days=7, past=21, later=(), **settings):
    """A week of mornings, with weeks of them before it; `later` are layers laid over the week."""
    demands = {
        "past": brought(DAY * past, past),
        "mornings": {"layers": [*brought(DAY * (days + 1), 0)["layers"], *later]},
    }
    made = data(days=days, groups__web__maximum=20, groups__web__demand="mornings", **settings)
    made["demands"] |= demands
    made["groups"]["web"]["policies"] = [{**ADD, "cooldown": "3 min"}, REMOVE, *([policy] if policy else [])]
    return read_plan(made)


def test_what_is_usual_is_the_mean_of_the_first_weeks_and_then_forgets():
    usual = rows(SLOTS, USUAL)
    for rate in (10.0, 20.0):
        learn(usual, 5, rate)
    assert (usual[5].rate, usual[5].weeks) == (15.0, 2)
    assert usual[5].off == 10.0
    learn(usual, 5, 18.0)
    assert usual[5].rate == pytest.approx(15 + max(1 / 3, NEWEST) * 3)
    before = usual[5].rate
    learn(usual, 5, 1000.0)
    assert usual[5].rate == pytest.approx(before + NEWEST * (RUSH - 1) * before), "a rush is no habit"


def test_a_history_is_read_by_the_clock_on_the_wall():
    """Mondays at nine are Mondays at nine on both sides of the night on which the clocks change."""
    spring = datetime(2025, 4, 7, tzinfo=ZONE)
    first = datetime(2025, 3, 17, tzinfo=ZONE)
    times = first.timestamp() + SLOT * np.arange(round((spring - first).total_seconds() / SLOT))
    hours = [datetime.fromtimestamp(at, ZONE).hour for at in times]
    rates = [100.0 if hour == 9 else 10.0 for hour in hours]
    demand = read_plan(data(demands__past={"layers": brought(rates, 0)["layers"]})).demands["past"]
    layer = demand.layers[0]
    moved = demand.model_copy(
        update={"layers": [layer.model_copy(update={"samples": layer.samples.model_copy(update={"first": first})})]}
    )
    usual = usual_week(moved, spring.timestamp(), ZONE).view(np.ndarray)
    of_the_day = usual["rate"].reshape(7, 24, 12)
    assert np.all(of_the_day[:, 9] == 100.0)
    assert np.all(np.delete(of_the_day, 9, axis=1) == 10.0)


def test_it_serves_before_the_morning_comes():
    """The count goes up a launch before nine, so that fewer requests wait than where only what has come is seen."""
    without, ahead = (rehearse(ahead_plan(policy), "web") for policy in (None, AHEAD))
    assert ahead.result.setup.rules.policies.lead[2] == 100 + 50 + 30
    assert verdict(ahead, whole=False).figures.short_minutes < 0.5 * verdict(without, whole=False).figures.short_minutes
    rows_of = ahead.result.decisions
    at_nine = rows_of["desired"][rows_of["time"] % 86400 == 9 * 3600]
    assert np.all(at_nine == 13), "it waited until the morning had come"


def test_what_it_expects_is_not_removed_before_it_comes():
    """With 13 there for a demand that three carry, the policy that removes would have them gone before nine."""
    rehearsal = rehearse(ahead_plan({**AHEAD, "lead": "30 min"}), "web")
    rows_of = rehearsal.result.decisions
    waiting = (rows_of["time"] % 86400 > 8.5 * 3600) & (rows_of["time"] % 86400 < 9 * 3600)
    assert np.all(rows_of["decided"][waiting] == 13)
    told = moment(rehearsal, 8.8 * 3600)
    assert told.decision == "remove asks for 12, but ahead expects that all are needed: it stays at 13."


def test_what_it_expects_is_what_a_plain_reading_of_the_weeks_says():
    rehearsal = rehearse(ahead_plan(), "web")
    rates = np.array(DAY * 7)
    for time, value in zip(rehearsal.result.decisions["time"], rehearsal.result.views["value"][:, 2], strict=True):
        if time > 6 * 86400:
            break
        places = range(int(time // SLOT), int((time + 180) // SLOT) + 1)
        # Even weeks are all alike, but for what falls short of the usual while a step is under way.
        assert value == pytest.approx(max(rates[place] for place in places), rel=0.12)


def test_nothing_later_than_now_changes_what_is_expected():
    rush = {"kind": "surge", "at": "2025-07-10T12:00", "factor": 4, "hold": "1 h"}
    plain, rushed = (rehearse(ahead_plan(later=later), "web") for later in ((), (rush,)))
    before = int((plain.result.decisions["time"] <= 3.5 * 86400).sum())
    assert plain.result.views[:before].tobytes() == rushed.result.views[:before].tobytes()
    assert plain.result.views.tobytes() != rushed.result.views.tobytes()


def test_a_history_that_goes_on_after_the_start_is_not_read_there():
    plain = ahead_plan()
    longer = plain.model_copy(
        update={
            "demands": {**plain.demands, "past": read_plan(data(demands__p=brought(DAY * 21 + [900.0] * 2016, 21))).demands["p"]}
        }
    )
    one, other = (rehearse(plan, "web").result.views.tobytes() for plan in (plain, longer))
    assert one == other


def test_a_day_that_runs_above_the_usual_is_expected_to_go_on_so():
    more = {"kind": "scale", "factor": 1.3}
    rehearsal = rehearse(ahead_plan(later=(more,)), "web")
    views, times = rehearsal.result.views[:, 2], rehearsal.result.decisions["time"]
    at_seven = np.flatnonzero(times == 7 * 3600)[0]
    assert views["ratio"][at_seven] == pytest.approx(1.3, abs=0.02)
    before_nine = np.flatnonzero(times == 9 * 3600 - 60)[0]
    assert views["value"][before_nine] == pytest.approx(1.3 * 150, rel=0.03)
    assert views["weeks"][before_nine] == 3


def test_advice_says_what_it_would_do_and_changes_nothing():
    without, advised = (rehearse(ahead_plan(policy), "web") for policy in (None, {**AHEAD, "advice": True, "may_remove": True}))
    assert advised.result.decisions.tobytes() == without.result.decisions.tobytes()
    states = advised.result.views["state"][:, 2]
    assert np.all(states == Stance.ADVISING)
    nine = float(9 * 3600 - 120)
    told = moment(advised, nine)
    line = next(reason for reason in told.reasons if reason.key == "policies.ahead")
    assert line.text == "expects 150/s by 09:00, as on the last 3 Mondays (advice)"
    assert line.outcome == "would want 13"


def test_without_a_history_it_learns_as_it_goes():
    learning = {key: value for key, value in AHEAD.items() if key != "history"}
    rehearsal = rehearse(ahead_plan(learning, days=15), "web")
    states, times = rehearsal.result.views["state"][:, 2], rehearsal.result.decisions["time"]
    assert np.all(states[times < 7 * 86400 - 300] == Stance.NO_DATA)
    assert np.all(states[times > 7 * 86400 + 600] != Stance.NO_DATA)
    told = next(one.text for one in moment(rehearsal, 3600.0).reasons if one.key == "policies.ahead")
    assert told == "ahead: no week before this one is known at this time"


def test_how_far_off_it_was_is_a_figure():
    """Noise of 10 % by five minutes cannot be foreseen; a day before, with noise of its own, is farther off."""
    noise = {"kind": "noise", "spread": 0.1, "period": 300}
    off, yesterday = foreseen(rehearse(ahead_plan(later=(noise,)), "web"), 2)
    assert 0.03 < off < 0.12
    assert yesterday > off
    figures = verdict(rehearse(ahead_plan(later=(noise,)), "web"), whole=False).figures
    assert figures.forecast_off_percent == pytest.approx(100 * off, abs=0.001)
    assert verdict(rehearse(ahead_plan(None), "web"), whole=False).figures.forecast_off_percent is None


def test_the_page_says_what_came_of_it():
    rehearsal = rehearse(ahead_plan({**AHEAD, "advice": True}), "web")
    assert ahead_line(rehearsal, 2).startswith("3 min ahead it was off by ")
    assert "It would have asked for more 8 times" in ahead_line(rehearsal, 2)


@pytest.mark.parametrize(
    ("policy", "past", "code"),
    [
        ({key: value for key, value in AHEAD.items() if key != "history"}, 21, "history-none"),
        (AHEAD, 3, "history-short"),
    ],
)
def test_want_of_history_is_found(policy, past, code):
    found = [one.code for one in check(rehearse(ahead_plan(policy, past=past), "web"), None)]
    assert code in found
    assert code not in [one.code for one in check(rehearse(ahead_plan(), "web"), None)]


def test_a_forecast_that_is_worse_than_the_day_before_is_found():
    """A history of another place, and days that are all alike."""
    other = ahead_plan()
    away = read_plan(data(demands__p=brought(([150.0] * 100 + [20.0] * 188) * 21, 21)))
    other = other.model_copy(update={"demands": {**other.demands, "past": away.demands["p"]}})
    found = next(one for one in check(rehearse(other, "web"), None) if one.code == "forecast-poor")
    assert found.path == "policies.ahead"
    assert found.mend.settings == {"policies.ahead.advice": True}


def test_lived_is_rehearsed():
    plan = ahead_plan({**AHEAD, "may_remove": True}, days=2)
    life = lived_alike(plan, "web", 3, [(3600.0 * 20, False), (3600.0 * 30, True)])
    assert isinstance(life.keeper, Keeper)
    assert life.keeper.memory.books.weeks[0] == 3


def test_what_was_learned_outlives_another_arrangement():
    rehearser = Rehearser()
    plan = ahead_plan(days=8)
    rules = rehearser.setup_of(plan, "web", 1).rules
    kept, fresh = new_memory(rules, 1, 1), new_memory(rules, 1, 1)
    learn(kept.usual[0], 7, 55.0)
    policies = plan.groups["web"].policies
    carry_learning(kept, policies, fresh, policies)
    assert fresh.usual.tobytes() == kept.usual.tobytes()
    renamed = [one.model_copy(update={"name": f"{one.name}-2"}) for one in policies]
    other = new_memory(rules, 1, 1)
    carry_learning(kept, policies, other, renamed)
    assert other.usual.tobytes() == rules.usual.tobytes()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"history": "nowhere"}, "no demand has this name"),
        ({"level": 1.5}, "level"),
        ({"lead": "25 h"}, "lead"),
        ({"fold": "maximum"}, "leave fold out"),
    ],
)
def test_what_cannot_be_is_refused(change, said):
    with pytest.raises(PlanError) as refused:
        ahead_plan({**AHEAD, **change})
    assert said in str(refused.value)
