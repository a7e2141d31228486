"""What everything begins with that is added: values that make sense before anybody has touched them."""

from typing import Any

from jostle.core.plan.metric import Metric

_ON_CPU: dict[str, Any] = {"kind": "trigger", "metric": Metric.CPU.value}
POLICIES: dict[str, dict[str, Any]] = {
    "add": {**_ON_CPU, "side": "above", "threshold": 0.65, "action": "add", "amount": 1},
    "remove": {**_ON_CPU, "side": "below", "threshold": 0.35, "action": "remove", "amount": 1},
    "hold": {"kind": "hold", "metric": Metric.CPU.value, "level": 0.55},
    "spare": {"kind": "spare", "share": 0.2},
}
STEMS = {"add": "add-on-cpu", "remove": "remove-on-cpu", "hold": "hold-cpu", "spare": "keep-spare"}
# An entry begins at eight unless it says when
ENTRIES: dict[str, dict[str, Any]] = {
    "floor": {"count": 4, "until": "12:00", "repeat": "FREQ=DAILY"},
    "bounds": {"minimum": 2, "maximum": 6, "until": "12:00", "repeat": "FREQ=DAILY"},
    "set": {"count": 4, "repeat": "FREQ=DAILY"},
    "sleep": {"at": "20:00", "until": "06:00", "repeat": "FREQ=DAILY"},
    "removals": {"until": "20:00", "repeat": "FREQ=DAILY"},
    "freeze": {"until": "12:00", "repeat": "FREQ=DAILY"},
}
# By the kind of work
PROMISES: dict[str, dict[str, Any]] = {
    "requests": {"kind": "answers", "share": 0.95, "within": 0.5},
    "jobs": {"kind": "age", "share": 0.95, "within": 600.0},
    "sessions": {"kind": "seats", "share": 0.99},
}
COST_PROMISE: dict[str, Any] = {"kind": "cost", "at_most": "300"}
BRAKE: dict[str, Any] = {"at_most": 2, "within": 600.0}
FAULTS: dict[str, Any] = {"every": 30 * 86400.0}
_FIRST_POLICIES: dict[str, list[dict[str, Any]]] = {
    "requests": [{"name": STEMS[kind], **POLICIES[kind]} for kind in ("add", "remove")],
    "jobs": [
        {
            "name": "add-on-backlog",
            "kind": "trigger",
            "metric": Metric.BACKLOG_PER_INSTANCE.value,
            "fold": "latest",
            "side": "above",
            "threshold": 20,
            "action": "add",
            "amount": 1,
        },
        {"name": STEMS["remove"], **POLICIES["remove"]},
    ],
    "sessions": [{"name": "spare-seats", **POLICIES["spare"]}],
}

_HOURS = (("00:00", 0.4), ("04:00", 0.25), ("09:00", 1.2), ("13:00", 1.0), ("18:00", 1.3), ("22:00", 0.7))
LAYERS: dict[str, dict[str, Any]] = {
    "level": {"rate": 20.0},
    "daily": {"points": [{"at": at, "factor": factor} for at, factor in _HOURS]},
    "weekdays": {"saturday": 0.7, "sunday": 0.6},
    "growth": {"weekly": 0.02},
    "scale": {"factor": 1.5},
    "bursts": {"at": ["09:00"], "amount": 600.0, "over": 600.0},
    "surge": {"factor": 3.0, "ramp": 900.0, "hold": 1800.0, "decay": 3600.0},
    "load_test": {"clients": 100.0, "each": 1.0, "ramp": 600.0, "hold": 1800.0},
    "noise": {"spread": 0.1, "period": 60.0},
}
INCIDENTS: dict[str, dict[str, Any]] = {
    "zone_lost": {"for": 1800.0},
    "no_capacity": {"for": 3600.0},
    "slow_boots": {"factor": 4.0, "for": 3600.0},
    "slow_dependency": {"extra": 0.3, "for": 1800.0},
    "breaking": {"share": 0.3, "fault": "hung"},
}
STARTING_LAYERS = [{"kind": kind, **LAYERS[kind]} for kind in ("level", "daily", "noise")]


def group_to_begin_with(work: dict[str, Any]) -> dict[str, Any]:
    """Work of a kind, with a promise and policies that suit it."""
    return {"work": work, "promises": [PROMISES[work["kind"]]], "policies": _FIRST_POLICIES[work["kind"]]}
