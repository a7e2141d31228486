"""What is wrong with an input, in words that help: the place, the value, and what would be right."""

import difflib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from types import UnionType
from typing import Any, TypeVar, Union, get_args, get_origin

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

Path = tuple[str | int, ...]
# More than anybody reads of what is wrong with one input
MOST_PROBLEMS = 50


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong. `line` counts from 1 where the input was a text file."""

    path: Path
    value: Any
    message: str
    line: int | None = None

    @property
    def place(self) -> str:
        return ".".join(str(step) for step in self.path)

    def __str__(self) -> str:
        place = f"line {self.line}: " if self.line is not None else ""
        if not self.place and self.value is None:
            return f"{place}{self.message}"
        return f"{place}{self.place or 'the plan'}: {shown(self.value)}: {self.message}"


class PlanError(ValueError):
    """An input that cannot be used, with every problem found in it."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        super().__init__("\n".join(str(problem) for problem in problems))
        self.problems = list(problems)


def shown(value: Any) -> str:
    """A value as it may stand in a sentence: short, on one line."""
    if value is None:
        return "nothing"
    if isinstance(value, int) and abs(value) > 10**60:
        return "a number of very many digits"
    try:
        text = json.dumps(value if not isinstance(value, str) else value[:100], ensure_ascii=False, default=str)
    except (TypeError, ValueError, RecursionError):
        text = type(value).__name__
    return text if len(text) <= 60 else f"{text[:57]}..."


M = TypeVar("M", bound=BaseModel)


def validated(model: type[M], data: Any) -> M:
    """Plain data as an object of a model. Raises PlanError with paths within the data."""
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise PlanError(problems_of(error, model)) from None


def problems_of(error: ValidationError, model: type[BaseModel]) -> list[Problem]:
    """The problems of a failed validation, one for each place. Paths lack the tags of unions."""
    problems = []
    for detail in error.errors(include_url=False)[:MOST_PROBLEMS]:
        path, within = _place(detail["loc"], model)
        kind, value = detail["type"], detail.get("input")
        if kind == "missing":
            problems.append(Problem(path, None, "is missing and has no default"))
        elif kind == "extra_forbidden":
            problems.append(Problem(path, value, _unknown(str(path[-1]), within)))
        elif kind == "union_tag_not_found":
            problems.append(
                Problem(
                    (*path, "kind"), None, f"is missing; one of {detail['ctx']['discriminator']} is needed to tell what this is"
                )
            )
        elif kind == "union_tag_invalid":
            tag = value.get("kind") if isinstance(value, dict) else value
            problems.append(Problem((*path, "kind"), tag, f"must be one of {detail['ctx']['expected_tags']}"))
        else:
            message = detail["msg"].removeprefix("Value error, ").replace("Input should be", "must be")
            problems.append(Problem(path, value, message))
    if (more := error.error_count() - len(problems)) > 0:
        problems.append(Problem((), None, f"and {more:,} more things are wrong"))
    return problems


def _unknown(key: str, model: type[BaseModel]) -> str:
    known, formerly = _fields(model), getattr(model, "formerly", {})
    close = [formerly[key]] if key in formerly else difflib.get_close_matches(key, known, n=1)
    return f"is not a field here; did you mean {close[0]}?" if close else f"is not a field here; there is {', '.join(known)}"


def _models(annotation: Any) -> list[type[BaseModel]]:
    """Every model class that an annotation mentions, outermost first."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return [annotation]
    return [model for part in get_args(annotation) for model in _models(part)]


def _place(loc: tuple[str | int, ...], model: type[BaseModel]) -> tuple[Path, type[BaseModel]]:
    """Follow a location through the models: the path without union tags, and the last model."""
    path: list[str | int] = []
    here: Any = model
    within = model
    for step in loc:
        origin = get_origin(here)
        if isinstance(here, type) and issubclass(here, BaseModel):
            within = here
            path.append(step)
            field = _field(here, str(step))
            here = field.annotation if field else Any
        elif origin in (list, dict):
            path.append(step)
            here = get_args(here)[-1]
        elif isinstance(step, str) and (tagged := [m for m in _models(here) if _tag(m) == step]):
            here = tagged[0]
        elif origin in (Union, UnionType) and len(found := _models(here)) == 1:
            here = within = found[0]
            path.append(step)
            field = _field(here, str(step))
            here = field.annotation if field else Any
        elif step != "[key]":
            path.append(step)
        while get_origin(here) is not None and hasattr(here, "__metadata__"):
            here = get_args(here)[0]
    return tuple(path), within


def _fields(model: type[BaseModel]) -> list[str]:
    """The fields of a model as they are written."""
    return [field.alias or name for name, field in model.model_fields.items()]


def _field(model: type[BaseModel], written: str) -> FieldInfo | None:
    return next((field for name, field in model.model_fields.items() if written in (name, field.alias)), None)


def _tag(model: type[BaseModel]) -> str | None:
    kind = model.model_fields.get("kind")
    values = get_args(kind.annotation) if kind else ()
    return values[0] if values else None
