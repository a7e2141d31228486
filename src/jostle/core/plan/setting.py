"""Changing one setting by its path: `groups.booking-web.policies.add-on-cpu.threshold`.

A step into a list is a position, or the name (or else the kind) of the item, so that a path still means the same
when the order changes.
"""

import copy
from typing import Any

from jostle.core.plan.problem import PlanError, Problem

# Parts of a plan or a group that have defaults and so may be left out.
SECTIONS = (
    *("parameters", "prices", "template_rules"),
    *(
        "launch",
        "first_start",
        "leaving",
        "brake",
        "load_balancer",
        "weights",
        "notice",
        "order",
        "identity",
        "buying",
        "on_demand",
        "caps",
        "swap",
        "needs",
        "spot",
        "shocks",
        "gaps",
        "health",
        "mending",
        "faults",
        "meters",
        "canary",
        "place",
    ),
)


def position_of(step: str, length: int) -> int | None:
    """The position that a step names in a list of so many; None where it names none."""
    number = int(step) if step.isascii() and step.isdigit() and len(step) < 8 else length
    return number if number < length else None


def _find(here: Any, step: str, walked: tuple[str, ...]) -> str | int:
    if isinstance(here, dict):
        return step
    if isinstance(here, list):
        if (number := position_of(step, len(here))) is not None:
            return number
        for key in ("name", "kind"):
            for position, item in enumerate(here):
                if isinstance(item, dict) and item.get(key) == step:
                    return position
        known = ", ".join(str(item.get("name") or item.get("kind")) for item in here if isinstance(item, dict))
        raise PlanError([Problem((*walked, step), step, f"is not in this list; there is: {known or 'nothing'}")])
    raise PlanError([Problem((*walked, step), step, "leads nowhere: the step before it is a plain value")])


def setting(data: Any, path: str) -> Any:
    """The value at a path of plain data, or None where an optional field is left out."""
    here: Any = data
    walked: tuple[str, ...] = ()
    for step in path.split("."):
        key = _find(here, step, walked)
        here = here.get(key) if isinstance(here, dict) else here[key]
        walked = (*walked, step)
    return here


def with_setting(data: Any, path: str, value: Any) -> Any:
    """Plain data with the value at a path replaced; what does not lie on the path is shared with `data`. Raises PlanError where
    the path leads nowhere."""
    changed = here = copy.copy(data)
    walked: tuple[str, ...] = ()
    *steps, last = path.split(".")
    for step in steps:
        key = _find(here, step, walked)
        walked = (*walked, step)
        if isinstance(here, dict):
            if key in SECTIONS and here.get(str(key)) is None:
                here[key] = {}
            if key not in here:
                raise PlanError([Problem(walked, step, f"leads nowhere; there is: {', '.join(map(str, here))}")])
        here[key] = copy.copy(here[key])
        here = here[key]
    here[_find(here, last, walked)] = value
    return changed


def positions(data: Any, path: str) -> tuple[str | int, ...]:
    """A path's steps with names of list items as their positions, as far as the path leads into the data."""
    here, walked = data, ()
    steps: list[str | int] = []
    for step in path.split("."):
        try:
            key = _find(here, step, walked)
            here = here.get(key) if isinstance(here, dict) else here[key]
        except PlanError:
            break
        steps.append(key)
    return tuple(steps)
