"""Edits of a group as the page sends them: a path and a value, a policy more, a policy less."""

from datetime import datetime, timedelta
from typing import Any, Literal

from pydantic import BaseModel, Field

from jostle.api.editor import with_metric
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import setting, with_setting

_CPU = Metric.CPU.value
_STARTS: dict[str, dict[str, Any]] = {
    "add": {"kind": "trigger", "metric": _CPU, "side": "above", "threshold": 0.65, "action": "add", "amount": 1},
    "remove": {"kind": "trigger", "metric": _CPU, "side": "below", "threshold": 0.35, "action": "remove", "amount": 1},
    "hold": {"kind": "hold", "metric": _CPU, "level": 0.55},
    "spare": {"kind": "spare", "share": 0.2},
}
_ENTRIES: dict[str, dict[str, Any]] = {
    "floor": {"count": 4, "until": "12:00", "repeat": "FREQ=DAILY"},
    "bounds": {"minimum": 2, "maximum": 6, "until": "12:00", "repeat": "FREQ=DAILY"},
    "set": {"count": 4, "repeat": "FREQ=DAILY"},
    "sleep": {"until": "18:00", "repeat": "FREQ=WEEKLY;BYDAY=SA,SU"},
    "removals": {"until": "20:00", "repeat": "FREQ=DAILY"},
    "freeze": {"until": "12:00", "repeat": "FREQ=DAILY"},
}
_STEMS = {"add": "add-on-cpu", "remove": "remove-on-cpu", "hold": "hold-cpu", "spare": "keep-spare"}


class Change(BaseModel):
    """`set` a value at a path of the group; `add` to `policies` (value: add, remove, hold or spare) or to `calendar` (value: a
    kind of entry); `remove` the policy or calendar entry at a path."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(min_length=1, max_length=200)
    value: Any = None


def changed_document(document: dict[str, Any], changes: list[Change], start: datetime) -> dict[str, Any]:
    """A group's plain data with changes applied in order; new calendar entries begin on the day after `start`.

    Raises PlanError where a path leads nowhere.
    """
    for change in changes:
        match change.op:
            case "set":
                before = Group.model_validate(document) if change.path.endswith(".metric") else None
                document = with_setting(document, change.path, change.value)
                if before is not None:
                    for path, value in with_metric(document, change.path, before).items():
                        document = with_setting(document, path, value)
            case "add":
                document = _with_more(document, change, start)
            case "remove":
                one, part = setting(document, change.path), change.path.split(".")[0]
                if part not in ("policies", "calendar") or not isinstance(one, dict):
                    place = tuple(change.path.split("."))
                    raise PlanError([Problem(place, None, "only a policy or a calendar entry can be removed")])
                document = {**document, part: [other for other in document[part] if other is not one]}
    return document


def _with_more(document: dict[str, Any], change: Change, start: datetime) -> dict[str, Any]:
    """One more policy or calendar entry, under a name that is not taken."""
    known = {"policies": _STARTS, "calendar": _ENTRIES}.get(change.path, {})
    if change.value not in known:
        said = f"add to policies one of {', '.join(_STARTS)}, or to calendar one of {', '.join(_ENTRIES)}"
        raise PlanError([Problem((change.path,), change.value, said)])
    begun = dict(known[change.value])
    if change.path == "calendar":
        begun |= {"kind": change.value, "from": f"{start + timedelta(days=1):%Y-%m-%d}T08:00"}
    names = {one["name"] for one in document[change.path]}
    stem = _STEMS.get(change.value, change.value)
    name = next(n for n in (stem, *(f"{stem}-{k}" for k in range(2, 100))) if n not in names)
    return {**document, change.path: [*document[change.path], {"name": name, **begun}]}
