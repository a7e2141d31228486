"""Every event, refusal and stage has its sentence; hypothesis meets them all."""

import re
from typing import get_args

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jostle.core.decide.code import Outcome
from jostle.core.journal.event import Kind, events
from jostle.core.journal.moment import moment
from jostle.core.journal.outlook import outlook
from jostle.core.journal.sentence import group_page
from jostle.core.rehearsal.rehearser import rehearse
from tests.core.engine.test_guests import counts, deck, guest, played
from tests.core.engine.test_whole_plans import plans
from tests.plans import ADD, REMOVE, plan

LIVELY = {
    "days": 0.5,
    "subnets": {"a": {"zone": "north"}, "b": {"zone": "skerry"}},
    "machines__otter-2__quota": 30,
    "groups__web__launch": {"subnets": ["a", "b"]},
    "groups__web__start_count": 3,
    "groups__web__owned": 3,
    "groups__web__first_start": {"surplus": 1},
    "groups__web__maximum": 8,
    "groups__web__health": {"grace": 0, "interval": "20 s"},
    "groups__web__mending": {"restarts": 1},
    "groups__web__policies": [{**ADD, "amount": 3}, {**REMOVE, "amount": 2}],
    "groups__web__calendar": [{"name": "nap", "kind": "sleep", "from": "2025-07-07T08:00", "for": "1 h"}],
    "groups__web__hands": [
        {"kind": "kill", "at": "2025-07-07T00:30"},
        {"kind": "stress", "at": "2025-07-07T00:40", "instance": 999},
        {"kind": "set", "at": "2025-07-07T06:30", "count": 5},
    ],
}
INCIDENTS = [
    {"kind": "breaking", "at": "2025-07-07T01:00", "share": "100 %"},
    {"kind": "breaking", "at": "2025-07-07T01:20", "share": "100 %"},
    {"kind": "no_capacity", "at": "2025-07-07T02:00", "for": "40 min"},
    {"kind": "zone_lost", "at": "2025-07-07T03:00", "for": "20 min", "zone": "north"},
    {"kind": "slow_dependency", "at": "2025-07-07T04:00", "for": "20 min", "extra": "1 s"},
    {"kind": "slow_boots", "at": "2025-07-07T04:30", "for": "20 min", "factor": 2},
]
SURGE = {"kind": "surge", "at": "2025-07-07T02:05", "factor": 6, "hold": "30 min"}


def lively(work, rate, **more):
    demand = {"layers": [{"kind": "level", "rate": rate}, SURGE], "incidents": INCIDENTS}
    return rehearse(plan(**{**LIVELY, **more}, demands__even=demand, groups__web__work=work), "web")


def bought():
    """The same where all is spot, of which there is none for a while."""
    spot = {"machines__otter-2__spot": "40 %", "groups__web__buying": {"swap": {}}, "groups__web__owned": None}
    gone = {"kind": "no_spot", "at": "2025-07-07T02:05", "for": "2 h"}
    demand = {"layers": [{"kind": "level", "rate": 40}, SURGE], "incidents": [gone]}
    made = plan(**{**LIVELY, **spot}, demands__even=demand, groups__web__work={"kind": "requests", "cpu_seconds": 0.1})
    return rehearse(made, "web")


def renewed():
    """The same with another version brought in, by hand too."""
    made = {
        "templates": {"front": {"versions": [{"machine": "otter-2", "boot_time": 90}] * 2}},
        "groups__web__version": 1,
        "groups__web__owned": None,
        "groups__web__calendar": [{"name": "next", "kind": "rollout", "from": "2025-07-07T05:30", "to": 2}],
        "groups__web__hands": [
            {"kind": "rollout", "at": "2025-07-07T05:40", "act": "back"},
            {"kind": "rollout", "at": "2025-07-07T09:40", "act": "pause"},
        ],
    }
    return lively({"kind": "requests", "cpu_seconds": 0.1}, 40, **made)


def hosted():
    """Guests of a host that leaves, comes back with fewer places than are wanted, and loses a zone."""
    lost = {"kind": "zone_lost", "at": "2025-07-07T15:00", "for": 600, "zone": "a"}
    made = deck({"web": guest(1, 3, 4, hands=counts((9, 12)))}, zones=("a", "b"), start_count=3, hands=counts((6, 2), (12, 4)))
    made["demands"]["none"]["incidents"] = [lost]
    return played(made)["web"]


def test_every_kind_of_event_is_told():
    told = {}
    for rehearsal in (
        lively({"kind": "requests", "cpu_seconds": 0.1}, 40),
        lively({"kind": "jobs", "job_seconds": 60}, 0.04),
        lively({"kind": "sessions", "seats": 20, "length": "10 min"}, 0.06),
        bought(),
        renewed(),
        hosted(),
    ):
        for event in events(rehearsal):
            told.setdefault(event.kind, []).append(event.text)
    assert set(told) == set(get_args(Kind))
    assert "a hand burns 90 % of the CPU of instance 999 for 10 min, but there is no such instance" in told["hand"]
    assert "zone north is lost" in told["incident"]
    assert "a hand turns the rollout back" in told["hand"]
    assert "a hand pauses the rollout, but none is under way that could be" in told["hand"]
    assert "over: zone north is lost" in told["incident over"]
    assert any(
        re.fullmatch(r"4 copies wait for a place: 1 vCPU wanted, the largest free .* is 0", one) for one in told["refused"]
    )
    assert any(re.fullmatch(r"instance \d+ is lost with instance \d of deck", one) for one in told["lost"])
    assert any("of deck leaves: instance 5 is to start elsewhere in the place of instance" in one for one in told["moves"])
    assert any("a place at last for" in text for text in told["taken"])
    assert any("no zone has capacity" in text for text in told["refused"])
    assert any(text.endswith(": nap, the group falls asleep") for text in told["count"])
    assert any(text.endswith(": the group wakes") for text in told["count"])
    assert any(text.endswith(": by hand") for text in told["count"])


@settings(max_examples=60, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plans(), st.integers(1, 50), st.floats(0, 3 * 3600))
def test_whatever_happens_is_told_in_whole_sentences(made, seed, seconds):
    rehearsal = rehearse(made, "web", seed)
    for event in events(rehearsal):
        assert event.text
        assert not re.search(r"\bnan\b|\bNone\b|\{|\}", event.text), event.text
    for section in group_page(rehearsal.crew, made.currency).sections:
        for sentence in section.sentences:
            assert sentence.text.endswith("."), sentence.text
    found = moment(rehearsal, seconds)
    said = [found.title, found.decision, found.not_more, found.not_fewer, *(r.text + r.outcome for r in found.reasons)]
    for text in said:
        assert text
        assert not re.search(r"\bNone\b|\{|\}", text), text
    assert found.decision.endswith(".")


NARROW = {"name": "low", "kind": "bounds", "minimum": 1, "maximum": 1}
STAGES = {
    Outcome.AT_MAXIMUM: ({"groups__web__maximum": 1}, "the maximum is 1"),
    Outcome.AT_QUOTA: ({"machines__otter-2__quota": 1}, "the quota leaves 1"),
    Outcome.MODE_HOLDS: ({"groups__web__mode": "stay"}, "policies may change nothing"),
    Outcome.FROZEN: (
        {"groups__web__calendar": [{"name": "still", "kind": "freeze", "from": "2025-07-07T00:00", "for": "1 h"}]},
        "the calendar has still: no automatic change",
    ),
    Outcome.AT_CEILING: (
        {"groups__web__calendar": [{**NARROW, "from": "2025-07-07T00:00", "for": "1 h"}]},
        "the calendar has low: between 1 and 1",
    ),
}


@pytest.mark.parametrize("outcome", sorted(STAGES))
def test_what_holds_an_addition_back_is_named(outcome):
    settings_, said = STAGES[outcome]
    rehearsal = rehearse(plan(groups__web__policies=[ADD], **settings_), "web")
    found = moment(rehearsal, 180)
    assert rehearsal.result.decisions[2]["outcome"] == outcome
    assert found.decision == f"add asks for 2, but {said}: it stays at 1."
    assert said in found.not_more[0].lower() + found.not_more[1:]


def test_why_not_fewer_names_the_floor_and_the_brake():
    quiet = {"demands__even__layers": [{"kind": "level", "rate": 1}], "groups__web__start_count": 6}
    policies = [{**REMOVE, "amount": 3, "cooldown": 60}]
    floor = [{"name": "six", "kind": "floor", "count": 6, "from": "2025-07-07T00:00", "for": "1 h"}]
    held = moment(rehearse(plan(**quiet, groups__web__policies=policies, groups__web__calendar=floor), "web"), 300)
    assert held.not_fewer == "The calendar has six: at least 6."
    brake = {"brake": {"at_most": 1, "within": "30 min"}}
    braked = moment(rehearse(plan(**quiet, groups__web__policies=policies, groups__web__leaving=brake), "web"), 600)
    assert braked.not_fewer == "The brake lets 1 go within 30 min."


def test_the_outlook_tells_the_next_change_if_the_demand_stays():
    rising = {"demands__even__layers": [{"kind": "level", "rate": "30/s"}], "groups__web__policies": [ADD]}
    found = rehearse(plan(**rising), "web")
    assert outlook(found, 180) == "If the demand stays at 30/s, it goes 2 → 3 at Mon 7 Jul 00:07."
    settled = outlook(found, 3600)
    assert settled == "If the demand stays at 30/s, the count stays for 23 h at least."
    surge = {"kind": "surge", "at": "2025-07-07T02:00", "factor": 5, "hold": "1 h"}
    later = plan(**{**rising, "demands__even__layers": [{"kind": "level", "rate": "10/s"}, surge]})
    assert "the count stays" in outlook(rehearse(later, "web"), 7000)
