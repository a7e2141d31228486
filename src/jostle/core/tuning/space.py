"""What may vary: settings of a group, each within a range, in its own unit and steps."""

import math
from collections.abc import Callable
from itertools import combinations
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from jostle.core.journal.sentence import group_page
from jostle.core.plan.balancer import SPREADS
from jostle.core.plan.buying import CHOICES
from jostle.core.plan.group import Group
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import setting, with_setting
from jostle.core.rehearsal.rehearsal import crew_of

MOST_VARIED = 12
# Parts of a range without steps in which its end is looked for
FINE = 1000
# What may vary and is no number, with its choices
CHOSEN: dict[str, list[Any]] = {"buying.choose": list(CHOICES), "load_balancer.spread": list(SPREADS)}
TYPES, MOST_TYPES_VARIED = "buying.types", 5


def choices_of(path: str, document: dict[str, Any]) -> list[Any] | None:
    """The choices among which a setting of a group may vary, in their order; None where it is a number. Of the machines that may
    serve the first always does, with any of the others."""
    if path != TYPES:
        return CHOSEN.get(path)
    names = (document.get("buying") or {}).get("types") or []
    if not 2 <= len(names) <= MOST_TYPES_VARIED:
        return None
    return [[names[0], *some] for many in range(len(names)) for some in combinations(names[1:], many)]


class Varied(BaseModel):
    """A setting that may vary: its path under the group, and the lowest and the highest value, both in the plan's base unit, or
    places among the choices that there are. `step` is 0 where any value between will do."""

    model_config = ConfigDict(frozen=True)

    path: str = Field(max_length=200)
    low: float = Field(allow_inf_nan=False)
    high: float = Field(allow_inf_nan=False)
    step: float = Field(default=0.0, ge=0, allow_inf_nan=False)

    @property
    def whole(self) -> bool:
        """Whether all its values are whole numbers of what is counted."""
        return self.step >= 1 and self.step == int(self.step) and self.low == int(self.low)

    def snapped(self, value: float) -> float:
        """The nearest value that it may have."""
        if self.step:
            value = self.low + round((value - self.low) / self.step) * self.step
        return float(f"{min(self.high, max(self.low, value)):.6g}")


def usual_space(group: Group) -> list[Varied]:
    """The settings that policies have, within ranges around what makes sense for them; at most so many."""
    found = [
        Varied(path=f"policies.{policy.name}.{reach.field}", low=reach.low, high=reach.high, step=reach.step)
        for policy in group.policies
        if not policy.paused and (policy.adds or policy.removes)
        for reach in policy.reaches(group.meters.period)
    ]
    return found[:MOST_VARIED]


def checked_space(space: list[Varied], plan: Plan, group: str) -> list[Varied]:
    """The same space, each range as far as it holds together with the group's other settings. Raises PlanError where a setting is
    none of the group's, or none of its range can be."""
    problems: list[Problem] = []
    if not space:
        problems.append(Problem(("vary",), None, "nothing may vary; name a setting such as policies.add.threshold"))
    if len(space) > MOST_VARIED:
        problems.append(Problem(("vary",), len(space), f"at most {MOST_VARIED} settings may vary at once"))
    document, held = plan.groups[group].model_dump(mode="json"), []
    for one in space:
        place = ("vary", one.path)
        try:
            value = setting(document, one.path)
        except PlanError as error:
            problems += [Problem(place, one.path, p.message) for p in error.problems]
            continue
        if (known := choices_of(one.path, document)) is not None and value in known:
            if (one.low, one.high, one.step) != (0, len(known) - 1, 1):
                said = ", ".join(" or ".join(each) if isinstance(each, list) else each for each in known)
                problems.append(Problem(place, f"{one.low:g} to {one.high:g}", f"varies over all of {said}"))
            elif one.path == TYPES and value[0] != (usual := crew_of(plan, group).launch.machine):
                problems.append(Problem(place, ", ".join(value), f"name {usual} first, which the template launches"))
            held.append(one)
        elif one.path == TYPES:
            said = f"name two to {MOST_TYPES_VARIED} machines as types, for the others than the first to vary"
            problems.append(Problem(place, None, said))
        elif isinstance(value, bool) or not isinstance(value, int | float):
            problems.append(Problem(place, one.path, "is no number, and cannot vary over a range"))
        elif not one.low < one.high:
            problems.append(Problem(place, f"{one.low:g} to {one.high:g}", "is an empty range; write the lower end first"))
        else:
            try:
                held.append(holding(one, plan, group))
            except PlanError as error:
                problems += [Problem(place, f"{one.low:g} to {one.high:g}", p.message) for p in error.problems[:1]]
    if problems:
        raise PlanError(problems)
    return held


def holding(one: Varied, plan: Plan, group: str) -> Varied:
    """A range of numbers as far as it holds together with the group's other settings: a threshold not past the first step of its
    ladder, a minimum not past the maximum. Raises PlanError where none of it does."""
    document = plan.groups[group].model_dump(mode="json")

    def refused(value: float) -> PlanError | None:
        try:
            with_group(plan, group, applied(document, {one.path: as_written(one, value)}))
        except PlanError as error:
            return error
        return None

    ends = {end: refused(end) for end in (one.low, one.high)}
    if all(error is None for error in ends.values()):
        return one
    inside = [one.snapped(float(setting(document, one.path))), one.low, one.high]
    sure = next((value for value in inside if (ends[value] if value in ends else refused(value)) is None), None)
    if sure is None:
        raise next(error for error in ends.values() if error is not None)
    fine = one.step or (one.high - one.low) / FINE
    low, high = (end if error is None else _last(sure, end, fine, refused) for end, error in ends.items())
    if not low < high:
        raise next(error for error in ends.values() if error is not None)
    return one.model_copy(update={"low": low, "high": high})


def _last(sure: float, end: float, step: float, refused: Callable[[float], PlanError | None]) -> float:
    """The last value that can be on the way, in steps, from one that can to an end that cannot."""
    way = math.copysign(step, end - sure)
    can, cannot = 0, math.ceil(abs(end - sure) / step - 1e-9)
    while cannot - can > 1:
        middle = (can + cannot) // 2
        if refused(float(f"{sure + middle * way:.6g}")) is None:
            can = middle
        else:
            cannot = middle
    return float(f"{sure + can * way:.6g}")


def applied(document: dict[str, Any], values: dict[str, float]) -> dict[str, Any]:
    """A group's plain data with settings by path. The starting count follows the minimum."""
    for path, value in values.items():
        known = choices_of(path, document)
        document = with_setting(document, path, value if known is None or isinstance(value, str) else known[int(value)])
    return document


def among_choices(path: str, document: dict[str, Any]) -> Varied | None:
    """What is no number, over all of its choices; None for what has none."""
    known = choices_of(path, document)
    return None if known is None else Varied(path=path, low=0, high=len(known) - 1, step=1)


def as_it_is(document: dict[str, Any], path: str) -> float:
    """What a setting is now, or which of its choices."""
    value, known = setting(document, path), choices_of(path, document)
    return value if known is None else float(known.index(value))


def as_written(one: Varied, value: float) -> float:
    """A value as a plan file has it: a whole number where what is counted is whole."""
    return int(value) if one.whole else value


def typed(space: list[Varied], values: dict[str, float]) -> dict[str, float]:
    """Values as a plan file has them: whole numbers where what is counted is whole."""
    return {one.path: as_written(one, one.snapped(values[one.path])) for one in space}


def said(plan: Plan, group: str, values: dict[str, float]) -> dict[str, str]:
    """Values in words, as the page says them."""
    document = applied(plan.groups[group].model_dump(mode="json"), values)
    words = group_page(crew_of(with_group(plan, group, document), group), plan.currency).words
    return {path: words[path].text if path in words else f"{value:g}" for path, value in values.items()}


def steps_of(one: Varied) -> int:
    """How many values it may have; 0 for any number."""
    return 1 + math.floor((one.high - one.low) / one.step + 1e-9) if one.step else 0
