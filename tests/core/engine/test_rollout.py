"""A new version brought in: batch by batch, a canary first that is compared, on, stopped or back."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jostle.core.checks.check import check
from jostle.core.decide.code import Phase, Step
from jostle.core.engine.code import EventKind
from jostle.core.journal.event import events
from jostle.core.journal.moment import moment
from jostle.core.journal.sentence import group_page
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.rollout_state import serving_of, without
from jostle.core.rehearsal.verdict import verdict
from tests.keeper.test_lived import lived_alike
from tests.plans import ADD, HOLD, REMOVE, plan

GOOD = {"machine": "otter-2", "boot_time": "100 s", "warm_up": "50 s"}
WORKS = {
    "requests": ({"kind": "requests", "cpu_seconds": 0.1, "timeout": "5 s"}, 60),
    "jobs": ({"kind": "jobs", "job_seconds": 30}, 0.15),
    "sessions": ({"kind": "sessions", "seats": 20, "length": "8 min"}, 0.2),
}


def released(second=None, kind="requests", days=0.5, canary=None, **more):
    """A group of eight whose second version comes at two o'clock."""
    work, rate = WORKS[kind]
    rollout = {"name": "next", "kind": "rollout", "from": "2025-07-07T02:00", "to": 2, "watch": "5 min"}
    settings = {
        "days": days,
        "templates": {"front": {"versions": [GOOD, {**GOOD, **(second or {})}]}},
        "demands__even__layers": [{"kind": "level", "rate": rate}],
        "groups__web__version": 1,
        "groups__web__work": work,
        "groups__web__minimum": 8,
        "groups__web__maximum": 16,
        "groups__web__drain": "30 s",
        "groups__web__calendar": [{**rollout, "canary": canary, **more.pop("rollout", {})}],
    }
    return plan(**settings | more)


def steps(rehearsal):
    """Time of day and step of the rollouts, in order."""
    rows = rehearsal.result.events
    rows = rows[rows["kind"] == EventKind.ROLLOUT]
    return [(float(row["time"]), Step(int(row["before"])).name) for row in rows]


def there(rehearsal, version):
    return serving_of(rehearsal.result, version)


def test_batches_follow_each_other_and_each_is_watched():
    made = released(rollout={"batch": 3, "of": "instances", "pause": "10 min"})
    rehearsal = rehearse(made, "web")
    told = steps(rehearsal)
    assert [step for _, step in told] == [
        "BEGINS",
        "BATCH_SERVES",
        "NEXT_BATCH",
        "BATCH_SERVES",
        "NEXT_BATCH",
        "BATCH_SERVES",
        "DONE",
    ]
    assert told[0][0] == 7200.0
    assert told[2][0] - told[1][0] == 900.0
    old, new = there(rehearsal, 1), there(rehearsal, 2)
    assert list(dict.fromkeys(new.tolist())) == list(range(9))
    assert (old + new).min() >= 8
    assert (old + new).max() <= 9
    assert (old[-1], new[-1]) == (0, 8)
    assert np.array_equal(old + new, rehearsal.result.series["serving"])
    figures = verdict(rehearsal).rollouts[0]
    assert (figures.ended, figures.version, figures.most) == ("brought in", 2, 8)
    assert figures.minutes == (told[-1][0] - 7200) / 60


def test_before_it_begins_nothing_is_otherwise_than_without_it():
    made = released({"failures": "5 %"}, days=0.3)
    rehearsal = rehearse(made, "web")
    other = without(rehearsal.result, 0)
    begun = round(7200 / made.tick)
    assert rehearsal.result.series[:begun].tobytes() == other.series[:begun].tobytes()
    assert set(other.instances["version"]) == {1}
    assert rehearsal.result.tally("failed") > other.tally("failed")


@pytest.mark.parametrize(
    ("second", "metric", "share"),
    [({"failures": "3 %"}, "failed_share", 0.0), ({"cpu_factor": 1.5}, "cpu", 0.2), ({"cpu_factor": 1.9}, "latency_p95", 0.2)],
)
def test_a_canary_that_does_worse_is_turned_back(second, metric, share):
    canary = {"count": 1, "of": "instances", "watch": "30 min", "metric": metric, "worse_by": share}
    rehearsal = rehearse(released(second, canary=canary), "web")
    assert [step for _, step in steps(rehearsal)] == ["BEGINS", "CANARY_SERVES", "CANARY_WORSE", "IS_BACK"]
    assert there(rehearsal, 2).max() == 1
    assert there(rehearsal, 1)[-1] == 8
    told = verdict(rehearsal).rollouts[0]
    assert (told.ended, told.most) == ("went back", 1)
    assert 0 < told.answers_percent < 15
    texts = [event.text for event in events(rehearsal, frozenset({"rollout"}))]
    assert "its canary does worse" in texts[2]
    assert texts[2].endswith("it goes back")
    assert texts[3] == "next is back: all are of version 1 again"


def test_what_a_bad_version_would_have_come_to_without_its_canary():
    bad = {"failures": "3 %"}
    caught = verdict(rehearse(released(bad, canary={"count": 1, "of": "instances"}), "web")).rollouts[0]
    all_over = verdict(rehearse(released(bad), "web")).rollouts[0]
    assert all_over.ended == "brought in"
    assert 10 * caught.failed < all_over.failed
    assert caught.failed_more == pytest.approx(caught.failed, rel=0.02)


def test_one_that_stops_stays_as_it_is_until_a_hand_turns_it_back():
    canary = {"count": 2, "of": "instances", "worse": "stop"}
    hand = {"kind": "rollout", "at": "2025-07-07T08:00", "act": "back"}
    rehearsal = rehearse(released({"failures": "3 %"}, canary=canary, groups__web__hands=[hand]), "web")
    assert [step for _, step in steps(rehearsal)][-2:] == ["CANARY_WORSE", "IS_BACK"]
    new = there(rehearsal, 2)
    assert (new[round(7 * 3600 / 10)], new[-1]) == (2, 0)
    assert "a hand turns the rollout back" in [event.text for event in events(rehearsal, frozenset({"hand"}))]


def test_a_version_that_is_no_worse_goes_on():
    rehearsal = rehearse(released({"cpu_factor": 1.1}, canary={"watch": "30 min", "metric": "cpu"}), "web")
    told = [step for _, step in steps(rehearsal)]
    assert told[:4] == ["BEGINS", "CANARY_SERVES", "CANARY_FINE", "BATCH_SERVES"]
    assert told[-1] == "DONE"


@pytest.mark.parametrize(("unclear", "last"), [("stop", "CANARY_UNCLEAR"), ("back", "IS_BACK"), ("on", "DONE")])
def test_after_too_few_answers_nothing_is_told_and_a_rule_decides(unclear, last):
    canary = {"count": 1, "of": "instances", "watch": "10 min", "at_least": "1,000,000", "unclear": unclear}
    rehearsal = rehearse(released(canary=canary), "web")
    told = [step for _, step in steps(rehearsal)]
    assert told[2] == "CANARY_UNCLEAR"
    assert told[-1] == last
    assert "canary-few" in [one.code for one in check(rehearsal, None)]


def test_a_version_that_is_no_worse_is_taken_for_one_no_more_often_than_is_said():
    alike = {"front": {"versions": [{**GOOD, "failures": "2 %"}, {**GOOD, "failures": "2 %"}]}}
    canary = {"count": 1, "of": "instances", "watch": "40 min", "worse_by": 0, "false_alarms": "10 %", "at_least": 100}
    made = released(canary=canary, days=0.12, templates=alike)
    alarms = sum("CANARY_WORSE" in [step for _, step in steps(rehearse(made, "web", seed))] for seed in range(1, 201))
    # Of 200, 10 % are 20; more than 33 come by chance in one of a thousand
    assert 0 < alarms <= 33


def test_batches_that_never_serve_stop_it():
    rehearsal = rehearse(
        released({"boot_time": "2 h"}, rollout={"patience": "20 min"}, groups__web__health={"grace": "4 h"}), "web"
    )
    assert [step for _, step in steps(rehearsal)] == ["BEGINS", "NOT_THERE"]
    assert rehearsal.result.series["serving"].min() == 8
    assert verdict(rehearsal).rollouts[0].ended == "stopped"


def test_a_freeze_and_a_hand_hold_it_and_time_does_not_count():
    freeze = {"name": "still", "kind": "freeze", "from": "2025-07-07T02:10", "for": "1 h"}
    made = released()
    rollout = made.groups["web"].calendar[0].model_dump(mode="json", by_alias=True)
    held = rehearse(released(groups__web__calendar=[rollout, freeze]), "web")
    plain = steps(rehearse(made, "web"))
    later = [time for time, _ in steps(held)][-1] - plain[-1][0]
    assert later == 3600.0
    hands = [{"kind": "rollout", "at": f"2025-07-07T{at}", "act": act} for at, act in (("02:10", "pause"), ("02:40", "go_on"))]
    paused = steps(rehearse(released(groups__web__hands=hands), "web"))
    assert paused[-1][0] - plain[-1][0] == 1800.0


def test_one_that_finds_no_room_waits_and_is_told_of_beforehand():
    rehearsal = rehearse(released(groups__web__maximum=8, groups__web__minimum=8), "web")
    assert [step for _, step in steps(rehearsal)] == ["BEGINS", "NOT_THERE"]
    (finding,) = [one for one in check(rehearsal, None) if one.code == "rollout-no-room"]
    assert finding.mend.settings == {"calendar.next.fewer": 1}
    mended = rehearse(released(groups__web__maximum=8, groups__web__minimum=8, rollout={"fewer": 1}), "web")
    assert steps(mended)[-1][1] == "DONE"
    assert there(mended, 1)[-1] + there(mended, 2)[-1] == 8


def test_a_pause_into_the_rush_and_a_promise_that_it_breaks_are_found():
    rush = [{"kind": "level", "rate": 40}, {"kind": "surge", "at": "2025-07-07T04:00", "factor": 2, "ramp": 0, "hold": "1 h"}]
    promise = [{"kind": "answers", "share": "99 %", "within": "2 s"}]
    made = released(
        {"cpu_factor": 4},
        rollout={"pause": "1 h", "batch": 2, "of": "instances"},
        demands__even__layers=rush,
        groups__web__promises=promise,
        groups__web__minimum=10,
    )
    codes = {one.code: one for one in check(rehearse(made, "web"), None)}
    assert codes["rollout-meets-rush"].mend.settings["calendar.next.pause"] < 3600
    assert codes["rollout-breaks-promise"].severity == "error"
    short = released(canary={"metric": "cpu", "watch": "5 min"})
    (finding,) = [one for one in check(rehearse(short, "web"), None) if one.code == "canary-short"]
    assert finding.mend.settings["calendar.next.canary.watch"] >= 1080


@pytest.mark.parametrize("kind", WORKS)
def test_failures_and_cpu_of_a_version_are_felt_by_each_kind_of_work(kind):
    plain, failing, slow = (
        verdict(rehearse(released(second, kind), "web"), whole=False).figures
        for second in ({}, {"failures": "10 %"}, {"cpu_factor": 1.3})
    )
    if kind == "jobs":
        assert failing.repeated_jobs > plain.repeated_jobs + 100
        assert slow.wait_p95_s >= plain.wait_p95_s
    else:
        assert failing.failed > plain.failed + 100
        assert slow.mean_cpu_percent > plain.mean_cpu_percent + 1
    for figures in (plain, failing, slow):
        assert figures.arrived == pytest.approx(figures.served + figures.failed + figures.waiting, rel=1e-3)


@pytest.mark.parametrize("kind", WORKS)
@pytest.mark.parametrize("second", [{"failures": "3 %"}, {"cpu_factor": 1.6, "boot_time": "30 s"}])
def test_what_is_lived_is_what_was_rehearsed(kind, second):
    canary = {"count": 1, "of": "instances", "watch": "20 min", "at_least": 20, "unclear": "on"}
    made = released(
        second,
        kind,
        canary=canary,
        days=0.25,
        groups__web__maximum=24,
        groups__web__faults={"every": "9 h"},
        groups__web__policies=[ADD, REMOVE],
    )
    life = lived_alike(made, "web", 2, [(2.5 * 3600, True), (3 * 3600, False)])
    assert int(life.state.memory.rollouts["phase"][0]) in (Phase.DONE, Phase.BACK)


rollouts = st.fixed_dictionaries(
    {
        "batch": st.integers(1, 60),
        "of": st.sampled_from(["instances", "percent"]),
        "extra": st.integers(0, 4),
        "fewer": st.integers(1, 3),
        "watch": st.sampled_from([0, 90, 600]),
        "pause": st.sampled_from([0, 300]),
        "canary": st.none()
        | st.fixed_dictionaries(
            {
                "count": st.integers(1, 3),
                "of": st.just("instances"),
                "watch": st.sampled_from([300, 1200]),
                "metric": st.sampled_from(["failed_share", "cpu", "latency_p95"]),
                "at_least": st.just(10),
                "unclear": st.sampled_from(["on", "stop", "back"]),
            }
        ),
    }
)
versions = st.fixed_dictionaries(
    {}, optional={"failures": st.sampled_from([0.01, 0.2]), "cpu_factor": st.sampled_from([0.7, 1.4]), "boot_time": st.just(30)}
)


@settings(max_examples=12)
@given(rollouts, versions, st.booleans())
def test_drawn_rollouts_end_and_keep_to_their_bounds(rollout, second, scales):
    more = {"groups__web__policies": [{**HOLD, "level": "60 %"}], "groups__web__minimum": 4} if scales else {}
    made = released(second, days=0.4, rollout=rollout, **more)
    life = lived_alike(made, "web", 1)
    result = life.record().result
    desired = result.series["desired"].astype(int)
    assert (result.series["serving"] <= np.maximum.accumulate(desired) + rollout["extra"]).all()
    if not scales:
        assert result.series["serving"].min() >= 8 - rollout["fewer"]
    old, new = serving_of(result, 1), serving_of(result, 2)
    assert np.array_equal(old + new, result.series["serving"])
    phase = Phase(int(result.state.memory.rollouts["phase"][0]))
    if phase == Phase.DONE:
        assert old[-1] == 0
    if phase == Phase.BACK:
        assert new[-1] == 0
    came = float(result.arrivals.sum())
    assert came == pytest.approx(result.tally("served") + result.tally("failed") + result.tally("backlog"), rel=1e-6, abs=2)


@pytest.mark.parametrize(
    ("changes", "where", "said"),
    [
        ({"rollout": {"to": 9}}, "to", "versions 1 to 2"),
        ({"groups__web__version": 2}, "to", "runs already"),
        ({"rollout": {"extra": 0, "fewer": 0}}, "fewer", "nothing can be replaced"),
        ({"rollout": {"repeat": "FREQ=DAILY"}}, "calendar", "comes once"),
        ({"groups__web__owned": 4}, "to", "owned instances stay"),
        ({"rollout": {"canary": {"looks": 0}}}, "looks", "greater than or equal to 1"),
        ({"rollout": {"canary": {"false_alarms": "80 %"}}}, "false_alarms", "less than or equal to 0.5"),
        ({"rollout": {"batch": "many"}}, "batch", "integer"),
    ],
)
def test_what_cannot_be_brought_in_is_refused_by_name(changes, where, said):
    with pytest.raises(PlanError) as refused:
        released(**changes)
    problem = refused.value.problems[0]
    assert where in ".".join(map(str, problem.path))
    assert said in problem.message


def test_one_that_lies_before_the_plan_begins_is_over_and_said_to_be():
    rehearsal = rehearse(released({"failures": "5 %"}, rollout={"from": "2025-07-06T02:00"}), "web")
    assert set(rehearsal.result.instances["version"]) == {1}
    assert verdict(rehearsal).rollouts == []
    (finding,) = [one for one in check(rehearsal, None) if one.code == "rollout-past"]
    assert finding.mend.settings == {"version": 2}
    assert released(rollout={"from": "2025-07-06T02:00"}, groups__web__version=2)


def test_two_at_a_time_are_refused_and_one_after_the_other_is_not():
    first = {"name": "one", "kind": "rollout", "from": "2025-07-07T02:00", "to": 2, "watch": "30 min", "pause": "10 min"}
    second = {**first, "name": "two", "from": "2025-07-07T03:00"}
    three = {"front": {"versions": [GOOD, GOOD, GOOD]}}
    with pytest.raises(PlanError, match="one takes until"):
        released(templates=three, groups__web__calendar=[first, {**second, "to": 3}])
    later = {**second, "to": 3, "from": "2025-07-07T05:30"}
    rehearsal = rehearse(released(templates=three, groups__web__calendar=[later, first]), "web")
    assert [one.ended for one in verdict(rehearsal).rollouts] == ["brought in", "brought in"]
    assert there(rehearsal, 3)[-1] == 8


def test_it_is_said_on_the_page_and_at_its_moments():
    made = released(canary={})
    page = group_page(crew_of(made, "web"), "EUR")
    said = next(one.text for section in page.sections for one in section.sentences if one.key == "calendar.next")
    assert said.startswith("Bring in version 2 at Mon 7 Jul 02:00: 10 % first, for 30 min: by the share of answers that fail")
    rehearsal = rehearse(made, "web")
    reasons = [one.text for one in moment(rehearsal, 7200 + 900.0).reasons]
    assert "Rollout next: its canary is watched, 1 are to be of it" in reasons
