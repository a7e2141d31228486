"""Edits of a group as the page sends them: a path and a value, a policy more, a policy less."""

from typing import Any, Literal

from pydantic import BaseModel, Field

from jostle.api.editor import with_metric
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import setting, with_setting

PolicyStart = Literal["add", "remove", "hold"]
_CPU = Metric.CPU.value
_STARTS: dict[str, dict[str, Any]] = {
    "add": {"kind": "trigger", "metric": _CPU, "side": "above", "threshold": 0.65, "action": "add", "amount": 1},
    "remove": {"kind": "trigger", "metric": _CPU, "side": "below", "threshold": 0.35, "action": "remove", "amount": 1},
    "hold": {"kind": "hold", "metric": _CPU, "level": 0.55},
}


class Change(BaseModel):
    """`set` a value at a path of the group; `add` a policy (value: add, remove or hold); `remove` the one at a path."""

    op: Literal["set", "add", "remove"] = "set"
    path: str = Field(min_length=1, max_length=200)
    value: Any = None


def changed_document(document: dict[str, Any], changes: list[Change]) -> dict[str, Any]:
    """A group's plain data with changes applied in order. Raises PlanError where a path leads nowhere."""
    for change in changes:
        match change.op:
            case "set":
                before = Group.model_validate(document) if change.path.endswith(".metric") else None
                document = with_setting(document, change.path, change.value)
                if before is not None:
                    for path, value in with_metric(document, change.path, before).items():
                        document = with_setting(document, path, value)
            case "add":
                document = _with_policy(document, change)
            case "remove":
                policy = setting(document, change.path)
                if not change.path.startswith("policies.") or not isinstance(policy, dict):
                    raise PlanError([Problem(tuple(change.path.split(".")), None, "only a policy can be removed")])
                document = {**document, "policies": [p for p in document["policies"] if p is not policy]}
    return document


def _with_policy(document: dict[str, Any], change: Change) -> dict[str, Any]:
    if change.path != "policies" or change.value not in _STARTS:
        raise PlanError([Problem((change.path,), change.value, "add to policies one of add, remove, hold")])
    names = {policy["name"] for policy in document["policies"]}
    stem = {"add": "add-on-cpu", "remove": "remove-on-cpu", "hold": "hold-cpu"}[change.value]
    name = next(n for n in (stem, *(f"{stem}-{k}" for k in range(2, 100))) if n not in names)
    return {**document, "policies": [*document["policies"], {"name": name, **_STARTS[change.value]}]}
