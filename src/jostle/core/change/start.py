"""What everything begins with that is added: values that make sense before anybody has touched them."""

from typing import Any

from jostle.core.plan.layer import Daily, Level, Noise
from jostle.core.plan.model import kind_of
from jostle.core.plan.policy import POLICY_STARTS, SparePolicy
from jostle.core.plan.work import WORK_KINDS

BRAKE: dict[str, Any] = {"at_most": 2, "within": 600.0}
FAULTS: dict[str, Any] = {"every": 30 * 86400.0}
FIREWALL_RULE: dict[str, Any] = {"ports": [443], "source": "10.0.0.0/8"}
STARTING_LAYERS = [{"kind": kind, **layer.start} for kind, layer in (("level", Level), ("daily", Daily), ("noise", Noise))]


def policy_to_begin_with(name: str, work: str = "requests") -> dict[str, Any]:
    """A policy that can be added to a group with work of a kind, by the name of its start, with the stem of its own name."""
    kind, start = POLICY_STARTS[name]
    of = {"of": "memory"} if work == "hosting" and kind is SparePolicy else {}
    return {"name": start.stem, "kind": kind_of(kind), **start.values, **of}


def subnet_to_begin_with(zones: list[str]) -> dict[str, Any]:
    return {"zone": zones[0] if zones else "north"}


def group_to_begin_with(kind: str, size: Any, seats: int) -> dict[str, Any]:
    """Work of a kind and size, with a promise and policies that suit it."""
    work = WORK_KINDS[kind]
    policies = [policy_to_begin_with(one, kind) if isinstance(one, str) else one for one in work.policies]
    return {"work": work.sized(size, seats), "promises": [work.promise], "policies": policies}
