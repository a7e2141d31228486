"""What can be done with a sentence of the page, and what can be added to a section."""

from collections.abc import Mapping, Sequence
from functools import cache
from typing import Literal

from pydantic import BaseModel, Field

from jostle.core.change.change import Change
from jostle.core.change.start import BRAKE, FAULTS
from jostle.core.change.starts import balancer_of
from jostle.core.engine.compile import Crew
from jostle.core.journal.sentence import lower_first
from jostle.core.plan.calendar import ENTRY_KINDS
from jostle.core.plan.hand import HAND_KINDS
from jostle.core.plan.incident import INCIDENT_KINDS
from jostle.core.plan.layer import LAYER_KINDS, Sheet
from jostle.core.plan.policy import POLICY_STARTS, PolicyBase, Site
from jostle.core.plan.promise import CostPromise, ServingPromise
from jostle.core.plan.rollout import Rollout
from jostle.core.plan.template_field import FIELDS, SheetField
from jostle.core.plan.work import Requests, Sessions
from jostle.core.plan.work.base import USES


class Offer(BaseModel):
    """Words on a button, and the changes that it makes. A hand among them acts at the time that the page has chosen."""

    text: str
    changes: list[Change]
    also: str = Field(default="", description="Words of the trade by which it is found")


def acts_on(key: str, crew: Crew, site: Site) -> list[Offer]:
    """What can be done with the sentence of a key."""
    group = crew.group
    part, _, name = key.partition(".")
    if part == "promises":
        promise = group.promises[int(name)].model_dump(mode="json")
        return [Offer(text="take out", changes=[Change(op="remove", path="promises", value=promise)])]
    if key == "load_balancer":
        return _acts_on_balancer(crew)
    if key == "buying":
        swaps = group.buying is not None and group.buying.swap is not None
        return [
            *_machines(crew),
            *_bought_besides(crew),
            _offer("− swaps" if swaps else "+ swaps", "buying.swap", None if swaps else {}, "replace cheaper rebalance"),
            _offer("take out", key, None),
        ]
    if key in ("owned", "first_start", "database", "notice", "order", "identity"):
        return [_offer("take out", key, None)]
    if key == "launch":
        return [
            _offer(f"+ {lower_first(field.label).partition(',')[0]}", f"launch.{field.name}", field.start)
            for field in _optional(crew)
        ]
    if key == "uses":
        return [_several("take out", "work", dict.fromkeys(USES, 0.0))]
    if key == "faults":
        return [_offer("take out", "faults", {})]
    if part == "hands":
        return [_taken_out(key)]
    if part not in ("policies", "calendar"):
        return []
    one = next(each for each in (*group.policies, *group.calendar) if each.name == name)
    offers = [_offer("resume" if one.paused else "pause", f"{key}.paused", not one.paused)]
    if isinstance(one, PolicyBase):
        offers += [_several(act.text, key, act.values, op=act.op) for act in one.acts(site)]
    else:
        offers += [_several(act.text, key, act.values, op=act.op) for act in one.acts()]
        other = getattr(one, "zone", None) is None
        offers.append(_offer("another time zone" if other else "the plan's time zone", f"{key}.zone", "UTC" if other else None))
    return [*offers, _taken_out(key)]


def _bought_besides(crew: Crew) -> list[Offer]:
    """What else can be said of how they are bought, and taken out again."""
    buying = crew.group.buying
    if buying is None:
        return []
    cap = round(float(crew.machine.price_per_hour) * buying.caps.price, 4)
    return [
        _offer("+ a most for an hour", "buying.caps.amount", cap, "cap price maximum bid")
        if buying.caps.amount is None
        else _offer("− the most for an hour", "buying.caps.amount", None),
        _offer(
            "− waiting for spot" if buying.wait else "+ waiting for spot", "buying.wait", 0 if buying.wait else 300.0, "fallback"
        ),
    ]


def _machines(crew: Crew) -> list[Offer]:
    """What can be said of the machines that are bought."""
    buying = crew.group.buying
    if buying is not None and buying.needs is not None:
        needs, machine = buying.needs, crew.machine
        more = [
            ("+ a most of vCPUs", "most_vcpus", machine.vcpus),
            ("+ an architecture", "architecture", machine.architecture),
            ("+ families", "families", [crew.launch.machine.partition("-")[0]]),
            ("+ a most in price", "price", 1.5),
            ("+ not these", "without", [one.launch.machine for one in crew.types[-1:] if len(crew.types) > 1]),
        ]
        open_ones = [(text, field, value) for text, field, value in more if not getattr(needs, field) and value]
        return [
            *(_offer(text, f"buying.needs.{field}", value, "instance types attributes") for text, field, value in open_ones),
            _offer("− needs", "buying.needs", None),
        ]
    if buying is not None and buying.types:
        return [_offer("− machines", "buying.types", [])]
    asked = {"vcpus": crew.machine.vcpus, "most_vcpus": crew.machine.vcpus, "memory_gib": crew.machine.memory_gib}
    return [
        _offer("+ machines by needs", "buying.needs", asked, "instance types flexible diversify family attributes"),
        _offer("+ machines by name", "buying.types", [crew.launch.machine], "instance types flexible diversify"),
    ]


def _acts_on_balancer(crew: Crew) -> list[Offer]:
    balancer = crew.group.load_balancer
    if balancer is None:
        return []
    offers = []
    if isinstance(crew.group.work, Requests) and not balancer.sticky:
        stays = "connections that last" if balancer.whole_connections else "clients that stay"
        offers.append(_offer(f"+ {stays}", "load_balancer.sticky", 600.0, "sticky affinity session"))
    version = crew.launch.version
    if isinstance(crew.group.work, Requests) and version not in balancer.weights:
        offers.append(_offer(f"+ a weight for version {version}", f"load_balancer.weights.{version}", 0.5, "weight share canary"))
    if isinstance(crew.group.work, Requests) and balancer.by_power and len(crew.types) > 1:
        offers.append(_offer("+ the same for each machine", "load_balancer.by_power", False, "round robin unweighted"))
    if balancer.weights:
        offers.append(_offer("− weights", "load_balancer.weights", {}))
    if balancer.subnets is None and crew.launch.fields.subnets:
        offers.append(_offer("+ where it stands", "load_balancer.subnets", crew.launch.fields.subnets, "subnet zone"))
    return [*offers, _offer("take out", "load_balancer", None)]


def offers_for(section: str, crew: Crew, databases: Sequence[str] = ()) -> list[Offer]:
    """What can be added to a section of the page, or taken from it."""
    group = crew.group
    match section:
        case "runs":
            offers = []
            if group.owned is None and group.host is None:
                offers.append(_offer("+ owned instances", "owned", max(1, group.minimum), "owned overflow reserve"))
            if group.first_start is None:
                offers.append(
                    _offer(
                        f"+ start with no {'instances' if group.host is None else 'copies'}",
                        "first_start",
                        {"surplus": 0},
                        "cold start from zero",
                    )
                )
            if group.start_version is None and crew.launch.version > 1:
                offers.append(_offer("+ start with an older version", "start_version", crew.launch.version - 1, "template"))
            if group.load_balancer is None:
                offers.append(
                    _offer(
                        "+ load balancer", "load_balancer", balancer_of(crew.launch.fields), "balancer listener port price cost"
                    )
                )
            if group.buying is None and group.host is None:
                offers.append(
                    _offer("+ spot", "buying", {"on_demand": {"first": max(1, group.minimum)}}, "market mix cheap reclaim")
                )
            if group.buying is not None and group.order is None:
                offers.append(_offer("+ order", "order", {"count": max(1, group.maximum // 2)}, "request once kept batch bulk"))
            if group.buying is not None and len(crew.types) > 1 and group.unit == "instance" and not crew.rolls_out:
                offers.append(_offer("+ count in vCPUs", "buying.count_in", "vcpus", "units weights capacity size"))
                offers.append(_offer("+ count in units", "buying.count_in", "weights", "weights capacity size"))
            if group.identity is None and group.host is None:
                offers.append(_offer("+ names of instances", "identity", {}, "identity hostname stateful kept disk"))
            if group.database is None and databases:
                offers.append(_offer("+ database", "database", databases[0], "attached allow list"))
            return offers
        case "work":
            offers = []
            if not group.work.use_words and not group.hosts:
                offers.append(_several("+ memory, network and disk", "work", USES, "ram throughput traffic io"))
            return offers
        case "promises":
            also = "service level objective target"
            offers = [_added("promises", group.work.promise, group.work.promised, also)]
            if not any(isinstance(promise, ServingPromise) for promise in group.promises):
                offers.append(_added("promises", ServingPromise.start, "minimum serving", "floor availability capacity"))
            if not any(isinstance(promise, CostPromise) for promise in group.promises):
                offers.append(_added("promises", CostPromise.start, "cost limit", "budget price spend"))
            return offers
        case "calendar" | "policies" if group.order is not None:
            # An order alone says how many there are
            return []
        case "calendar":
            return [*_of_kinds(section), *_rollouts(crew)]
        case "policies" if group.hosts:
            return [offer for offer in _of_kinds(section) if offer.changes[0].value != "lookahead"]
        case "policies" | "hands":
            return _of_kinds(section)
        case "leaving":
            brake = group.leaving.brake is not None
            text = "− brake on removals" if brake else "+ brake on removals"
            offers = [_offer(text, "leaving.brake", None if brake else BRAKE, "rate limit scale in")]
            if group.notice is None and isinstance(group.work, Sessions):
                offers.append(_offer("+ notice before leaving", "notice", {}, "warn people message drain"))
            if not group.leaving.pinned:
                offers.append(_offer("+ pinned instances", "leaving.pinned", 1, "protect keep never removed"))
            return offers
        case "mending":
            offers = []
            if not group.health.healthy_after:
                offers.append(_offer("+ checks before it serves", "health.healthy_after", 2, "healthy threshold passed"))
            if group.faults.every is None and not group.faults.never_boots:
                offers.append(_offer("+ faults to rehearse", "faults", FAULTS, "failure chaos broken instances"))
            return offers
        case _:
            return []


@cache
def _of_kinds(section: str) -> list[Offer]:
    """What can be added to a section whatever the group is."""
    if section == "policies":
        return [_added(section, name, start.offer, start.trade) for name, (_, start) in POLICY_STARTS.items()]
    if section == "calendar":
        return [_added(section, name, kind.offer, kind.trade) for name, kind in ENTRY_KINDS.items() if kind is not Rollout]
    return [_added(section, kind.start, f"{kind.offer} then", kind.trade) for kind in HAND_KINDS]


def _rollouts(crew: Crew) -> list[Offer]:
    """The newest version brought in, from the one before where it runs already."""
    newest = crew.launch.versions
    if crew.group.host is not None or newest == 1:
        return []
    begun = Change(op="add", path="calendar", value="rollout")
    before = [Change(op="set", path="version", value=newest - 1)] if crew.launch.version == newest else []
    return [Offer(text=f"+ {Rollout.offer}", changes=[*before, begun], also=Rollout.trade)]


def _optional(crew: Crew) -> list[SheetField]:
    """Fields that a template need not have and this one has not, nor the group."""
    return [field for field in FIELDS if field.start and getattr(crew.launch.fields, field.name) is None]


def sheets_for(part: str) -> list[Offer]:
    """What can be added to the layers or the incidents of a demand."""
    kinds: Mapping[str, type[Sheet]] = LAYER_KINDS if part == "layers" else INCIDENT_KINDS
    return [_added(part, name, kind.offer, kind.trade) for name, kind in kinds.items()]


def _offer(text: str, path: str, value: object, also: str = "") -> Offer:
    return Offer(text=text, changes=[Change(op="set", path=path, value=value)], also=also)


def _several(
    text: str, inside: str, values: Mapping[str, object], also: str = "", op: Literal["set", "add", "remove"] = "set"
) -> Offer:
    changes = [Change(op=op, path=f"{inside}.{field}", value=value) for field, value in values.items()]
    return Offer(text=text, changes=changes, also=also)


def _added(path: str, value: object, text: str, also: str) -> Offer:
    return Offer(text=f"+ {text}", changes=[Change(op="add", path=path, value=value)], also=also)


def _taken_out(key: str) -> Offer:
    return Offer(text="take out", changes=[Change(op="remove", path=key)])
