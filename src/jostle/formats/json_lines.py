"""In which line of a JSON text each thing stands."""

import json
import re

from jostle.core.plan.problem import Path

_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[][{},:\n]|[^][{},:"\s]+')


def json_lines(text: str, depth: int) -> dict[Path, int]:
    """The line of each path of valid JSON, no deeper than so many steps."""
    lines: dict[Path, int] = {(): 1}
    path: list[str | int] = []
    line, named = 1, False
    for found in _TOKEN.finditer(text):
        token = found[0]
        if token == "\n":
            line += 1
        elif token in ("}", "]"):
            path.pop()
        elif token == ",":
            named = False
            path[-1] = path[-1] + 1 if isinstance(path[-1], int) else ""
        elif token != ":":
            is_key = bool(path) and isinstance(path[-1], str) and not named
            if is_key:
                path[-1], named = json.loads(token), True
            if path and (is_key or isinstance(path[-1], int)) and len(path) <= depth:
                lines[tuple(path)] = line
            if token in ("{", "["):
                path.append("" if token == "{" else 0)
                named = False
    return lines
