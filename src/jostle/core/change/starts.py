"""Arrangements to begin from, by what a group is for; each choice has its reason. Like a set table: eat, or move the forks."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any, NamedTuple

from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.template import LaunchFields
from jostle.core.plan.work import WORK_KINDS, KindOfWork

# A piece of work to begin with, and seats of an instance
SIZES: dict[KindOfWork, str] = {"requests": "50 ms", "jobs": "20 s", "sessions": "15 min"}
SEATS = 100


class Start(NamedTuple):
    """`settings` are a group's by field; times of the calendar are those of the day on which the plan begins. `reasons` say why,
    by the sentence of the page that they are about. `layers` are a demand that it suits, for a plan that has none."""

    title: str
    what: str
    kind: KindOfWork
    minimum: int
    maximum: int
    settings: Mapping[str, Any]
    reasons: Mapping[str, str]
    layers: tuple[Mapping[str, Any], ...]
    balancer: bool = False


_DAY = {
    "kind": "daily",
    "points": [
        {"at": at, "factor": factor}
        for at, factor in (("00:00", 0.4), ("04:00", 0.25), ("09:00", 1.3), ("13:00", 1.0), ("18:00", 1.4), ("22:00", 0.7))
    ],
}
_OFFICE = {
    "kind": "daily",
    "points": [
        {"at": at, "factor": factor}
        for at, factor in (("06:30", 0.0), ("08:00", 1.0), ("12:00", 0.6), ("14:00", 1.2), ("17:00", 0.9), ("18:30", 0.0))
    ],
}
_NOISE = {"kind": "noise", "spread": 0.08, "period": 60}
_ASKED = {"basis": "load_balancer", "interval": 15, "unhealthy_after": 3, "grace": 360}
_REMOVE = {
    "name": "remove-on-cpu",
    "kind": "trigger",
    "metric": "cpu",
    "side": "below",
    "threshold": 0.35,
    "window": 600,
    "action": "remove",
    "amount": 1,
    "cooldown": 300,
}
_WEB = {
    "health": "The load balancer asks: it alone sees an instance that runs and does not answer.",
    "leaving": "The oldest version goes first, so that new ones come in by and by; the brake lets no mistake empty the group.",
}

STARTS: dict[str, Start] = {
    "even-web": Start(
        "An even web service",
        "requests that follow the day and change slowly",
        "requests",
        2,
        12,
        {
            "promises": [{"kind": "answers", "share": 0.99, "within": 0.5}],
            "policies": [{"name": "hold-cpu", "kind": "hold", "metric": "cpu", "level": 0.55, "window": 240, "cooldown": 300}],
            "health": _ASKED,
            "leaving": {"criteria": ["oldest_version", "oldest"], "brake": {"at_most": 2, "within": 600}},
            "drain": 120,
        },
        {
            "runs": "Two at least: one may break, or be replaced, while the other serves.",
            "policies.hold-cpu": "One number to hold is enough where the load changes slowly; 55 % leaves room for a boot.",
            **_WEB,
        },
        ({"kind": "level", "rate": 60}, _DAY, _NOISE),
        True,
    ),
    "web-with-rushes": Start(
        "A web service with rushes",
        "requests that may be three times as many within minutes",
        "requests",
        3,
        30,
        {
            "promises": [{"kind": "answers", "share": 0.97, "within": 0.5}],
            "policies": [
                {
                    "name": "add-on-cpu",
                    "kind": "trigger",
                    "metric": "cpu",
                    "side": "above",
                    "threshold": 0.55,
                    "window": 120,
                    "action": "add",
                    "amount": 1,
                    "bands": [{"beyond": 0.7, "amount": 3}, {"beyond": 0.85, "amount": 6}],
                    "cooldown": 240,
                },
                {**_REMOVE, "threshold": 0.3},
            ],
            "health": _ASKED,
            "leaving": {"criteria": ["oldest_version", "oldest"], "brake": {"at_most": 3, "within": 900}},
            "drain": 120,
        },
        {
            "runs": "Three at least: the first minutes of a rush are met with what is there.",
            "policies.add-on-cpu": "The further beyond, the larger the step: a rush is caught up with in a wait or two.",
            "policies.remove-on-cpu": "Slow to remove: the next rush often follows the last.",
            **_WEB,
        },
        (
            {"kind": "level", "rate": 60},
            _DAY,
            {"kind": "surge", "at": "T12:00", "factor": 3, "ramp": 600, "hold": 1800, "decay": 3600},
            _NOISE,
        ),
        True,
    ),
    "job-bursts": Start(
        "Jobs in bursts",
        "piles that arrive a few times a day and are to be done soon",
        "jobs",
        0,
        20,
        {
            "promises": [{"kind": "age", "share": 0.95, "within": 600}],
            "policies": [
                {
                    "name": "pile",
                    "kind": "trigger",
                    "metric": "backlog",
                    "fold": "latest",
                    "side": "above",
                    "threshold": 20,
                    "window": 60,
                    "action": "add",
                    "amount": 2,
                    "bands": [{"beyond": 60, "amount": 6}, {"beyond": 200, "amount": 12}],
                    "cooldown": 180,
                },
                {**_REMOVE, "name": "idle", "threshold": 0.25, "amount": 2, "window": 360, "cooldown": 180},
            ],
            "start_count": 1,
            "drain": 120,
        },
        {
            "runs": "None between the piles: nothing is paid for while there is nothing to do.",
            "policies.pile": "The pile itself is watched: with no instance there is no CPU, and nothing would ever be added.",
            "policies.idle": "Removed two at a time once they idle: a pile ends as suddenly as it came.",
        },
        ({"kind": "bursts", "at": ["06:00", "09:00", "12:00", "15:00"], "amount": 600, "over": 1200}, _NOISE),
    ),
    "night-jobs": Start(
        "Jobs overnight",
        "work that has until the morning, and may be interrupted",
        "jobs",
        0,
        16,
        {
            "promises": [{"kind": "age", "share": 0.95, "within": 28800}],
            "policies": [
                {
                    "name": "pile",
                    "kind": "trigger",
                    "metric": "backlog",
                    "fold": "latest",
                    "side": "above",
                    "threshold": 50,
                    "window": 60,
                    "action": "add",
                    "amount": 4,
                    "cooldown": 600,
                },
                {**_REMOVE, "name": "idle", "threshold": 0.2, "amount": 4, "window": 600},
            ],
            "start_count": 0,
            "drain": 120,
            "buying": {"on_demand": {"first": 0}, "choose": "cheapest", "caps": {"price": 0.7}},
        },
        {
            "runs": "None by day.",
            "policies.pile": "Four at a time, with a long wait: the night is long, and fewer instances longer cost the same.",
            "buying": "All spot, in the cheapest zone: what is taken back is begun again, and the morning is far.",
        },
        ({"kind": "bursts", "at": ["22:00"], "amount": 4000, "over": 3600}, _NOISE),
    ),
    "sessions": Start(
        "People's sessions",
        "people who take a seat and stay, and are not to be thrown out",
        "sessions",
        2,
        16,
        {
            "promises": [{"kind": "seats", "share": 0.995}],
            "policies": [{"name": "spare-seats", "kind": "spare", "share": 0.2, "window": 120, "cooldown": 240}],
            "health": _ASKED,
            "leaving": {"criteria": ["fewest_sessions", "newest"]},
            "drain": 2700,
        },
        {
            "policies.spare-seats": "A fifth of the seats free: as many as come while an instance boots.",
            "leaving": "The one with the fewest sessions goes, and drains for three mean sessions: one in twenty is left then.",
            "health": _WEB["health"],
        },
        ({"kind": "level", "rate": 0.4}, _DAY),
        True,
    ),
    "office-hours": Start(
        "An office-hours tool",
        "nobody there at night and at the weekend",
        "requests",
        1,
        6,
        {
            "promises": [{"kind": "answers", "share": 0.95, "within": 1}],
            "policies": [
                {
                    "name": "add-on-cpu",
                    "kind": "trigger",
                    "metric": "cpu",
                    "side": "above",
                    "threshold": 0.6,
                    "window": 240,
                    "action": "add",
                    "amount": 1,
                    "cooldown": 360,
                },
                _REMOVE,
            ],
            "calendar": [
                {
                    "name": "nights",
                    "kind": "sleep",
                    "from": "T19:00",
                    "until": "07:00",
                    "repeat": "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH",
                    "ready_by": True,
                },
                {
                    "name": "weekend",
                    "kind": "sleep",
                    "from": "FT19:00",
                    "for": 216000,
                    "repeat": "FREQ=WEEKLY;BYDAY=FR",
                    "ready_by": True,
                },
            ],
            "drain": 60,
        },
        {
            "runs": "One is enough for a tool that may be away for a minute.",
            "calendar.nights": "Asleep from seven to seven it costs its disks only; it is woken early enough to serve at seven.",
            "calendar.weekend": "Sixty hours a week for nothing else than leaving.",
            "policies.remove-on-cpu": "Ten minutes below before one goes: people come back from a meeting.",
        },
        ({"kind": "level", "rate": 12}, _OFFICE, {"kind": "weekdays", "saturday": 0, "sunday": 0}, _NOISE),
    ),
    "zone-loss": Start(
        "A service that outlives the loss of a zone",
        "what must go on when a third of it is gone at once",
        "requests",
        3,
        18,
        {
            "promises": [{"kind": "answers", "share": 0.99, "within": 0.5}],
            "policies": [
                {"name": "hold-cpu", "kind": "hold", "metric": "cpu", "level": 0.4, "window": 180, "cooldown": 240},
                {
                    "name": "rescue",
                    "kind": "trigger",
                    "metric": "cpu",
                    "side": "above",
                    "threshold": 0.75,
                    "window": 60,
                    "action": "add",
                    "amount": 3,
                    "cooldown": 180,
                },
            ],
            "health": _ASKED,
            "mending": {"restarts": 0},
            "leaving": {"criteria": ["oldest_version", "oldest"], "balance_zones": True, "brake": {"at_most": 2, "within": 600}},
            "drain": 120,
        },
        {
            "runs": "One in each of three zones at least, so that two are left whatever happens.",
            "policies.hold-cpu": "Held at 40 %: what is left of three zones then runs at 60 %, before anything has booted.",
            "policies.rescue": "Three at once where it still is not enough: a zone's worth.",
            "mending": "Replaced at once, elsewhere: a machine in a lost zone does not come back for being restarted.",
            **_WEB,
        },
        ({"kind": "level", "rate": 90}, _DAY, _NOISE),
        True,
    ),
}


def started(name: str, begin: datetime, sold_as_spot: bool) -> dict[str, Any]:
    """The settings of a start, on the days of a plan that begins then. What is bought as spot is left out where none is sold."""
    made = {field: value for field, value in STARTS[name].settings.items() if field != "buying" or sold_as_spot}
    if "calendar" in made:
        made["calendar"] = [{**entry, "from": on_day(entry["from"], begin)} for entry in made["calendar"]]
    return made


def on_day(at: str, begin: datetime) -> str:
    """A time on the day on which a plan begins, `T12:00`, or on the first Friday from then on, `FT19:00`."""
    day = begin.date() + timedelta(days=(4 - begin.weekday()) % 7 if at.startswith("F") else 0)
    return f"{day}{at.removeprefix('F')}"


def plan_of_start(document: dict[str, Any], name: str, group: str) -> Plan:
    """A plan, from plain data with a template, machines and subnets, with one group made from a start and its demand. Raises
    PlanError."""
    if name not in STARTS:
        raise PlanError([Problem(("start",), name, f"no start has this name; there is: {', '.join(STARTS)}")])
    start, bare = STARTS[name], read_plan(document)
    begin = bare.start.astimezone(bare.zone)
    template = next(iter(bare.templates))
    machine = bare.templates[template].versions[-1].machine or next(iter(bare.machines))
    made = {
        "template": template,
        "minimum": start.minimum,
        "maximum": start.maximum,
        "demand": "as-it-comes",
        "load_balancer": balancer_of(bare.templates[template].versions[-1]) if start.balancer else None,
        "work": WORK_KINDS[start.kind].sized(SIZES[start.kind], SEATS),
        **started(name, begin, bare.machines[machine].spot is not None),
    }
    layers = [{**layer, "at": on_day(layer["at"], begin)} if layer["kind"] == "surge" else layer for layer in start.layers]
    demands = {"as-it-comes": {"note": f"{start.title}: {start.what}", "layers": layers}}
    return read_plan({**document, "name": start.title, "demands": demands, "groups": {group: made}})


def balancer_of(version: LaunchFields) -> dict[str, Any]:
    """A load balancer that hands on to the port that the health check asks, where the template names one."""
    return {} if version.check_port is None else {"target": version.check_port}
