"""Plan files: YAML 1.2 or JSON, read so that every error knows its line."""

import io
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.nodes import MappingNode, Node, ScalarNode, SequenceNode

from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import Path as Place
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import positions, with_setting
from jostle.formats.series_csv import read_series
from jostle.formats.series_error import SeriesError

MOST_VALUES = 2_000_000


class PlanFileError(PlanError):
    """Problems of a plan file, each with its line."""

    def __init__(self, file: str, problems: list[Problem]) -> None:
        super().__init__(problems)
        self.file = file

    def __str__(self) -> str:
        return "\n".join(f"{self.file}: {problem}" for problem in self.problems)


def parse(text: str) -> tuple[Any, dict[Place, int], list[Problem]]:
    """Plain data, the line (from 1) of each path, and what is wrong with the text itself."""
    reader = YAML(typ="safe", pure=True)
    try:
        # JSON is YAML but for tabs between tokens; inside its strings a raw tab is not allowed anyway.
        root = reader.compose(text.replace("\t", " ") if text.lstrip().startswith(("{", "[")) else text)
    except MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        said = error.problem or error.context or "cannot be read"
        return None, {}, [Problem((), None, f"not valid YAML or JSON: {said}", None if mark is None else mark.line + 1)]
    except YAMLError as error:
        return None, {}, [Problem((), None, f"not valid YAML or JSON: {error}", 1)]
    lines: dict[Place, int] = {}
    problems: list[Problem] = []

    def plain(node: Node, path: Place) -> Any:
        lines.setdefault(path, node.start_mark.line + 1)
        if len(lines) > MOST_VALUES:
            raise PlanError([Problem(path, None, f"the file holds more than {MOST_VALUES:,} values")])
        if isinstance(node, MappingNode):
            found: dict[str, Any] = {}
            for key_node, value_node in node.value:
                key = str(key_node.value)
                lines[(*path, key)] = key_node.start_mark.line + 1
                if key in found:
                    line = key_node.start_mark.line + 1
                    problems.append(Problem((*path, key), key, "stands here twice; keep one", line))
                found[key] = plain(value_node, (*path, key))
            return found
        if isinstance(node, SequenceNode):
            return [plain(item, (*path, position)) for position, item in enumerate(node.value)]
        assert isinstance(node, ScalarNode)
        return _scalar(reader, node)

    try:
        return (None if root is None else plain(root, ())), lines, problems
    except RecursionError:
        return None, lines, [Problem((), None, "is nested too deeply, or contains itself", 1)]


def _scalar(reader: YAML, node: ScalarNode) -> Any:
    kind = node.tag.rsplit(":", 1)[-1] if isinstance(node.tag, str) else str(node.tag).rsplit(":", 1)[-1]
    if kind in ("int", "float", "bool", "null"):
        return reader.constructor.construct_object(node)
    return node.value


def read_plan_text(text: str, file: str = "plan", folder: Path | None = None, settings: dict[str, Any] | None = None) -> Plan:
    """A plan from text. Files of brought series are looked for in `folder`; `settings` replace values by path.

    Raises PlanFileError with every problem at once.
    """
    try:
        data, lines, problems = parse(text)
        for path, value in (settings or {}).items():
            data = with_setting(data, path, value)
        series_problems = _bring(data, folder) if isinstance(data, dict) else []
        if data is None and problems:
            raise PlanError(problems)
        try:
            plan = read_plan(data)
        except PlanError as error:
            raise PlanError(problems + series_problems + error.problems) from None
        if problems or series_problems:
            raise PlanError(problems + series_problems)
        return plan
    except PlanError as error:
        located = [replace(p, line=_line(lines, p.path)) if p.line is None else p for p in error.problems]
        raise PlanFileError(file, sorted(located, key=lambda p: p.line or 0)) from None


def line_of(path: Path, place: str) -> int | None:
    """The line of a plan file in which a setting stands, or the part of the plan that is nearest to it.

    `place` is a path by keys, positions and names, such as groups.web.policies.add.threshold.
    """
    data, lines, _ = parse(path.read_bytes().decode("utf-8-sig"))
    return _line(lines, positions(data, place))


def read_plan_file(path: Path, settings: dict[str, Any] | None = None) -> Plan:
    """A plan from a file. Raises PlanFileError."""
    try:
        text = path.read_bytes().decode("utf-8-sig")
    except OSError as error:
        raise PlanFileError(str(path), [Problem((), None, f"cannot be opened: {error.strerror}")]) from None
    except UnicodeDecodeError as error:
        raise PlanFileError(str(path), [Problem((), None, f"is not UTF-8 text: byte {error.start} is {error.reason}")]) from None
    return read_plan_text(text, str(path), path.parent, settings)


def write_plan(plan: Plan) -> str:
    """The plan as YAML, without what has its default. Durations are seconds, shares fractions of one."""
    text = io.StringIO()
    writer = YAML(pure=True)
    writer.width = 120
    writer.default_flow_style = False
    writer.dump(plan.model_dump(mode="json", exclude_none=True, exclude_defaults=True), text)
    return text.getvalue()


def _line(lines: dict[Place, int], path: Place) -> int | None:
    while path not in lines:
        if not path:
            return None
        path = path[:-1]
    return lines[path]


def _bring(data: dict[str, Any], folder: Path | None) -> list[Problem]:
    """Read the files of brought series into the data, in place."""
    problems: list[Problem] = []
    for place, holder, unit in _files_named(data):
        file = holder["file"]
        if folder is None:
            problems.append(Problem(place, file, "a plan without a folder cannot name a file; give samples"))
            continue
        try:
            series = read_series(
                (folder / file).read_bytes(), _zone(data), unit, holder.get("gaps", "hold" if place[0] == "outside" else "line")
            )
        except OSError as error:
            problems.append(Problem(place, file, f"cannot be opened: {error.strerror}"))
        except SeriesError as error:
            problems += [Problem(place, file, str(fault)) for fault in error.faults]
        else:
            holder["samples"] = series.samples.model_dump(mode="json")
    return problems


def _files_named(data: dict[str, Any]) -> Iterator[tuple[Place, dict[str, Any], str | None]]:
    """Each part of the data that names a file and has no samples yet: its place, itself, the unit of the values.

    The values of an outside metric are taken as they stand.
    """
    demands, outside = data.get("demands"), data.get("outside")
    for name, demand in demands.items() if isinstance(demands, dict) else ():
        layers = demand.get("layers") if isinstance(demand, dict) else None
        for number, layer in enumerate(layers if isinstance(layers, list) else ()):
            brought = isinstance(layer, dict) and layer.get("kind") == "brought" and "samples" not in layer
            if brought and isinstance(layer.get("file"), str):
                yield ("demands", name, "layers", number, "file"), layer, layer.get("unit")
    for name, series in outside.items() if isinstance(outside, dict) else ():
        if isinstance(series, dict) and "samples" not in series and isinstance(series.get("file"), str):
            yield ("outside", name, "file"), series, "requests_per_second"


def _zone(data: dict[str, Any]) -> ZoneInfo:
    try:
        return ZoneInfo(str(data.get("time_zone")))
    except (KeyError, ValueError, OSError):
        return ZoneInfo("UTC")
