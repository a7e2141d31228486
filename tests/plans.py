"""Small plans for tests, as plain data that each test changes to its needs."""

import copy
from typing import Any

from jostle.core.change.plan_change import without_group
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.setting import with_setting

BASE: dict[str, Any] = {
    "jostle": 1,
    "name": "Quay",
    "time_zone": "Atlantic/Faroe",
    "start": "2025-07-07T00:00",
    "days": 1,
    "tick": "10 s",
    "machines": {"otter-2": {"vcpus": 2, "memory_gib": 8, "price_per_hour": "0.36"}},
    "templates": {"front": {"machine": "otter-2", "boot_time": "100 s", "warm_up": "50 s"}},
    "demands": {"even": {"layers": [{"kind": "level", "rate": "30/s"}]}},
    "groups": {
        "web": {
            "template": "front",
            "minimum": 1,
            "maximum": 10,
            "work": {"kind": "requests", "cpu_seconds": "100 ms", "timeout": "20 s", "arrivals": "evenly"},
            "demand": "even",
            "drain": 0,
            "meters": {"period": "60 s", "delay": "30 s"},
            "policies": [],
        }
    },
}
ADD = {
    "kind": "trigger",
    "name": "add",
    "metric": "cpu",
    "side": "above",
    "threshold": "70 %",
    "window": "60 s",
    "action": "add",
    "amount": 1,
    "cooldown": "5 min",
}
REMOVE = {**ADD, "name": "remove", "side": "below", "threshold": "30 %", "action": "remove"}
HOLD = {"kind": "hold", "name": "hold", "metric": "cpu", "level": "50 %", "window": "60 s", "cooldown": "3 min"}


def data(**settings: Any) -> dict[str, Any]:
    """The small plan with settings by path, dots written as double underscores: groups__web__minimum=2."""
    changed = copy.deepcopy(BASE)
    for path, value in settings.items():
        changed = with_setting(changed, path.replace("__", "."), value)
    return changed


def only(made: Plan, *names: str) -> Plan:
    """A plan with some of its groups alone, and what is about them."""
    # Guests stand after their hosts, and go first
    for name in reversed(list(made.groups)):
        made = made if name in names else without_group(made, name)
    return made


def plan(**settings: Any) -> Plan:
    return read_plan(data(**settings))
