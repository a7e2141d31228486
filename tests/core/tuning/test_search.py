"""A search finds what keeps the promises at less cost, the same each time, and says what matters and what cannot be."""

from threading import Event

import pytest

from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearser import Rehearser, rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.core.tuning.front import front, matters
from jostle.core.tuning.goal import Goal, Judged
from jostle.core.tuning.judges import Task, Threads
from jostle.core.tuning.search import chosen_group, search
from jostle.core.tuning.space import Varied, among_choices, applied, as_it_is, checked_space, said, typed, usual_space
from tests.patience import PATIENCE
from tests.plans import ADD, HOLD, REMOVE, plan

DAILY = {
    "kind": "daily",
    "points": [{"at": "04:00", "factor": 0.3}, {"at": "10:00", "factor": 1.6}, {"at": "20:00", "factor": 1.2}],
}
BUSY = {
    "demands__even__layers": [{"kind": "level", "rate": "60/s"}, DAILY, {"kind": "noise", "spread": "8 %"}],
    "groups__web__policies": [{**ADD, "threshold": "45 %"}, {**REMOVE, "threshold": "15 %"}],
    "groups__web__promises": [{"kind": "answers", "share": "95 %", "within": "1 s"}],
    "groups__web__start_count": 4,
}
THRESHOLD = Varied(path="policies.add.threshold", low=0.3, high=0.95)
AMOUNT = Varied(path="policies.add.amount", low=1, high=4, step=1)


def goal(made, **more):
    return Goal(made, "web", seeds=(1, 2), choosing=(11, 12, 13), confirming=(21, 22, 23, 24), **more)


@pytest.fixture(scope="module")
def found():
    return search(goal(plan(**BUSY)), [THRESHOLD, AMOUNT], 40)


def test_what_is_chosen_keeps_its_promises_under_other_seeds_and_costs_less(found):
    assert found.chosen is not None
    assert found.confirmed is not None
    assert (found.confirmed.kept, found.confirmed.seeds) == (4, 4)
    assert found.as_is_confirmed is not None
    assert found.as_is_confirmed.seeds == 4
    assert found.as_is_confirmed.cost > found.confirmed.cost
    assert found.chosen.cost < found.as_is.cost
    made = plan(**BUSY)
    figures = [
        verdict(rehearse(made.model_copy(update={"groups": {"web": _group(made, found.chosen)}}), "web", seed)).figures
        for seed in (1, 2)
    ]
    assert found.chosen.cost == pytest.approx(float(sum(one.cost for one in figures)) / 2)
    assert found.chosen.short_minutes == pytest.approx(sum(one.short_minutes for one in figures) / 2)


def _group(made, judged):
    return made.groups["web"].model_validate(chosen_group(made, "web", judged))


def test_the_same_search_finds_the_same(found):
    again = search(goal(plan(**BUSY)), [THRESHOLD, AMOUNT], 40)
    assert [one.values for one in again.sets] == [one.values for one in found.sets]
    assert again.chosen == found.chosen


def test_the_front_is_what_nothing_beats_in_both(found):
    best = front(found.sets)
    assert best
    for one in found.sets:
        assert not any(one.cost < other.cost and one.short_minutes < other.short_minutes for other in best) or one in best
    assert [one.cost for one in best] == sorted(one.cost for one in best)
    assert [one.short_minutes for one in best] == sorted((one.short_minutes for one in best), reverse=True)


def test_what_matters_is_between_nothing_and_all(found):
    told = matters(found.sets, [THRESHOLD, AMOUNT])
    assert {one.path for one in told} == {THRESHOLD.path, AMOUNT.path}
    assert all(0 <= share <= 1 for one in told for share in (one.on_cost, one.on_short))
    assert told[0].path == THRESHOLD.path


def test_a_search_is_stopped_and_keeps_what_it_has():
    seen = []
    found = search(goal(plan(**BUSY)), [THRESHOLD], 200, tell=lambda so_far: seen.append(len(so_far.sets)) or seen[-1] < 6)
    assert len(found.sets) == 6
    assert found.ended


def test_sets_that_the_checks_refuse_cost_no_rehearsal():
    made = plan(**BUSY)
    close = goal(made).judge(1, {"policies.add.threshold": 0.16}, Rehearser(), (1,), float("inf"))
    assert close.seeds == 0
    assert close.refused == "add adds at 16 %, too near to remove at 15 %"
    above = goal(made).judge(1, {"maximum": 0}, Rehearser(), (1,), float("inf"))
    assert "maximum" in (above.refused or "")


def test_where_nothing_keeps_the_promises_the_nearest_is_told():
    hopeless = plan(**{**BUSY, "groups__web__promises": [{"kind": "answers", "share": "99.9 %", "within": "1 ms"}]})
    found = search(goal(hopeless), [THRESHOLD], 8)
    assert found.chosen is None
    assert found.nearest is not None
    assert found.nearest.kept == 0


@pytest.mark.parametrize("policies", [[ADD, REMOVE], [HOLD], [{"kind": "spare", "name": "s", "share": 0.2}]])
def test_what_policies_have_may_vary(policies):
    made = plan(groups__web__policies=policies)
    space = checked_space(usual_space(made.groups["web"]), made, "web")
    document = made.groups["web"].model_dump(mode="json")
    for one in space:
        middle = typed([one], {one.path: (one.low + one.high) / 2})
        assert one.low <= middle[one.path] <= one.high
        assert applied(document, middle) != document or one.snapped(middle[one.path]) == middle[one.path]
    assert set(said(made, "web", {space[0].path: space[0].high})) == {space[0].path}


def test_what_is_no_number_varies_over_its_choices():
    made = plan(**{"machines__otter-2__spot": 0.4}, groups__web__buying={"choose": "safest"})
    document = made.groups["web"].model_dump(mode="json")
    chosen = among_choices("buying.choose", document)
    assert checked_space([chosen], made, "web") == [chosen]
    assert as_it_is(document, "buying.choose") == 2
    made_of = [applied(document, typed([chosen], {"buying.choose": n}))["buying"]["choose"] for n in (0.0, 1.2, 2.0)]
    assert made_of == ["balanced", "cheapest", "safest"]
    assert said(made, "web", {"buying.choose": 1.0}) == {"buying.choose": "where it is cheapest"}
    with pytest.raises(PlanError, match="varies over all of balanced, cheapest, safest"):
        checked_space([Varied(path="buying.choose", low=0, high=1, step=1)], made, "web")


@pytest.mark.parametrize(
    ("varied", "said_of_it"),
    [
        ([], "nothing may vary"),
        ([Varied(path="policies.none.threshold", low=0, high=1)], "none"),
        ([Varied(path="template", low=0, high=1)], "is no number"),
        ([Varied(path="policies.add.threshold", low=0.9, high=0.4)], "is an empty range"),
        ([Varied(path="maximum", low=0, high=4, step=1)], "maximum"),
    ],
)
def test_what_cannot_vary_is_refused(varied, said_of_it):
    with pytest.raises(PlanError, match=said_of_it):
        checked_space(varied, plan(**BUSY), "web")


def test_equal_cost_is_decided_by_fewer_changes():
    calm = Judged(number=2, values={"a": 2}, cost=5, changes=3, kept=1, seeds=1, value=5)
    busy = Judged(number=1, values={"a": 1}, cost=5, changes=9, kept=1, seeds=1, value=5)
    from jostle.core.tuning.search import Found

    assert Found(as_is=busy, sets=[busy, calm]).best == calm


def test_what_only_says_something_does_not_vary():
    """Its level changes nothing, and would only be one more dimension to get lost in."""
    ahead = {"kind": "lookahead", "name": "ahead", "level": 0.6}
    for advice, many in ((False, 1), (True, 0)):
        group = plan(groups__web__policies=[{**ahead, "advice": advice}]).groups["web"]
        assert len(usual_space(group)) == many


def held_against(*costs):
    """What comes of the smallest plan's own settings, held against what cost so much under four seeds."""
    made = plan(days=1)
    goal = Goal.over(made, "web", 4, 0.0)
    return goal.judge(1, {"maximum": made.groups["web"].maximum}, Rehearser(), goal.seeds, costs)


def test_a_set_is_given_up_once_it_is_dearer_than_the_best_under_the_same_seeds():
    alone = held_against()
    assert alone.seeds == len(alone.costs) == 4
    assert alone.cost == pytest.approx(sum(alone.costs) / 4)
    cheaper = [0.97 * cost for cost in alone.costs]
    few = held_against(*cheaper)
    assert few.seeds == 3
    assert few.cost == pytest.approx(sum(cheaper) / 4 * sum(few.costs) / sum(cheaper[:3]))
    assert few.cost == pytest.approx(alone.cost)
    assert held_against(*(0.7 * cost for cost in alone.costs)).seeds == 1
    assert held_against(*(0.99 * cost for cost in alone.costs)) == alone
    assert held_against(0.0, 0.0, 0.0, 0.0).cost == pytest.approx(alone.costs[0])


def test_costs_by_seed_are_not_written_down():
    one = Judged(number=1, values={"a": 1}, cost=5, kept=2, seeds=2, value=5, costs=(4.0, 6.0))
    again = Judged.model_validate_json(one.model_dump_json())
    assert again.costs == ()
    assert again.costs_under((1, 2)) == (5.0, 5.0)
    assert one.costs_under((1, 2)) == (4.0, 6.0)


@pytest.mark.parametrize("best", [(), (1e-6,) * 6])
def test_what_comes_of_a_set_is_the_same_however_many_play_its_weeks(best):
    made = plan(days=1)
    goal = Goal.over(made, "web", 6, 0.0)
    space = usual_space(made.groups["web"])
    sets = [{one.path: one.low for one in space}, {one.path: one.high for one in space}]
    tasks = [Task(number, values, goal.seeds, best) for number, values in enumerate(sets)]
    alone = [goal.judge(number, values, Rehearser(), goal.seeds, best) for number, values in enumerate(sets)]
    assert Threads(1).judge(goal, tasks) == Threads(2).judge(goal, tasks) == Threads(4).judge(goal, tasks) == alone


def test_what_goes_wrong_where_somebody_helps_is_not_kept_quiet(monkeypatch):
    made = plan(days=1)
    goal = Goal.over(made, "web", 4, 0.0)
    values = {one.path: one.low for one in usual_space(made.groups["web"])}
    weeks, helped = Goal.weeks, Event()

    def broken(self, one, rehearser, seeds):
        for told in weeks(self, one, rehearser, seeds):
            if tuple(seeds) != goal.seeds:
                helped.set()
                raise RuntimeError("out of room")
            assert helped.wait(PATIENCE)
            yield told

    monkeypatch.setattr(Goal, "weeks", broken)
    with pytest.raises(RuntimeError, match="out of room"):
        Threads(2).judge(goal, [Task(0, values, goal.seeds)])


@pytest.mark.parametrize(
    ("kept", "seeds", "low", "high"),
    [(20, 20, 0.8316, 1.0), (17, 20, 0.6211, 0.9679), (0, 20, 0.0, 0.1684), (5, 10, 0.1871, 0.8129)],
)
def test_the_share_of_all_weeks_has_the_span_that_tables_give(kept, seeds, low, high):
    """Exact binomial limits of 95 %, as printed in tables."""
    judged = Judged(number=1, values={}, kept=kept, seeds=seeds)
    assert judged.share == pytest.approx((low, high), abs=1e-4)


def test_seeds_that_choose_among_sets_are_not_those_that_tell_how_good_the_chosen_is():
    made = Goal.over(plan(**BUSY), "web", 5, 0.1)
    assert (
        not set(made.seeds) & set(made.choosing)
        | set(made.choosing) & set(made.confirming)
        | set(made.seeds) & set(made.confirming)
    )
    assert len(made.confirming) >= 20
