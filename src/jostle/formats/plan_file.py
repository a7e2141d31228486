"""Plan files: YAML 1.2 or JSON, read so that every error knows its line."""

import io
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import replace
from difflib import unified_diff
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from ruamel.yaml import YAML
from ruamel.yaml.error import MarkedYAMLError, YAMLError
from ruamel.yaml.nodes import MappingNode, Node, ScalarNode, SequenceNode

from jostle.core.change.parameter_change import with_uses
from jostle.core.plan.plan import Plan, read_plan
from jostle.core.plan.problem import Path as Place
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import positions, with_setting
from jostle.formats.json_lines import json_lines
from jostle.formats.prices_csv import read_prices
from jostle.formats.series_csv import read_series
from jostle.formats.series_error import SeriesError

MOST_TEXT = 16 * 2**20
# The reader of YAML keeps the line of everything and takes some seconds for as much
MOST_YAML = 512 * 2**10
MOST_VALUES = 100_000
MOST_DEPTH = 60
MOST_FILE = 16 * 2**20


_NESTING = re.compile(r"[][{}]")
_INDENTED = re.compile(r"^[ -]+", re.MULTILINE)


class PlanFileError(PlanError):
    """Problems of a plan file, each with its line."""

    def __init__(self, file: str, problems: list[Problem]) -> None:
        super().__init__(problems)
        self.file = file

    def __str__(self) -> str:
        return "\n".join(f"{self.file}: {problem}" for problem in self.problems)


def parse(text: str) -> tuple[Any, dict[Place, int], list[Problem]]:
    """Plain data, the line (from 1) of each path, and what is wrong with the text itself.

    JSON is read as such, without lines; a text is as long as it may be, and no longer.
    """
    if len(text) > MOST_TEXT:
        return None, {}, [Problem((), None, f"is longer than {MOST_TEXT // 2**20} MiB, the most that is read")]
    if text.lstrip().startswith("{"):
        try:
            data, problems = _json(text)
            return data, {}, problems
        except json.JSONDecodeError as error:
            # Braces begin YAML too.
            if len(text) > MOST_YAML:
                return None, {}, [Problem((), None, f"not valid YAML or JSON: {error.msg}", error.lineno)]
    return _yaml(text)


def _json(text: str) -> tuple[Any, list[Problem]]:
    """Plain data of JSON, or what is wrong with its values. Raises JSONDecodeError where it is none."""
    problems: list[Problem] = []

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        found = dict(pairs)
        if len(found) < len(pairs):
            names = [name for name, _ in pairs]
            twice = next(name for name in names if names.count(name) > 1)
            problems.append(Problem((twice,), twice, "stands here twice; keep one"))
        return found

    def no_number(text: str) -> float:
        raise ValueError(f"{text} is no number")

    try:
        data = json.loads(text, object_pairs_hook=once, parse_constant=no_number)
        return data, problems
    except json.JSONDecodeError:
        raise
    except RecursionError:
        return None, [Problem((), None, "is nested too deeply, or contains itself", 1)]
    except ValueError as error:
        return None, [Problem((), None, f"not valid YAML or JSON: {_short(error)}", 1)]


def _yaml(text: str) -> tuple[Any, dict[Place, int], list[Problem]]:
    if len(text) > MOST_YAML:
        most = MOST_YAML // 2**10
        return None, {}, [Problem((), None, f"is longer than {most} KiB, the most that is read as YAML; write it as JSON")]
    if _depth(text) > MOST_DEPTH:
        return None, {}, [Problem((), None, "is nested too deeply, or contains itself", 1)]
    reader = YAML(typ="safe", pure=True)
    try:
        # Flow style may have tabs between tokens, as JSON has.
        root = reader.compose(text.replace("\t", " ") if text.lstrip().startswith(("{", "[")) else text)
    except MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        said = error.problem or error.context or "cannot be read"
        return None, {}, [Problem((), None, f"not valid YAML or JSON: {said}", None if mark is None else mark.line + 1)]
    except (YAMLError, ValueError) as error:
        return None, {}, [Problem((), None, f"not valid YAML or JSON: {_short(error)}", 1)]
    except RecursionError:
        return None, {}, [Problem((), None, "is nested too deeply, or contains itself", 1)]
    lines: dict[Place, int] = {}
    problems: list[Problem] = []
    values = 0

    def plain(node: Node, path: Place) -> Any:
        nonlocal values
        values += 1
        lines.setdefault(path, node.start_mark.line + 1)
        if values > MOST_VALUES:
            raise PlanError([Problem((), None, f"the file holds more than {MOST_VALUES:,} values, aliases counted")])
        if len(path) > MOST_DEPTH:
            raise PlanError([Problem((), None, "is nested too deeply, or contains itself", node.start_mark.line + 1)])
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
        try:
            return _scalar(reader, node)
        except (YAMLError, ValueError, TypeError) as error:
            problems.append(Problem(path, node.value, f"cannot be read: {_short(error)}", node.start_mark.line + 1))
            return None

    return (None if root is None else plain(root, ())), lines, problems


def _depth(text: str) -> int:
    """How deeply a text may be nested at most, by its brackets and its indentation."""
    depth = deepest = 0
    for found in _NESTING.finditer(text):
        opens = found[0] in "{["
        depth = depth + 1 if opens else max(0, depth - 1)
        deepest = max(deepest, depth)
    indented = max((len(one[0]) for one in _INDENTED.finditer(text)), default=0)
    return max(deepest, indented // 4)


def _short(error: Exception) -> str:
    return str(error).strip().split("\n")[0][:200]


def _scalar(reader: YAML, node: ScalarNode) -> Any:
    kind = node.tag.rsplit(":", 1)[-1] if isinstance(node.tag, str) else str(node.tag).rsplit(":", 1)[-1]
    if kind in ("int", "float", "bool", "null"):
        return reader.constructor.construct_object(node)
    return node.value


def read_plan_text(text: str, file: str = "plan", folder: Path | None = None, settings: dict[str, Any] | None = None) -> Plan:
    """A plan from text. Files of brought series are looked for in `folder`; `settings` replace values by path.

    Raises PlanFileError with every problem at once.
    """
    lines: dict[Place, int] = {}
    data: Any = None
    try:
        data, lines, problems = parse(text)
        for path, value in (settings or {}).items():
            data = with_setting(data, path, value)
        series_problems = [*_bring(data, folder), *_bring_prices(data, folder)] if isinstance(data, dict) else []
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
        if not lines and data is not None:
            lines = json_lines(text, MOST_DEPTH)
        located = [replace(p, line=_line(lines, p.path)) if p.line is None else p for p in error.problems]
        raise PlanFileError(file, sorted(located, key=lambda p: p.line or 0)) from None


def line_of(path: Path, place: str) -> int | None:
    """The line of a plan file in which a setting stands, or the part of the plan that is nearest to it.

    `place` is a path by keys, positions and names, such as groups.web.policies.add.threshold.
    """
    data, lines, _ = _yaml(path.read_bytes().decode("utf-8-sig"))
    return _line(lines, positions(data, place))


def read_plan_file(path: Path, settings: dict[str, Any] | None = None) -> Plan:
    """A plan from a file. Raises PlanFileError."""
    try:
        if path.stat().st_size > MOST_TEXT:
            raise PlanFileError(str(path), [Problem((), None, f"is longer than {MOST_TEXT // 2**20} MiB, the most that is read")])
        text = path.read_bytes().decode("utf-8-sig")
    except FileNotFoundError:
        raise PlanFileError(str(path), [Problem((), None, "no such file")]) from None
    except OSError as error:
        raise PlanFileError(str(path), [Problem((), None, f"cannot be opened: {error.strerror}")]) from None
    except UnicodeDecodeError as error:
        raise PlanFileError(str(path), [Problem((), None, f"is not UTF-8 text: byte {error.start} is {error.reason}")]) from None
    return read_plan_text(text, str(path), path.parent, settings)


_SAID: dict[str, Any] = {"exclude_none": True, "exclude_defaults": True}


def write_plan(plan: Plan) -> str:
    """The plan as YAML, without what has its default, with parameters where they are used. Durations are seconds, shares
    fractions of one."""
    return _as_yaml(with_uses(plan, plan.model_dump(mode="json", **_SAID)))


def _as_yaml(data: dict[str, Any]) -> str:
    text = io.StringIO()
    writer = YAML(pure=True)
    writer.width = 120
    writer.default_flow_style = False
    writer.dump(data, text)
    return text.getvalue()


def group_difference(group: str, plans: Sequence[Plan], numbers: Sequence[int]) -> str:
    """A group of two plans as a unified difference of its part of the plan file."""
    before, after = (_as_yaml({group: p.groups[group].model_dump(mode="json", **_SAID)}).splitlines() for p in plans)
    first, second = (f"{group} {number}" for number in numbers)
    return "\n".join(unified_diff(before, after, first, second, lineterm="")) + "\n"


def _line(lines: dict[Place, int], path: Place) -> int | None:
    while path not in lines:
        if not path:
            return None
        path = path[:-1]
    return lines[path]


def _bring_prices(data: dict[str, Any], folder: Path | None) -> list[Problem]:
    """Read the file of spot prices into the data, in place."""
    market = data.get("market")
    if not isinstance(market, dict) or "courses" in market or not isinstance(file := market.get("file"), str):
        return []
    place: Place = ("market", "file")
    if folder is None:
        return [Problem(place, file, "a plan without a folder cannot name a file; give courses")]
    subnets = data.get("subnets")
    zones = [str(one.get("zone")) for one in subnets.values() if isinstance(one, dict)] if isinstance(subnets, dict) else []
    machines = data.get("machines")
    names = list(map(str, machines)) if isinstance(machines, dict) else []
    try:
        courses = read_prices(_beside(folder, file), _zone(data), str(data.get("currency", "EUR")), names, zones)
    except OSError as error:
        return [Problem(place, file, f"cannot be opened: {error.strerror}")]
    except SeriesError as error:
        return [Problem(place, file, str(fault)) for fault in error.faults]
    except ValueError as error:
        return [Problem(place, file, str(error))]
    market["courses"] = [course.model_dump(mode="json") for course in courses]
    return []


def _bring(data: dict[str, Any], folder: Path | None) -> list[Problem]:
    """Read the files of brought series into the data, in place."""
    problems: list[Problem] = []
    for place, holder, unit in _files_named(data):
        file = holder["file"]
        if folder is None:
            problems.append(Problem(place, file, "a plan without a folder cannot name a file; give samples"))
            continue
        try:
            gaps = holder.get("gaps", "hold" if place[0] == "outside" else "line")
            series = read_series(_beside(folder, file), _zone(data), unit, gaps if isinstance(gaps, str) else "line")
        except OSError as error:
            problems.append(Problem(place, file, f"cannot be opened: {error.strerror}"))
        except ValueError as error:
            problems.append(Problem(place, file, str(error)))
        except SeriesError as error:
            problems += [Problem(place, file, str(fault)) for fault in error.faults]
        else:
            holder["samples"] = series.samples.model_dump(mode="json")
    return problems


def _beside(folder: Path, file: str) -> bytes:
    """The content of a file that a plan names. Raises ValueError, which says why it is not read, and OSError."""
    path = (folder / file).resolve()
    if not path.is_relative_to(folder.resolve()):
        raise ValueError("lies outside the folder of the plan; bring it beside the plan file")
    if not path.exists():
        raise FileNotFoundError(2, "No such file or directory")
    if not path.is_file():
        raise ValueError("is not a file")
    if path.stat().st_size > MOST_FILE:
        raise ValueError(f"is larger than {MOST_FILE // 2**20} MiB, the most that is read")
    return path.read_bytes()


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
