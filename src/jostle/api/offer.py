"""What can be done with a sentence of the page, and what can be added to a section."""

from pydantic import BaseModel

from jostle.core.change.change import Change
from jostle.core.change.start import BRAKE, COST_PROMISE, FAULTS, PROMISES
from jostle.core.plan.group import Group
from jostle.core.plan.policy import MOST_BANDS, TriggerPolicy
from jostle.core.plan.promise import CostPromise


class Offer(BaseModel):
    """Words on a button, and the changes that it makes. A hand among them acts at the time that the page has chosen."""

    text: str
    changes: list[Change]


class Offers(BaseModel):
    """The beginning of a sentence that the buttons end."""

    lead: str
    offers: list[Offer]


_POLICIES = {"add": "adds", "remove": "removes", "hold": "holds a level", "spare": "keeps some free"}
_ENTRIES = {
    "floor": "keeps at least so many",
    "bounds": "bounds the count",
    "set": "sets it",
    "sleep": "sleeps",
    "removals": "lets removals in",
    "freeze": "freezes",
}
_HANDS = {"kill": "kills an instance", "stress": "burns the CPU of one", "set": "sets the count", "pin": "pins one"}
_PROMISES = {"requests": "so many answers in time", "jobs": "jobs taken up in time", "sessions": "seats for so many"}


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
    if isinstance(one, TriggerPolicy):
        offers += _of_trigger(one, key)
    if part == "calendar":
        other = getattr(one, "zone", None) is None
        offers.append(_offer("another time zone" if other else "the plan's time zone", f"{key}.zone", "UTC" if other else None))
    return [*offers, _taken_out(key)]


def _of_trigger(policy: TriggerPolicy, key: str) -> list[Offer]:
    bands = [band.model_dump(mode="json") for band in policy.bands]
    last = bands[-1] if bands else {"beyond": policy.threshold, "amount": policy.amount}
    farther = last["beyond"] * (1.25 if policy.side == "above" else 0.75)
    another = {"beyond": round(farther, 6), "amount": last["amount"] + 1}
    offers = [_offer("a band", f"{key}.bands", [*bands, another])] if len(bands) < MOST_BANDS else []
    if bands:
        offers.append(_offer("a band less", f"{key}.bands", bands[:-1]))
    if policy.action != "set":
        percent = policy.of == "percent"
        offers.append(_offer("by number" if percent else "by per cent", f"{key}.of", "instances" if percent else "percent"))
    return offers


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
            kind = group.work.kind
            found = [_offer(_PROMISES[kind], "promises", [*promises, PROMISES[kind]])]
            if not any(isinstance(promise, CostPromise) for promise in group.promises):
                found.append(_offer("a cost", "promises", [*promises, COST_PROMISE]))
            return Offers(lead="Promise ", offers=found)
        case "policies":
            return Offers(lead="A policy that ", offers=[_added("policies", kind, text) for kind, text in _POLICIES.items()])
        case "calendar":
            return Offers(lead="An entry that ", offers=[_added("calendar", kind, text) for kind, text in _ENTRIES.items()])
        case "leaving":
            brake = group.leaving.brake is not None
            offer = _offer("no brake" if brake else "a brake", "leaving.brake", None if brake else BRAKE)
            return Offers(lead="With ", offers=[offer])
        case "mending" if group.faults.every is None and not group.faults.never_boots:
            return Offers(lead="Rehearse it with ", offers=[_offer("faults", "faults", FAULTS)])
        case "hands":
            offers = [
                Offer(
                    text=text,
                    changes=[Change(op="add", path="hands", value={"kind": kind, **({"count": 6} if kind == "set" else {})})],
                )
                for kind, text in _HANDS.items()
            ]
            return Offers(lead="At the chosen time a hand ", offers=offers)
        case _:
            return None


def _offer(text: str, path: str, value: object) -> Offer:
    return Offer(text=text, changes=[Change(op="set", path=path, value=value)])


def _added(path: str, kind: str, text: str) -> Offer:
    return Offer(text=text, changes=[Change(op="add", path=path, value=kind)])


def _taken_out(key: str) -> Offer:
    return Offer(text="take out", changes=[Change(op="remove", path=key)])
