"""What became of each rollout of a rehearsal: how long it took, how far it came, and what happened because of it."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from jostle.core.costs.price import total
from jostle.core.decide.code import Phase
from jostle.core.engine.code import Billed, EventKind
from jostle.core.engine.outset import new_state
from jostle.core.engine.result import Result, play
from jostle.core.engine.setup import Setup
from jostle.core.plan.promise import AgePromise, AnswersPromise, SeatsPromise
from jostle.core.plan.rollout import Rollout
from jostle.core.rehearsal.rehearsal import Rehearsal

_ENDS_SERVING = (
    EventKind.INSTANCE_LEAVES,
    EventKind.INSTANCE_BROKE,
    EventKind.INSTANCE_RESTARTS,
    EventKind.INSTANCE_REPLACED,
    EventKind.INSTANCE_STOPPED,
    EventKind.INSTANCE_GONE,
)
# s after its end to which it is compared
AFTER = 3600.0
Ending = Literal["brought in", "went back", "stopped", "under way", "not begun"]
_ENDINGS: dict[int, Ending] = {
    Phase.NOT_BEGUN: "not begun",
    Phase.STOPPED: "stopped",
    Phase.DONE: "brought in",
    Phase.BACK: "went back",
}


class RolloutFigures(BaseModel):
    """One rollout. What happened because of it is told against the same seed without it, to an hour after its end: later
    differences are chance's."""

    model_config = ConfigDict(frozen=True)

    name: str
    version: int
    ended: Ending
    began: float | None = Field(description="s from the start; null where it has not begun")
    minutes: float | None = Field(description="From its beginning to its end, or to where it stands; null where it has not begun")
    most: int = Field(description="The most instances of its version that served meanwhile")
    answers: float = Field(description="Requests answered or failed, jobs done or sessions begun by instances of its version")
    answers_percent: float | None = Field(description="Of all that came from its beginning to its end; null where none did")
    failed: float = Field(description="Of its own answers, those that failed")
    failed_more: float | None = Field(default=None, description="More that failed than without it; null while not looked for")
    late_more: float | None = Field(
        default=None, description="More that were late or failed, by the strictest promise, than without it; null without one"
    )
    cost_more: float | None = Field(default=None, description="What all cost more by then than without it")


def rollouts_of(rehearsal: Rehearsal, whole: bool) -> list[RolloutFigures]:
    """Each rollout in the order of time; `whole` has the span played once more without each."""
    result = rehearsal.result
    found = []
    for number, rule in enumerate(result.setup.rules.rollouts.view(np.ndarray)):
        entry = rehearsal.crew.group.calendar[int(rule["entry"])]
        assert isinstance(entry, Rollout)
        told = _figures(result, entry, number)
        found.append(_compared(rehearsal, told, number) if whole else told)
    return found


def without(result: Result, number: int, until: int | None = None) -> Result:
    """The same seed without one of its rollouts, over the same span or to tick `until`."""
    rules = result.setup.rules
    left = np.delete(rules.rollouts.view(np.ndarray), number).view(rules.rollouts.dtype).view(np.recarray)
    return _to(result.setup._replace(rules=rules._replace(rollouts=left)), until)


def _to(setup: Setup, until: int | None) -> Result:
    return Result(setup, play(setup, new_state(setup), until))


def serving_of(result: Result, version: int) -> NDArray[np.int64]:
    """Instances of a version that serve in each tick, shape (ticks,)."""
    rows, tick, ticks = result.events, result.setup.tick, result.setup.ticks
    rows = rows[np.isin(rows["kind"], (EventKind.INSTANCE_SERVES, *_ENDS_SERVING))]
    rows = rows[result.instances["version"][rows["who"]] == version]
    rows = rows[np.argsort(rows["who"], kind="stable")]
    serves, who = rows["kind"] == EventKind.INSTANCE_SERVES, rows["who"]
    first = np.append(True, who[1:] != who[:-1])[: len(who)]
    before = np.append(False, serves[:-1])[: len(serves)]
    # Those that served at the start did so before their first event.
    from_start = _from_start(result)
    before = np.where(first, from_start[who], before)
    change = np.where(serves, 1, np.where(before, -1, 0))
    edges = np.zeros(ticks + 1, np.int64)
    np.add.at(edges, np.clip(np.ceil(rows["time"] / tick - 1e-9), 0, ticks).astype(np.int64), change)
    edges[0] += int((result.instances["version"][from_start] == version).sum())
    return np.cumsum(edges)[:ticks]


def _from_start(result: Result) -> NDArray[np.bool_]:
    """Whether each instance served when it all began, shape (instances,)."""
    found = np.zeros(len(result.instances), bool)
    if not result.setup.of("cold"):
        spells = result.spells
        found[spells["instance"][(spells["kind"] == Billed.RUNNING) & (spells["begin"] == 0.0)]] = True
    return found


def _figures(result: Result, entry: Rollout, number: int) -> RolloutFigures:
    rule, how = result.setup.rules.rollouts[number], result.state.memory.rollouts[number]
    version, phase = int(rule.to), int(how.phase)
    base = {"name": entry.name, "version": version, "ended": _ENDINGS.get(phase, "under way")}
    if phase == Phase.NOT_BEGUN:
        return RolloutFigures(**base, began=None, minutes=None, most=0, answers=0.0, answers_percent=None, failed=0.0)
    begun = float(how.begun)
    end = float(how.ended) if phase in (Phase.DONE, Phase.BACK) else result.elapsed
    first, last = (min(result.setup.ticks, round(at / result.setup.tick)) for at in (begun, end))
    side = result.state.sides[result.setup.versions.index(version)]
    came = float(result.arrivals[first:last].sum())
    answers = float(side.answers + side.failed)
    over = phase in (Phase.STOPPED, Phase.BACK)
    return RolloutFigures(
        **base,
        began=begun,
        minutes=round((end - begun) / 60, 3),
        most=int(serving_of(result, version)[first:last].max(initial=0)),
        answers=answers,
        answers_percent=round(100 * min(1.0, answers / came), 3) if came and over else None,
        failed=float(side.failed),
    )


def _compared(rehearsal: Rehearsal, told: RolloutFigures, number: int) -> RolloutFigures:
    """With what happened because of it."""
    if told.began is None:
        return told
    crew, tick = rehearsal.crew, rehearsal.clock.tick
    until = min(rehearsal.clock.ticks, round((told.began + 60 * (told.minutes or 0.0) + AFTER) / tick))
    result, other = _to(rehearsal.result.setup, until), without(rehearsal.result, number, until)
    late = [_late(one, rehearsal) for one in (result, other)]
    return told.model_copy(
        update={
            "failed_more": result.tally("failed") - other.tally("failed"),
            "late_more": None if late[0] is None or late[1] is None else late[0] - late[1],
            "cost_more": float(round(total(result, crew) - total(other, crew), 6)),
        }
    )


def _late(result: Result, rehearsal: Rehearsal) -> float | None:
    """How many were late or failed by the first of its promises of service; None without one."""
    for promise in rehearsal.crew.group.promises:
        match promise:
            case AnswersPromise():
                return result.late_requests(promise.within)
            case AgePromise():
                return result.taken_late(promise.within)
            case SeatsPromise():
                return result.tally("failed")
            case _:
                continue
    return None
