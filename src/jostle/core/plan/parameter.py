"""Parameters of a plan: named values with defaults, written `${name}` where they are used."""

import re
from typing import Any

from jostle.core.plan.problem import Path, Problem

_USE = re.compile(r"\$\{([a-z0-9_-]+)\}")
Scalar = str | int | float | bool


def with_parameters(data: dict[str, Any]) -> tuple[dict[str, Any], list[Problem]]:
    """Plain data with every use of a parameter replaced by its value, and the uses of parameters that there are not.

    A text that is nothing but a use takes the value as it is, number or text; within a longer text it is written in.
    """
    known = data.get("parameters") or {}
    if not isinstance(known, dict):
        return data, []
    problems: list[Problem] = []

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
        return known[whole[1]] if whole else _USE.sub(lambda use: str(known[use[1]]), value)

    return {key: value if key == "parameters" else filled(value, (key,)) for key, value in data.items()}, problems
