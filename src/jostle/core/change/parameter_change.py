"""Parameters of a plan: what is written with them, and what follows when one of them changes."""

from typing import Any

from jostle.core.plan.parameter import Scalar, used_in
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import positions, setting, with_setting


def with_uses(plan: Plan, document: dict[str, Any]) -> dict[str, Any]:
    """A plan's plain data in which parameters stand as `${name}` wherever that still means what the plan says.

    A setting that was changed since stays as it is.
    """
    document = {key: value for key, value in document.items() if key != "uses"}
    if not plan.uses:
        return document
    now = plan.model_dump(mode="json")
    left = {path: text for path, text in plan.uses.items() if _is_there(document, path)}
    while left:
        written = document
        for path, text in left.items():
            written = with_setting(written, path, text)
        try:
            meant = read_plan(written).model_dump(mode="json")
        except PlanError as error:
            wrong = {problem.path for problem in error.problems}
            kept = {path: text for path, text in left.items() if not _is_one_of(written, path, wrong)}
            left = kept if len(kept) < len(left) else {}
            continue
        stray = [path for path in left if setting(meant, path) != setting(now, path)]
        if not stray:
            return written
        left = {path: text for path, text in left.items() if path not in stray}
    return document


def _is_there(document: dict[str, Any], path: str) -> bool:
    inside = path.rpartition(".")[0]
    try:
        return not inside or setting(document, inside) is not None
    except (PlanError, AttributeError, TypeError):
        return False


def _is_one_of(document: dict[str, Any], path: str, places: set[Any]) -> bool:
    steps = tuple(map(str, positions(document, path)))
    return any(tuple(map(str, place))[: len(steps)] == steps for place in places)


def uses_of(plan: Plan) -> dict[str, list[str]]:
    """Paths of the settings that follow each parameter."""
    document = with_uses(plan, plan.model_dump(mode="json"))
    followed: dict[str, list[str]] = {name: [] for name in plan.parameters}
    for path, text in plan.uses.items():
        for name in set(used_in(text)) & followed.keys():
            if _is_there(document, path) and setting(document, path) == text:
                followed[name].append(path)
    return followed


def with_parameter(plan: Plan, name: str, value: Scalar) -> Plan:
    """A plan in which a parameter has another value, and every setting that follows it. Raises PlanError."""
    if name not in plan.parameters:
        raise PlanError([Problem(("parameters", name), value, f"is not there; there is: {', '.join(plan.parameters) or 'none'}")])
    document = with_uses(plan, plan.model_dump(mode="json"))
    return read_plan({**document, "parameters": {**plan.parameters, name: value}})
