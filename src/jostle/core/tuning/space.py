"""What may vary: settings of a group, each within a range, in its own unit and steps."""

import math
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
# What may vary and is no number: each by the place of its choices in their order
CHOSEN: dict[str, list[str]] = {"buying.choose": list(CHOICES), "load_balancer.spread": list(SPREADS)}


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
    """The same space, where each of its settings is one of the group and both ends of its range can be. Raises PlanError."""
    problems: list[Problem] = []
    if not space:
        problems.append(Problem(("vary",), None, "nothing may vary; name a setting such as policies.add.threshold"))
    if len(space) > MOST_VARIED:
        problems.append(Problem(("vary",), len(space), f"at most {MOST_VARIED} settings may vary at once"))
    document = plan.groups[group].model_dump(mode="json")
    for one in space:
        place = ("vary", one.path)
        try:
            value = setting(document, one.path)
        except PlanError as error:
            problems += [Problem(place, one.path, p.message) for p in error.problems]
            continue
        if one.path in CHOSEN and value in CHOSEN[one.path]:
            if (one.low, one.high, one.step) != (0, len(CHOSEN[one.path]) - 1, 1):
                problems.append(
                    Problem(place, f"{one.low:g} to {one.high:g}", f"varies over all of {', '.join(CHOSEN[one.path])}")
                )
        elif isinstance(value, bool) or not isinstance(value, int | float):
            problems.append(Problem(place, one.path, "is no number, and cannot vary over a range"))
        elif not one.low < one.high:
            problems.append(Problem(place, f"{one.low:g} to {one.high:g}", "is an empty range; write the lower end first"))
        else:
            for end in (one.low, one.high):
                try:
                    with_group(plan, group, applied(document, {one.path: as_written(one, end)}))
                except PlanError as error:
                    problems += [Problem(place, f"{end:g}", p.message) for p in error.problems[:1]]
    if problems:
        raise PlanError(problems)
    return space


def applied(document: dict[str, Any], values: dict[str, float]) -> dict[str, Any]:
    """A group's plain data with settings by path. The starting count follows the minimum."""
    for path, value in values.items():
        known = CHOSEN.get(path)
        document = with_setting(document, path, value if known is None or isinstance(value, str) else known[int(value)])
    return document


def among_choices(path: str) -> Varied | None:
    """What is no number, over all of its choices; None for what has none."""
    return Varied(path=path, low=0, high=len(CHOSEN[path]) - 1, step=1) if path in CHOSEN else None


def as_it_is(document: dict[str, Any], path: str) -> float:
    """What a setting is now, or which of its choices."""
    value = setting(document, path)
    return float(CHOSEN[path].index(value)) if path in CHOSEN else value


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
