"""What can be done with a sentence of the page, and what can be added to a section."""

from pydantic import BaseModel

from jostle.core.change.change import Change
from jostle.core.change.start import BRAKE, FAULTS
from jostle.core.plan.calendar import ENTRY_KINDS
from jostle.core.plan.group import Group
from jostle.core.plan.hand import HAND_KINDS
from jostle.core.plan.policy import POLICY_STARTS, PolicyBase
from jostle.core.plan.promise import CostPromise


class Offer(BaseModel):
    """Words on a button, and the changes that it makes. A hand among them acts at the time that the page has chosen."""

    text: str
    changes: list[Change]


class Offers(BaseModel):
    """The beginning of a sentence that the buttons end."""

    lead: str
    offers: list[Offer]


def acts_on(key: str, group: Group) -> list[Offer]:
    """What can be done with the sentence of a key."""
    part, _, name = key.partition(".")
    if part == "promises":
        kept = [promise.model_dump(mode="json") for k, promise in enumerate(group.promises) if str(k) != name]
        return [_offer("take out", "promises", kept)]
    if key in ("base_size", "first_start"):
        return [_offer("take out", key, None)]
    if key == "faults":
        return [_offer("take out", "faults", {})]
    if part == "hands":
        return [_taken_out(key)]
    if part not in ("policies", "calendar"):
        return []
    one = next(each for each in (*group.policies, *group.calendar) if each.name == name)
    offers = [_offer("resume" if one.paused else "pause", f"{key}.paused", not one.paused)]
    if isinstance(one, PolicyBase):
        offers += [_offer(act.text, f"{key}.{act.field}", act.value) for act in one.acts()]
    if part == "calendar":
        other = getattr(one, "zone", None) is None
        offers.append(_offer("another time zone" if other else "the plan's time zone", f"{key}.zone", "UTC" if other else None))
    return [*offers, _taken_out(key)]


def offers_for(section: str, group: Group) -> Offers | None:
    """What can be added to a section of the page."""
    match section:
        case "runs":
            found = []
            if group.base_size is None:
                found.append(_offer("owns only some", "base_size", max(1, group.minimum)))
            if group.first_start is None:
                found.append(_offer("starts from nothing", "first_start", {"surplus": 0}))
            pays = "gives its load balancer up" if group.load_balancer else "pays for a load balancer"
            return Offers(lead="A group that ", offers=[*found, _offer(pays, "load_balancer", not group.load_balancer)])
        case "promises":
            promises = [promise.model_dump(mode="json") for promise in group.promises]
            found = [_offer(group.work.promised, "promises", [*promises, group.work.promise])]
            if not any(isinstance(promise, CostPromise) for promise in group.promises):
                found.append(_offer("a cost", "promises", [*promises, CostPromise.start]))
            return Offers(lead="Promise ", offers=found)
        case "policies":
            return Offers(
                lead="A policy that ", offers=[_added("policies", name, start.verb) for name, (_, start) in POLICY_STARTS.items()]
            )
        case "calendar":
            return Offers(
                lead="An entry that ", offers=[_added("calendar", name, kind.verb) for name, kind in ENTRY_KINDS.items()]
            )
        case "leaving":
            brake = group.leaving.brake is not None
            offer = _offer("no brake" if brake else "a brake", "leaving.brake", None if brake else BRAKE)
            return Offers(lead="With ", offers=[offer])
        case "mending" if group.faults.every is None and not group.faults.never_boots:
            return Offers(lead="Rehearse it with ", offers=[_offer("faults", "faults", FAULTS)])
        case "hands":
            offers = [Offer(text=kind.verb, changes=[Change(op="add", path="hands", value=kind.start)]) for kind in HAND_KINDS]
            return Offers(lead="At the chosen time a hand ", offers=offers)
        case _:
            return None


def _offer(text: str, path: str, value: object) -> Offer:
    return Offer(text=text, changes=[Change(op="set", path=path, value=value)])


def _added(path: str, kind: str, text: str) -> Offer:
    return Offer(text=text, changes=[Change(op="add", path=path, value=kind)])


def _taken_out(key: str) -> Offer:
    return Offer(text="take out", changes=[Change(op="remove", path=key)])
