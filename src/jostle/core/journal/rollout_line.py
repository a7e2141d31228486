"""A rollout in words: its steps, each with the figures that decided it, and where it stands."""

import math
from decimal import Decimal
from typing import Any

from jostle.core.decide.code import Phase, Step
from jostle.core.decide.memory import ALL
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric
from jostle.core.plan.quantity import say_duration, say_money, say_number, say_share
from jostle.core.plan.rollout import NEXT, Canary, Rollout
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rollout_state import RolloutFigures

_METRICS = {"failed_share": Metric.FAILED_SHARE, "cpu": Metric.CPU, "latency_p95": Metric.LATENCY_P95}
_PHASES = {
    Phase.NOT_BEGUN: "is due and waits",
    Phase.CANARY_COMES: "its canary is on its way",
    Phase.CANARY_WATCHED: "its canary is watched",
    Phase.BATCH_COMES: "a batch is on its way",
    Phase.BATCH_WATCHED: "a batch is watched",
    Phase.PAUSED: "it pauses between two batches",
    Phase.STOPPED: "it is stopped",
    Phase.GOES_BACK: "it goes back",
    Phase.DONE: "it is done",
    Phase.BACK: "it went back",
}

_ENDED = {"brought in": "brought in within", "went back": "back after", "stopped": "stopped, for", "under way": "under way for"}


def rollout_in(group: Group, number: int) -> Rollout | None:
    """The rollout of a group by its number in the calendar; None where there is none, or that is something else."""
    entry = group.calendar[number] if 0 <= number < len(group.calendar) else None
    return entry if isinstance(entry, Rollout) else None


def step_text(entry: Rollout, row: Any, noun: str) -> str:
    """What happened with a rollout at an evaluation, from its row of DECISION; the `noun` is what its group does."""
    phase, goal = int(row["phase"]), int(row["goal"])
    before, version = int(row["version_before"]), int(row["version"])
    there = "all" if goal >= ALL else say_count(goal, "instance")
    match Step(int(row["step"])):
        case Step.BEGINS:
            first = "a canary of " if phase == Phase.CANARY_COMES else ""
            return f"{entry.name} begins: version {version} in the place of {before}, {first}{there} first"
        case Step.CANARY_SERVES:
            assert entry.canary is not None
            return f"{entry.name}: its canary, {there}, serves and is watched for {say_duration(entry.canary.watch)}"
        case Step.CANARY_FINE | Step.CANARY_WORSE | Step.CANARY_UNCLEAR:
            assert entry.canary is not None
            return f"{entry.name}: {_judged(entry.canary, row, noun)}"
        case Step.BATCH_SERVES:
            return f"{entry.name}: {'all of it serves' if goal >= ALL else f'{there} of it serve'}, watched {_for(entry.watch)}"
        case Step.NEXT_BATCH:
            return f"{entry.name}: the next batch, to {there}"
        case Step.NOT_THERE:
            then = "goes back" if phase == Phase.GOES_BACK else "stops"
            return f"{entry.name}: what it launched does not serve after {say_duration(entry.patience)}; it {then}"
        case Step.DONE:
            return f"{entry.name} is done: all are of version {version}"
        case Step.IS_BACK:
            return f"{entry.name} is back: all are of version {before} again"
        case _:
            return f"{entry.name}: {_PHASES[Phase(phase)]}"


def _for(seconds: float) -> str:
    return f"for {say_duration(seconds)}" if seconds else "no longer"


def _judged(canary: Canary, row: Any, noun: str) -> str:
    """What a canary came to at a look, and what follows."""
    step, phase = int(row["step"]), int(row["phase"])
    then = {Phase.STOPPED: "stop", Phase.GOES_BACK: "back"}.get(Phase(phase), "on")
    said = _compared(canary, row, noun)
    look = f"look {int(row['look'])} of {canary.looks}"
    if step == Step.CANARY_WORSE:
        return f"its canary does worse: {said}; by chance in {_chance(row)} ({look}); it {NEXT[then]}"
    if step == Step.CANARY_UNCLEAR:
        answers = float(row["answers"])
        few = f"only {say_number(round(answers))} {noun}" if answers < canary.at_least else "too few readings"
        return f"whether its canary does worse cannot be told: {few}; it {NEXT[then]}"
    return f"its canary does no worse: {said} ({look}); it {NEXT[then]}"


def _compared(canary: Canary, row: Any, noun: str) -> str:
    own, others = float(row["own"]), float(row["others"])
    answers = f" of {say_number(round(float(row['answers'])))} {noun}" if not math.isnan(float(row["answers"])) else ""
    if canary.metric == "failed_share":
        return f"{_fine_share(own)}{answers} fail, {_fine_share(others)} of the others'"
    metric = _METRICS[canary.metric]
    if math.isnan(own):
        return f"{metric.label} not read of late"
    return f"{metric.label} {metric.say(own)}, {metric.say(others)} of the others"


def _fine_share(share: float) -> str:
    """Small shares to two digits that count."""
    return say_share(share) if share == 0 or share >= 0.1 else say_share(round(share, 1 - math.floor(math.log10(share))))


def _chance(row: Any) -> str:
    chance = float(row["chance"])
    return "1 of a million or fewer" if chance < 1e-6 else f"{_fine_share(chance)} of cases"


def rollout_line(told: RolloutFigures, currency: str, noun: str) -> str:
    """What became of a rollout, and what happened because of it."""
    if told.minutes is None:
        return f"{told.name}: version {told.version} is not brought in within the span"
    said = [
        f"{told.name}: version {told.version} {_ENDED[told.ended]} {say_duration(round(60 * told.minutes))}",
        f"at most {say_count(told.most, 'instance')} of it",
    ]
    if told.failed:
        said.append(f"{say_number(round(told.failed))} of {say_number(round(told.answers))} {noun} failed there")
    if told.late_more is not None:
        more = round(told.late_more)
        said.append(f"{say_number(abs(more))} {'more' if more >= 0 else 'fewer'} late or failed for it")
    if told.cost_more is not None:
        cost = Decimal(str(round(told.cost_more, 2)))
        said.append(f"{say_money(abs(cost), currency)} {'more' if cost >= 0 else 'less'}")
    return "; ".join([said[0], ", ".join(said[1:])])


def stage_text(phase: Phase) -> str:
    """Where a rollout stands in a phase."""
    return _PHASES[phase]


def stand_text(entry: Rollout, row: Any) -> str:
    """Where a rollout stands at an evaluation."""
    goal, phase = int(row["goal"]), Phase(int(row["phase"]))
    aim = "" if phase == Phase.NOT_BEGUN else ", all are to be of it" if goal >= ALL else f", {goal} are to be of it"
    return f"Rollout {entry.name}: {_PHASES[phase]}{aim}"
