"""One edit, as whoever makes it says it."""

from typing import Any, Literal

from pydantic import BaseModel, Field

from jostle.core.plan.problem import PlanError, Problem


class Change(BaseModel):
    """`set` a value at a path of the group; of the days of a calendar entry only those that are put `in` or left `out`, and its
    `last`.

    `add` to `policies` (value: add, remove, hold or spare), to `calendar` (value: a kind of entry), to `promises` (value: the
    promise), to `hands` (value: the hand itself, its `at` in ms since 1970 too), or one more to the bands of a policy. `remove`
    what stands at a path, of `promises` one that says the same (value: the promise), of bands the last. `move` a calendar entry,
    a hand or a part of a demand (value: `by` and `longer`, s). `skip` the day of an instant (value: ms since 1970) in a calendar
    entry.
    """

    op: Literal["set", "add", "remove", "move", "skip"] = "set"
    path: str = Field(min_length=1, max_length=200)
    value: Any = None


def seconds_of(change: Change, value: Any) -> float:
    """A number in a change. Raises PlanError where it is none."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise PlanError([Problem((change.path,), value, "write a number")])
    return float(value)
