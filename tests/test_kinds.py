"""Every kind is whole: it can be added, reads as a sentence whose words can be edited, and is felt in what follows."""

from typing import get_args

import numpy as np
import pytest

from jostle.api.editor import editor_of, site_of
from jostle.core.calendar.orders import orders
from jostle.core.change.change import Change
from jostle.core.change.demand_change import changed_demand
from jostle.core.change.group_change import changed_group
from jostle.core.change.start import group_to_begin_with
from jostle.core.decide.code import Stance
from jostle.core.engine.code import EventKind
from jostle.core.journal.demand_line import demand_sentences
from jostle.core.journal.sentence import group_page
from jostle.core.plan.calendar import ENTRY_KINDS
from jostle.core.plan.clock import Clock
from jostle.core.plan.hand import HAND_KINDS
from jostle.core.plan.incident import INCIDENT_KINDS
from jostle.core.plan.layer import LAYER_KINDS
from jostle.core.plan.layer import Kinds as Layers
from jostle.core.plan.model import kind_of
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.policy import POLICY_KINDS, POLICY_STARTS, PolicyKind
from jostle.core.plan.promise import AgePromise, AnswersPromise, CostPromise, SeatsPromise, ServingPromise
from jostle.core.plan.promise import Promise as PromiseUnion
from jostle.core.plan.template import LaunchTemplate
from jostle.core.plan.work import WORK_KINDS, WorkKind
from jostle.core.rehearsal.rehearsal import clock_of
from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from tests.plans import plan

# Work that comes by itself; what a host carries comes with its guests
WORKS = [kind for kind in WORK_KINDS if kind != "hosting"]
SIZES = {"requests": ("100 ms", 30.0), "jobs": ("60 s", 0.1), "sessions": ("5 min", 0.2)}


def of_work(kind, **settings):
    """The small plan with a group as it begins for a kind of work, under a load that several instances carry."""
    size, rate = SIZES[kind]
    made = plan(demands__even={"layers": [{"kind": "level", "rate": rate}]})
    document = made.groups["web"].model_dump(mode="json") | group_to_begin_with(kind, size, 20) | settings
    return with_group(made, "web", document)


def with_change(made: Plan, **change) -> Plan:
    document = made.groups["web"].model_dump(mode="json")
    return with_group(made, "web", changed_group(document, [Change(**change)], made.start.astimezone(made.zone)))


def every_word_can_be_edited(made: Plan, key: str) -> str:
    """The text of the sentence of a key, each of whose words with a path has an editor."""
    rehearsal = rehearse(made, "web")
    page, site = group_page(rehearsal.crew, made.currency), site_of(made, rehearsal.crew)
    sentence = next(one for section in page.sections for one in section.sentences if one.key == key)
    for word in sentence.words:
        assert word.path is None or editor_of(word, made, rehearsal.crew, site) is not None, word.path
    return sentence.text


@pytest.mark.parametrize("work", WORKS)
@pytest.mark.parametrize("start", POLICY_STARTS)
def test_a_policy(start, work):
    made = with_change(of_work(work, policies=[]), op="add", path="policies", value=start)
    policy = made.groups["web"].policies[0]
    assert every_word_can_be_edited(made, f"policies.{policy.name}").endswith(".")
    assert policy.in_short(made.groups["web"].work)
    field, level = policy.level_at
    assert getattr(policy, field) == level
    document = made.groups["web"].model_dump(mode="json") | {"start_count": 10 if policy.tone == "remove" else 1}
    if start == "lookahead":
        document["policies"][0] |= {"history": "even", "advice": False}
    busy = with_group(made, "web", document)
    rows = rehearse(busy, "web").result
    asking = rows.views["ask"][:, 0] != rows.decisions["desired"]
    assert asking.any(), "a kind that the compiled code does not know asks for nothing"
    assert np.isin(rows.views["state"][asking, 0], (Stance.ASKING, Stance.WAITING)).all()


def test_compiled_kinds_are_those_of_the_plan():
    assert {kind.name for kind in PolicyKind} == {kind_of(kind).upper() for kind in POLICY_KINDS}
    assert {kind.name for kind in WorkKind} == {kind.upper() for kind in WORK_KINDS}


@pytest.mark.parametrize("start", [start for start in POLICY_STARTS if start != "lookahead"])
def test_a_policy_of_a_host(start):
    base = plan().groups["web"].model_dump(mode="json") | {"demand": "", **group_to_begin_with("hosting", 0, 0), "policies": []}
    made = with_change(with_group(plan(), "web", base), op="add", path="policies", value=start)
    policy = made.groups["web"].policies[0]
    assert every_word_can_be_edited(made, f"policies.{policy.name}").endswith(".")
    every_word_can_be_edited(made, "work")
    every_word_can_be_edited(made, "promises.0")


@pytest.mark.parametrize("kind", WORKS)
def test_a_kind_of_work(kind):
    made = of_work(kind)
    assert every_word_can_be_edited(made, "work")
    work = made.groups["web"].work
    assert work.promise["kind"] in {kind_of(one) for one in get_args(get_args(PromiseUnion)[0])}
    rehearsal = rehearse(made, "web")
    figures = verdict(rehearsal).figures
    assert figures.served > 0
    assert figures.always_peak_cost is not None
    sight = rehearsal.result.state.sight.samples[0]
    known = {metric.name for metric in work.metrics}
    assert known >= {"CPU", "MEMORY", "NETWORK_IN"}
    assert np.isfinite(sight[:, -1]).sum() >= 3


@pytest.mark.parametrize("kind", [AnswersPromise, AgePromise, SeatsPromise, ServingPromise, CostPromise])
def test_a_promise(kind):
    work = kind.work or "requests"
    promise = kind.start if kind.work is None else WORK_KINDS[work].promise
    made = of_work(work, promises=[promise])
    assert isinstance(made.groups["web"].promises[0], kind)
    assert every_word_can_be_edited(made, "promises.0")
    judged = verdict(rehearse(made, "web")).promises[0]
    assert judged.kind == kind_of(kind)
    assert judged.text
    assert judged.measured


def test_a_rollout():
    made = of_work("requests", calendar=[])
    two = LaunchTemplate(
        versions=[*made.templates["front"].versions, made.templates["front"].versions[0].model_copy(update={"note": "next"})]
    )
    made = made.model_copy(update={"templates": {"front": two}})
    document = made.groups["web"].model_dump(mode="json") | {"version": 1}
    made = with_change(with_group(made, "web", document), op="add", path="calendar", value="rollout")
    assert every_word_can_be_edited(made, "calendar.rollout").startswith("Bring in the newest version at Mon 7 Jul 08:00: 25 %")
    made = with_change(made, path="calendar.rollout.canary", value={})
    assert "false alarm" in every_word_can_be_edited(made, "calendar.rollout")
    rehearsal = rehearse(made, "web")
    assert (rehearsal.result.events["kind"] == EventKind.ROLLOUT).sum() > 3
    assert set(rehearsal.result.instances["version"]) == {1, 2}


@pytest.mark.parametrize("kind", [kind for kind in ENTRY_KINDS if kind != "rollout"])
def test_an_entry_of_the_calendar(kind):
    made = with_change(of_work("requests", calendar=[]), op="add", path="calendar", value=kind)
    entry = made.groups["web"].calendar[0]
    assert every_word_can_be_edited(made, f"calendar.{entry.name}")
    assert entry.in_short()
    clock = clock_of(made)
    times = np.arange(0.0, 2 * 86400, 600.0)
    felt, without = (orders(calendar, clock.first, clock.zone, times) for calendar in ([entry], []))
    assert any((getattr(felt, part) != getattr(without, part)).any() for part in ("low", "high", "gates", "set_time"))


@pytest.mark.parametrize("kind", HAND_KINDS)
def test_a_hand(kind):
    value = {**kind.start, "at": "2025-07-07T10:00"}
    made = with_change(of_work("requests", hands=[]), op="add", path="hands", value=value)
    assert every_word_can_be_edited(made, "hands.0")
    assert made.groups["web"].hands[0].text()
    assert (rehearse(made, "web").result.events["time"] == 10 * 3600.0).any()


@pytest.mark.parametrize("kind", [kind for kind in HAND_KINDS if {"length", "hold"} & kind.model_fields.keys()])
def test_a_hand_that_lasts_is_moved_and_stretched(kind):
    made = of_work("requests", hands=[{**kind.start, "at": "2025-07-07T10:00"}])
    before = made.groups["web"].hands[0]
    moved = with_change(made, op="move", path="hands.0", value={"by": 600, "longer": 300}).groups["web"].hands[0]
    assert (moved.at, moved.lasts) == ("2025-07-07T10:10:00", before.lasts + 300)


@pytest.mark.parametrize(
    ("part", "kind"), [("layers", kind) for kind in LAYER_KINDS] + [("incidents", kind) for kind in INCIDENT_KINDS]
)
def test_a_sheet_of_a_demand(part, kind):
    made = of_work("requests")
    clock = Clock.of(made.start, 7, 60, made.zone)
    demand, back = changed_demand(made.demands["even"], [Change(op="add", path=part, value=kind)], clock, ["north"])
    assert [change.op for change in back] == ["remove"]
    sheet = getattr(demand, part)[-1]
    told = next(one for one in demand_sentences(demand) if one.key == f"{part}.{len(getattr(demand, part)) - 1}")
    for word in told.words:
        assert word.path is None or sheet.editor(word.path.split(".")[-1], word.value, ["north"]) is not None, word.path
    if part == "layers":
        series = sheet.series(clock, 1, 1)
        assert series.shape == (clock.ticks,)
        assert np.isfinite(series).all()
        assert (series != 1.0).any()
    else:
        assert sheet.text()
        begin, _, _ = sheet.lies(clock)
        assert clock.first < begin < clock.first + clock.seconds


def test_only_a_brought_series_needs_a_file():
    assert {kind_of(kind) for kind in get_args(Layers)} - set(LAYER_KINDS) == {"brought"}
