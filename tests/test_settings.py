"""Every setting of a plan has its word on the page: the schema is walked, and each path looked for among words and offers."""

import re
from collections.abc import Iterator
from typing import Any, get_args, get_origin

import pytest
from pydantic import BaseModel

from jostle.api.costs_routes import Budgets
from jostle.api.editor import editor_of, site_of
from jostle.api.offer import Offer, acts_on, offers_for
from jostle.core.change.change import Change
from jostle.core.change.demand_change import changed_demand
from jostle.core.change.group_change import changed_group
from jostle.core.change.start import group_to_begin_with
from jostle.core.journal.demand_line import demand_sentences
from jostle.core.journal.frame_line import frame_sentence
from jostle.core.journal.machine_line import machine_words, prices_words
from jostle.core.journal.network_line import database_words, outside_words, rule_words, subnet_words
from jostle.core.journal.sentence import group_page
from jostle.core.journal.template_line import rules_words
from jostle.core.plan.clock import Clock
from jostle.core.plan.demand import Demand
from jostle.core.plan.group import Group
from jostle.core.plan.incident import INCIDENT_KINDS
from jostle.core.plan.layer import LAYER_KINDS, Brought
from jostle.core.plan.model import kind_of
from jostle.core.plan.outside import Samples
from jostle.core.plan.plan import Plan, read_plan, with_group
from jostle.core.plan.problem import PlanError
from jostle.core.plan.setting import setting
from jostle.core.plan.spot_prices import PriceCourse
from jostle.core.plan.template import FirewallRule
from jostle.core.plan.template_field import template_fields
from jostle.core.plan.watch import WATCH_KINDS
from jostle.core.rehearsal.rehearsal import crew_of
from tests.plans import data
from tests.test_kinds import SIZES, WORKS

BY_KIND = ("policies", "calendar", "hands", "promises")
# What a kind inherits and may not have
REFUSED = {
    "policies.*<hold>.zone": "north",
    "policies.*<hold>.series": "footfall",
    "policies.*<lookahead>.fold": "maximum",
    "calendar.*<set>.for": 3600,
    "calendar.*<set>.until": "12:00",
    "calendar.*<add>.for": 3600,
    "calendar.*<add>.until": "12:00",
    "calendar.*<rollout>.for": 3600,
    "calendar.*<rollout>.until": "12:00",
    "calendar.*<rollout>.repeat": "FREQ=DAILY",
    "calendar.*<rollout>.except": ["2025-07-08"],
    "calendar.*<rollout>.also": ["2025-07-09T08:00"],
}
# What work of every kind has and a host's may not
NOT_OF_A_HOST = {f"work<hosting>.{field}" for field in ("memory_mib_each", "kib_in", "kib_out", "kib_disk")}
# What a file brings, with how it was read: chosen where it is brought. Points of a day are dragged on their curve.
BROUGHT = {
    *("layers.*<brought>.file", "layers.*<brought>.unit", "layers.*<brought>.gaps"),
    *(f"layers.*<brought>.samples.{field}" for field in ("first", "step", "rates")),
}
# What is chosen with the metric
WITH_THE_METRIC = {"policies.*<trigger>.series"}


def models_of(annotation: Any) -> list[type[BaseModel]]:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return [annotation]
    return [model for one in get_args(annotation) for model in models_of(one)]


def settings_of(model: type[BaseModel], inside: str = "") -> Iterator[str]:
    """Paths of all settings below a model, items of lists as `*`, kinds in angle brackets."""
    for name, field in model.model_fields.items():
        path = f"{inside}{field.alias or name}"
        models = models_of(field.annotation)
        if not models and name != "kind":
            yield path
        for one in models:
            alternatives = "kind" in one.model_fields and len(get_args(one.model_fields["kind"].annotation)) == 1
            kind = f"<{kind_of(one)}>" if alternatives else ""
            item = ".*" if get_origin(field.annotation) in (list, dict) else ""
            yield from settings_of(one, f"{path}{item}{kind}.")


def in_general(path: str, document: dict[str, Any]) -> str:
    """A path of a group with its items as `*` and their kinds."""
    part, *steps = path.split(".")
    if part == "work":
        return f"work<{document['work']['kind']}>.{'.'.join(steps)}"
    for weights in ("load_balancer.weights", "buying.weights"):
        if path.startswith(f"{weights}."):
            return weights
    if part in BY_KIND and steps:
        kind = setting(document, f"{part}.{steps[0]}")["kind"]
        return ".".join([f"{part}.*<{kind}>", *("*" if step.isdecimal() else step for step in steps[1:])])
    return path


def roomy() -> Plan:
    """A plan with two zones, an outside metric, and a template whose later versions leave all open."""
    open_version = {"note": "all is left open"}
    own = {"machine": "otter-2", "boot_time": 90, "warm_up": 30, "subnets": ["north-a", "south-a"]}
    return read_plan(
        data(
            subnets={"north-a": {"zone": "north"}, "south-a": {"zone": "south"}},
            databases={"bookings": {"subnets": ["north-a"]}},
            **{
                "machines__otter-2__baseline": 0.2,
                "machines__otter-2__spot": {"level": 0.4, "zones": {"north": 0.8}, "shocks": {}, "gaps": {}},
            },
            templates={"front": {"versions": [{"machine": "otter-2", "boot_time": 100}, open_version, open_version]}},
            groups__web__launch=own,
            outside={
                "footfall": {
                    "file": "footfall.csv",
                    "samples": {"first": "2025-07-07T00:00+01:00", "step": 3600, "rates": [1.0, 2.0]},
                }
            },
        )
    )


class Walk:
    """Looks at a group's page, takes up what it offers, and looks again."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.found: set[str] = set()

    def look(self, document: dict[str, Any]) -> list[Offer]:
        plan = with_group(self.plan, "web", document)
        crew = crew_of(plan, "web")
        page = group_page(crew, plan.currency)
        for path, word in page.words.items():
            assert editor_of(word, plan, crew, site_of(plan, crew)) is not None, path
            self.found.add(in_general(path, document))
        offers = [offer for section in page.sections for offer in offers_for(section.key, crew, list(self.plan.databases))]
        for section in page.sections:
            for sentence in section.sentences:
                offers += acts_on(sentence.key, crew, site_of(plan, crew))
        for change in (change for offer in offers for change in offer.changes if change.op == "set"):
            self.found.add(in_general(change.path, document))
        return offers

    def take_up(self, document: dict[str, Any], offer: Offer) -> dict[str, Any]:
        changes = [
            change.model_copy(update={"value": {**change.value, "at": "2025-07-07T12:00"}}) if change.path == "hands" else change
            for change in offer.changes
        ]
        return changed_group(document, changes, self.plan.start.astimezone(self.plan.zone))

    def can(self, document: dict[str, Any], offer: Offer) -> bool:
        """Whether the plan does not refuse it as things are; the page says so of those that it does."""
        try:
            with_group(self.plan, "web", self.take_up(document, offer))
        except PlanError:
            return False
        return True

    def through(self, document: dict[str, Any]) -> None:
        """Everything that is offered, and then each thing that is offered for that by itself."""
        taken: set[str] = set()
        while more := [offer for offer in self.look(document) if offer.text.startswith("+") and offer.text not in taken]:
            taken.add(more[0].text)
            document = self.take_up(document, more[0]) if self.can(document, more[0]) else document
        for entry in (one for one in document["calendar"] if one["kind"] != "rollout"):
            day = f"calendar.{entry['name']}"
            document = changed_group(document, [Change(op="skip", path=day, value=1_751_932_800_000)], self.plan.start)
        for number, hand in enumerate(document["hands"]):
            if hand["kind"] == "load":
                self.look(changed_group(document, [Change(path=f"hands.{number}.waits", value=True)], self.plan.start))
        for offer in self.look(document):
            if offer.text != "take out" and self.can(document, offer):
                self.look(self.take_up(document, offer))


@pytest.fixture(scope="module")
def found() -> set[str]:
    walk = Walk(roomy())
    base = walk.plan.groups["web"].model_dump(mode="json")
    walk.through({**base, **group_to_begin_with("hosting", 0, 0), "demand": "", "policies": [], "calendar": []})
    walk.plan = with_group(walk.plan, "deck", {**base, **group_to_begin_with("hosting", 0, 0)})
    place = {"vcpus": 0.5, "memory_gib": 2}
    guest = {"template": "", "launch": {}, "host": "deck", "place": place}
    walk.through({**base, **group_to_begin_with("jobs", "60 s", 20), **guest, "policies": [], "calendar": []})
    for kind in WORKS:
        begun = group_to_begin_with(kind, SIZES[kind][0], 20)
        walk.through({**base, **begun, "policies": [], "calendar": []})
        walk.look({**base, **begun, "buying": {"swap": {}, "needs": {"without": ["heron-8"]}}})
        walk.look({**base, **begun, "buying": {"types": ["otter-2"]}, "load_balancer": {"by_power": False}})
        alone = {**base, **begun, "policies": [], "calendar": [], "minimum": 0, "start_count": None}
        walk.look({**alone, "identity": {"kept": True}})
        rolled = [{"name": "next", "kind": "rollout", "from": "2025-07-07T08:00", "to": 3, "canary": {}, "zone": "UTC"}]
        walk.through({**base, **begun, "version": 2, "calendar": rolled})
        walk.look({**alone, "buying": {}, "order": {"count": 2, "until": "2025-07-08T06:00"}})
        walk.look({**base, **begun, "buying": {"count_in": "weights", "weights": {"otter-2": 2}}})
    return walk.found


def test_every_setting_of_a_group_is_found_on_its_page(found):
    wanted = set(settings_of(Group)) - {*REFUSED, *WITH_THE_METRIC, *NOT_OF_A_HOST}
    assert len(wanted) > 150
    assert sorted(wanted - found) == []


@pytest.mark.parametrize("path", REFUSED)
def test_what_is_not_on_the_page_is_refused_in_a_file(path):
    plan = roomy()
    part, _, rest = path.partition(".*<")
    kind, _, field = rest.partition(">.")
    document = plan.groups["web"].model_dump(mode="json") | {"policies": [], "calendar": [], "version": 2}
    document = changed_group(document, [Change(op="add", path=part, value=kind)], plan.start.astimezone(plan.zone))
    assert with_group(plan, "web", document)
    document[part][0][field] = REFUSED[path]
    with pytest.raises(PlanError):
        with_group(plan, "web", document)


@pytest.mark.parametrize("path", sorted(NOT_OF_A_HOST))
def test_a_host_has_no_memory_or_traffic_of_its_own(path):
    base = roomy().groups["web"].model_dump(mode="json") | group_to_begin_with("hosting", 0, 0)
    assert with_group(roomy(), "web", base)
    base["work"][path.partition(".")[2]] = 1
    with pytest.raises(PlanError, match="less than or equal to 0"):
        with_group(roomy(), "web", base)


def test_an_outside_metric_is_chosen_with_its_series_and_left_again():
    plan = roomy()
    document = plan.groups["web"].model_dump(mode="json") | {"policies": []}
    start = plan.start.astimezone(plan.zone)
    document = changed_group(document, [Change(op="add", path="policies", value="add")], start)
    document = changed_group(document, [Change(path="policies.add-on-cpu.zone", value="south")], start)
    path = "policies.add-on-cpu.metric"
    crew = crew_of(with_group(plan, "web", document), "web")
    word = group_page(crew, plan.currency).words[path]
    choices = [choice.value for choice in editor_of(word, plan, crew, site_of(plan, crew)).choices]
    assert "outside:footfall" in choices
    outside = changed_group(document, [Change(path=path, value="outside:footfall")], start)
    policy = with_group(plan, "web", outside).groups["web"].policies[0]
    assert (policy.metric.value, policy.series, policy.zone) == ("outside", "footfall", None)
    back = changed_group(outside, [Change(path=path, value="cpu")], start)
    policy = with_group(plan, "web", back).groups["web"].policies[0]
    assert (policy.metric.value, policy.series, policy.threshold < 1) == ("cpu", None, True)


def test_every_setting_of_a_plan_is_found_on_a_screen():
    """What is neither a group's nor a demand's: the frame, the catalogue, the network, templates, budgets, watches."""
    plan = roomy()
    words = frame_sentence(plan).words + prices_words(plan.prices, plan.currency)
    words += [
        word for name, one in plan.machines.items() for column in machine_words(name, one, "EUR").values() for word in column
    ]
    words += [word for name, one in plan.subnets.items() for word in subnet_words(name, one)]
    words += [word for name, one in plan.databases.items() for word in database_words(name, one)]
    words += rules_words(plan.template_rules)
    rule = FirewallRule(ports=[443], source="10.0.0.0/8")
    words += rule_words("web-in", rule) + outside_words(plan.outside["footfall"])
    paths = [re.sub(r"\.zones\.[a-z]+$", ".zones", word.path) for word in words if word.path]
    found = {re.sub(r"^(machines|subnets|firewall|databases|outside)\.[a-z0-9-]+", r"\1.*", path) for path in paths}
    found |= {f"templates.*.versions.*.{field.name}" for field in template_fields(plan)}
    found |= {f"budgets.*.{field}" for field in Budgets.model_fields["budgets"].annotation.__args__[0].model_fields}
    for kind, model in WATCH_KINDS.items():
        watch = model.model_validate({**model.start, "quiet": {"from": "22:00", "until": "07:00"}})
        found |= {str(word.path).replace("watches.0", f"watches.*<{kind}>") for word in watch.words("watches.0")}
    apart = ("groups.", "demands.", "uses", "parameters", "jostle")
    brought = {"outside.*.file", "outside.*.gaps", *(f"outside.*.samples.{field}" for field in Samples.model_fields)}
    brought |= {"market.file", *(f"market.courses.{field}" for field in PriceCourse.model_fields)}
    stamped = {"templates.*.versions.*.made"}
    wanted = {path for path in settings_of(Plan) if not path.startswith(apart)} - brought - stamped
    assert len(wanted) > 30
    assert sorted(wanted - found) == []


def test_every_setting_of_a_demand_is_found_on_its_sheet():
    plan = roomy()
    clock = Clock.of(plan.start, 7, 60, plan.zone)
    brought = Brought(kind="brought", file="gate.csv", at="2025-07-07T00:00", samples=plan.outside["footfall"].samples)
    found = {"note", "layers.*<brought>.muted"}
    found |= {str(word.path).replace("layers.0", "layers.*<brought>") for word in brought.words("layers.0")}
    for part, kinds in (("layers", LAYER_KINDS), ("incidents", INCIDENT_KINDS)):
        for kind in kinds:
            demand, _ = changed_demand(plan.demands["even"], [Change(op="add", path=part, value=kind)], clock, ["north"])
            place = f"{part}.{len(getattr(demand, part)) - 1}"
            sentences = [one for one in demand_sentences(demand) if one.key == place]
            if kind == "load_test":
                waits, _ = changed_demand(demand, [Change(path=f"{place}.waits", value=True)], clock, ["north"])
                sentences += [one for one in demand_sentences(waits) if one.key == place]
            words = [word for sentence in sentences for word in sentence.words]
            paths = [word.path for word in words if word.path] + [f"{place}.muted"]
            found |= {
                re.sub(r"\.\d+$", "", re.sub(r"\.\d+\.", ".*.", path.replace(place, f"{part}.*<{kind}>"))) for path in paths
            }
    wanted = set(settings_of(Demand)) - {path for path in settings_of(Demand) if path in BROUGHT or ".points." in path}
    assert len(wanted) > 40
    assert sorted(wanted - found) == []
