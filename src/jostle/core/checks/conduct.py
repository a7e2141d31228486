"""How policies and limits conduct themselves in the rehearsed week."""

import numpy as np

from jostle.core.checks.finding import Finding
from jostle.core.engine import code
from jostle.core.plan.promise import AnswersPromise
from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.rehearsal.rehearsal import Rehearsal

NEARLY_ALWAYS = 0.5
OFTEN = 0.05


def check_activity(rehearsal: Rehearsal) -> list[Finding]:
    """Policies that never ask, that nearly always ask, or that often cannot see."""
    views = rehearsal.result.state.views[: len(rehearsal.result.decisions)]
    found: list[Finding] = []
    for number, policy in enumerate(rehearsal.crew.group.policies):
        if policy.paused or not len(views):
            continue
        states, path = views["state"][:, number], f"policies.{policy.name}"
        acting = float(((states == code.ASKING) | (states == code.WAITING)).mean())
        blind = float((states == code.NO_DATA).mean())
        if blind > OFTEN:
            text = f"It has no data {say_share(blind)} of the time, and without data it asks for nothing."
            found.append(Finding(code="no-data", severity="warning", path=path, text=text))
        elif acting == 0:
            values = views["value"][:, number]
            low, high = policy.metric.say(float(np.nanmin(values))), policy.metric.say(float(np.nanmax(values)))
            text = f"It never asks for anything in this rehearsal: {policy.metric.label} stays between {low} and {high}."
            found.append(Finding(code="never-acts", severity="note", path=path, text=text))
        elif acting > NEARLY_ALWAYS:
            text = f"It asks for a change {say_share(acting)} of the time: its level is hardly ever held."
            found.append(Finding(code="always-acts", severity="warning", path=path, text=text))
    return found


def check_maximum(rehearsal: Rehearsal) -> list[Finding]:
    """Time in which requests wait or fail while a policy asks for more than the maximum."""
    rows, series = rehearsal.result.decisions, rehearsal.result.state.series
    group, setup = rehearsal.crew.group, rehearsal.result.setup
    short = (series["waiting"] > 0) | (series["failed"] > 0)
    held = (rows["wanted"] > group.maximum) & (rows["desired"] == group.maximum)
    ticks = np.minimum((rows["time"] / setup.tick).astype(np.int64), setup.ticks - 1)
    both = np.flatnonzero(held & short[ticks])
    if not len(both):
        return []
    time = len(both) * setup.evaluate_ticks * setup.tick
    text = f"For {say_duration(time)} requests wait while the maximum of {group.maximum} holds the count down."
    return [Finding(code="maximum-short", severity="warning", path="maximum", text=text, at=float(rows["time"][both[0]]))]


def check_promises(rehearsal: Rehearsal) -> list[Finding]:
    """A promise that not even always-peak keeps."""
    found = []
    for number, promise in enumerate(rehearsal.crew.group.promises):
        if not isinstance(promise, AnswersPromise) or rehearsal.bounds.always_peak is not None:
            continue
        work = rehearsal.crew.group.work
        text = (
            f"No number of instances keeps this: an answer takes {say_duration(work.base_latency)} besides its CPU time of "
            f"{say_duration(1 / rehearsal.result.setup.service_rate)} on average, even without any load."
        )
        found.append(Finding(code="promise-hopeless", severity="error", path=f"promises.{number}.within", text=text))
    return found
