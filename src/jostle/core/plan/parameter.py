"""Parameters of a plan: named values with defaults, written `${name}` where they are used."""

import math
import re
from typing import Any

from jostle.core.plan.problem import Path, Problem

_USE = re.compile(r"\$\{([a-z0-9_-]+)\}")
Scalar = str | int | float | bool


def with_parameters(data: dict[str, Any]) -> tuple[dict[str, Any], dict[str, str], list[Problem]]:
    """Plain data with every use of a parameter replaced by its value, the uses as they are written, by the path at which a plan
    has them, and what is wrong with them.

    A text that is nothing but a use takes the value as it is, number or text; within a longer text it is written in.
    """
    known = data.get("parameters") or {}
    if not isinstance(known, dict):
        return data, {}, []
    problems: list[Problem] = []
    uses: dict[str, str] = {}

    def filled(value: Any, path: Path) -> Any:
        if isinstance(value, dict):
            return {key: filled(one, (*path, key)) for key, one in value.items()}
        if isinstance(value, list):
            return [filled(one, (*path, number)) for number, one in enumerate(value)]
        if not isinstance(value, str) or "${" not in value:
            return value
        missing = [name for name in _USE.findall(value) if name not in known]
        if missing:
            names = ", ".join(known) or "none"
            problems.append(Problem(path, value, f"no parameter is called {missing[0]}; there is: {names}"))
            return value
        whole = _USE.fullmatch(value)
        if _USE.search(value):
            uses[_place(data, path)] = value
        return known[whole[1]] if whole else _USE.sub(lambda use: str(known[use[1]]), value)

    apart = ("parameters", "uses")
    return {key: value if key in apart else filled(value, (key,)) for key, value in data.items()}, uses, problems


def _place(data: Any, path: Path) -> str:
    """A path by names of list items rather than by their positions, as the plan has it once it is read."""
    here, steps = data, []
    for depth, step in enumerate(path):
        here = here[step]
        named = isinstance(step, int) and isinstance(here, dict) and isinstance(here.get("name"), str)
        steps.append(here["name"] if named else str(step))
        if depth == 1 and path[0] == "templates" and "versions" not in here:
            steps += ["versions", "0"]
    return ".".join(steps)


def used_in(text: str) -> list[str]:
    """Names of the parameters that a text uses."""
    return _USE.findall(text)


def read_scalar(text: str) -> Scalar:
    """A parameter's value as it is typed: a number where it is one, yes or no, else the text."""
    plain = text.strip()
    for kind in (int, float):
        try:
            value = kind(plain)
        except ValueError:
            continue
        return value if math.isfinite(value) else plain
    return {"true": True, "false": False, "yes": True, "no": False}.get(plain.lower(), plain)
