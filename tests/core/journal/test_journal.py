import pytest

from jostle.core.journal.change import say_change
from jostle.core.journal.event import events
from jostle.core.journal.moment import moment
from jostle.core.journal.sentence import group_line, group_page, lower_first
from jostle.core.plan.setting import setting, with_setting
from jostle.core.plan.template_field import written_field
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import rehearse
from tests.plans import ADD, HOLD, REMOVE, plan

PROMISES = [{"kind": "answers", "share": "95 %", "within": "500 ms"}, {"kind": "cost", "at_most": 100}]
POLICIES = [ADD, REMOVE]
FLOOR = {
    "name": "morning",
    "kind": "floor",
    "from": "2025-07-07T08:00",
    "until": "12:00",
    "count": 3,
    "repeat": "FREQ=DAILY",
}


def page(**settings):
    made = plan(groups__web__promises=PROMISES, **settings)
    return group_page(crew_of(made, "web"), made.currency).sections


def test_a_group_reads_aloud_as_what_it_does():
    said = [sentence.text for section in page(groups__web__policies=POLICIES) for sentence in section.sentences]
    assert said == [
        "1 to 10 instances of front, version 1 (newest), 1 at the start. A new one boots in 100 s and warms up for 50 s; "
        "a leaving one drains for 0 s.",
        "Open in the template: no image, no disk, no public address, no subnets, no firewall rules, "
        "no key, no identity, no start-up script, no tags, a third of it from stopped, no health check.",
        "Requests as in even.",
        "Each takes 100 ms of CPU and 0 s besides, and fails after 20 s of waiting; an idle instance burns 0 % of its CPU. "
        "They arrive evenly; CPU times are exponential.",
        "95 % of answers within 500 ms.",
        "At most € 100 a week.",
        "When average CPU stays above 70 % for 1 min, add 1, then wait 5 min.",
        "When average CPU stays below 30 % for 1 min, remove 1, then wait 5 min.",
        "Asked every 1 min. Meters read every 1 min, known 30 s later. After any change all wait 0 s. "
        "Policies are at work and may add and remove.",
        "From the fullest zone, the oldest leaves first.",
        "Broken is what fails the machine's state 2 times, 30 s apart, later than 5 min after its launch; "
        "it is restarted 0 times, then replaced.",
    ]


def test_a_hold_policy_and_a_paused_one():
    said = [s.text for s in page(groups__web__policies=[HOLD, {**ADD, "paused": True}])[3].sentences]
    assert said[0] == "Hold average CPU over 1 min at 50 % give or take 10 %, adding and removing, then wait 3 min."
    assert said[1].startswith("Paused: When average CPU")


def test_every_word_with_a_path_stands_for_the_value_at_that_path():
    made = plan(groups__web__policies=[*POLICIES, HOLD], groups__web__promises=PROMISES)
    document = made.groups["web"].model_dump(mode="json")
    words = [w for section in page(groups__web__policies=[*POLICIES, HOLD]) for s in section.sentences for w in s.words if w.path]
    assert len(words) > 25
    for word in words:
        kept = setting(document, word.path)
        assert word.value == (
            made.groups["web"].first_count
            if word.path == "start_count"
            else pytest.approx(float(kept))
            if word.path.endswith("at_most")
            else written_field(word.path.partition(".")[2], kept)
            if word.path.startswith("launch.")
            else kept
        )


@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        ("policies.add.cooldown", "9 min", "wait 9 min, was 5 min"),
        ("policies.add.threshold", "75 %", "add above 75 %, was 70 %"),
        ("policies.remove.amount", 2, "remove 2, was 1"),
        ("maximum", 12, "maximum 12, was 10"),
        ("cooldown", "2 min", "group wait 2 min, was 0 s"),
        ("policies", [REMOVE], "without add"),
        ("policies.add.paused", True, "add paused"),
        ("maximum", 10, "no change"),
        ("minimum", 2, "minimum 2, was 1"),
        ("promises", [{"kind": "cost", "at_most": 300}], "promised: At most € 300 a week"),
        ("calendar", [{**FLOOR, "ready_by": True}], "morning: ready by, was from"),
    ],
)
def test_a_change_is_named_by_what_it_changed(path, value, said):
    before = plan(groups__web__policies=POLICIES, groups__web__calendar=[FLOOR])
    document = with_setting(before.model_dump(mode="json"), f"groups.web.{path}", value)
    after = type(before).model_validate(document)
    assert say_change(*(group_page(crew_of(one, "web"), one.currency) for one in (before, after))) == said


def test_a_line_for_lists():
    made = plan(groups__web__policies=[ADD, HOLD])
    assert group_line(crew_of(made, "web")) == "1 to 10 of front; adds 1 above 70 % CPU; holds CPU at 50 %"
    assert "nothing changes its count" in group_line(crew_of(plan(), "web"))


def rehearsal(policies=POLICIES, **settings):
    return rehearse(plan(groups__web__policies=policies, **settings), "web")


def test_the_journal_tells_changes_with_their_figures_and_times_in_the_plans_zone():
    told = list(events(rehearsal()))
    first = next(event for event in told if event.kind == "count")
    assert first.time == "2025-07-07T00:02:00+01:00"
    assert first.text == "1 → 2: average CPU 99.8 % over 1 min, above 70 %"
    assert (first.policy, first.before, first.after) == ("add", 1, 2)
    assert [e.kind for e in told][:3] == ["short", "count", "serves"]
    assert [event.time for event in told] == sorted(event.time for event in told)


def test_a_limit_is_told():
    told = list(events(rehearsal([{**ADD, "amount": 3}], groups__web__maximum=2), frozenset({"count", "limit"})))
    assert [event.text.split(":")[0] for event in told][:2] == ["4 wanted, the maximum is 2", "1 → 2, 4 wanted"]


def test_the_moment_of_an_addition():
    found = moment(rehearsal(), 120)
    assert found.title == "Mon 7 Jul 00:02: why 2, and not 1 as before?"
    assert found.decision == "add adds 1: 1 → 2."
    assert (found.reasons[0].outcome, found.reasons[0].tone, found.reasons[0].key) == ("wants 2", "add", "policies.add")
    assert found.previous is None


def test_the_moment_says_who_is_on_the_way_and_what_waits():
    found = moment(rehearsal(), 185)
    assert found.seconds == 180
    assert found.title.endswith("why 2, and not more?")
    assert found.decision == "add would make it 3, but waits 4 min more: it stays at 2."
    outcomes = [reason.outcome for reason in found.reasons]
    assert "wants 3, waits 4 min more" in outcomes
    coming = next(r for r in found.reasons if "booting" in r.text)
    assert coming.text == "1 instance booting or warming up, the first ready at 00:04:30"
    assert coming.outcome == "1 serving"
    assert any("Requests waiting" in r.text for r in found.reasons)


def test_why_nothing_happened_is_explained_too():
    quiet = moment(rehearse(plan(groups__web__policies=POLICIES, groups__web__start_count=3), "web"), 3600)
    assert quiet.title.endswith("why 3, and not more or fewer?")
    assert quiet.decision == "Nothing asks for a change: it stays at 3."
    assert [r.outcome for r in quiet.reasons[:2]] == ["asks nothing", "asks nothing"]


def test_no_data_pauses_limits_and_disagreement_are_said():
    nothing = moment(rehearse(plan(groups__web__policies=[{**ADD, "window": "10 min"}]), "web"), 60)
    assert nothing.reasons[0].outcome == "no data"
    capped = moment(rehearse(plan(groups__web__policies=[{**ADD, "amount": 20}]), "web"), 120)
    assert "11 fewer than it asked for" in capped.decision
    assert any(r.outcome == "11 refused" for r in capped.reasons)
    content = {**HOLD, "level": "13 %", "tolerance": "20 %"}
    many = {"groups__web__start_count": 10}
    blocked = moment(rehearse(plan(groups__web__policies=[REMOVE, content], **many), "web"), 120)
    assert "not every policy" in blocked.decision
    waiting = moment(rehearse(plan(groups__web__policies=[{**ADD, "cooldown": 0}], groups__web__cooldown="4 min"), "web"), 180)
    assert "the group waits" in waiting.decision


def test_walking_from_decision_to_decision_reaches_every_one():
    made = rehearsal()
    seen, at = [], 0.0
    while (found := moment(made, at)) and found.following is not None:
        at = found.following
        seen.append(at)
    notable = made.result.decisions["time"][made.result.decisions["outcome"] != 0]
    assert seen == list(notable)


@pytest.mark.parametrize(
    ("label", "said"), [("CPU kept", "CPU kept"), ("Host", "host"), ("If it stops", "if it stops"), ("vCPUs", "vCPUs")]
)
def test_a_label_within_a_sentence(label, said):
    assert lower_first(label) == said


@pytest.mark.parametrize(("number", "said"), [(1, "1 time"), (2, "2 times"), (1.5, "1.5 times")])
def test_once_is_not_said_as_several(number, said):
    assert say_count(number, "time") == said
