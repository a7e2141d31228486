"""What may vary: settings of a group, each within a range, in its own unit and steps."""

import math
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from jostle.core.journal.sentence import group_page
from jostle.core.plan.group import Group
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.policy import HoldPolicy, SparePolicy, TriggerPolicy
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.setting import setting, with_setting
from jostle.core.rehearsal.rehearsal import crew_of

MOST_VARIED = 12


class Varied(BaseModel):
    """A setting that may vary: its path under the group, and the lowest and the highest value, both in the plan's base unit.
    `step` is 0 where any value between will do."""

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
    found: list[Varied] = []
    for policy in group.policies:
        if policy.paused:
            continue
        path = f"policies.{policy.name}"
        match policy:
            case TriggerPolicy():
                found.append(
                    _around(f"{path}.threshold", policy.threshold, 0.5, 1.5, 0.99 if policy.metric.unit == "share" else None)
                )
                if policy.adds and policy.of == "instances":
                    found.append(Varied(path=f"{path}.amount", low=1, high=max(4, 2 * policy.amount), step=1))
            case HoldPolicy():
                found.append(_around(f"{path}.level", policy.level, 0.6, 1.4, 0.95 if policy.metric.unit == "share" else None))
            case SparePolicy() if policy.share is not None:
                found.append(_around(f"{path}.share", policy.share, 0.2, 2.5, 0.8))
            case SparePolicy():
                pass
        found.append(Varied(path=f"{path}.cooldown", low=60, high=max(720.0, 2 * policy.cooldown), step=30))
        if isinstance(policy, TriggerPolicy):
            period = group.meters.period
            found.append(Varied(path=f"{path}.window", low=period, high=max(8 * period, 1.5 * policy.window), step=period))
    return found[:MOST_VARIED]


def _around(path: str, value: float, low: float, high: float, most: float | None) -> Varied:
    top = value * high if most is None else min(most, value * high)
    return Varied(path=path, low=float(f"{value * low:.3g}"), high=float(f"{top:.3g}"))


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
        if isinstance(value, bool) or not isinstance(value, int | float):
            problems.append(Problem(place, one.path, "is no number, and cannot vary over a range"))
        elif not one.low < one.high:
            problems.append(Problem(place, f"{one.low:g} to {one.high:g}", "is an empty range; write the lower end first"))
        else:
            for end in (one.low, one.high):
                try:
                    with_group(plan, group, applied(document, {one.path: _typed(one, end)}))
                except PlanError as error:
                    problems += [Problem(place, f"{end:g}", p.message) for p in error.problems[:1]]
    if problems:
        raise PlanError(problems)
    return space


def applied(document: dict[str, Any], values: dict[str, float]) -> dict[str, Any]:
    """A group's plain data with settings by path. The starting count follows the minimum."""
    for path, value in values.items():
        document = with_setting(document, path, value)
    return document


def _typed(one: Varied, value: float) -> float:
    return int(value) if one.whole else value


def typed(space: list[Varied], values: dict[str, float]) -> dict[str, float]:
    """Values as a plan file has them: whole numbers where what is counted is whole."""
    return {one.path: _typed(one, one.snapped(values[one.path])) for one in space}


def said(plan: Plan, group: str, values: dict[str, float]) -> dict[str, str]:
    """Values in words, as the page says them."""
    document = applied(plan.groups[group].model_dump(mode="json"), values)
    words = group_page(crew_of(with_group(plan, group, document), group), plan.currency).words
    return {path: words[path].text if path in words else f"{value:g}" for path, value in values.items()}


def steps_of(one: Varied) -> int:
    """How many values it may have; 0 for any number."""
    return 1 + math.floor((one.high - one.low) / one.step + 1e-9) if one.step else 0
