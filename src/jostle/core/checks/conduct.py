"""How policies and limits conduct themselves in the rehearsed week."""

import math

import numpy as np

from jostle.core.checks.finding import Finding, Mend
from jostle.core.costs.bounds import Bounds, broken_share
from jostle.core.decide.code import Outcome, Stance
from jostle.core.engine.code import EventKind, Refusal
from jostle.core.engine.lengths import done_within, time_of
from jostle.core.plan.promise import AgePromise, AnswersPromise, SeatsPromise
from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.plan.word import say_count
from jostle.core.plan.work import DrawnWork, Requests
from jostle.core.rehearsal.rehearsal import Rehearsal

# How far waits are off, against the independent model: of exponential lengths, and of others
KNOWN_ERROR, KNOWN_ERROR_UNEVEN = 0.05, 0.15
OVERFLOW_OFTEN = 0.25
NEARLY_ALWAYS = 0.5
OFTEN = 0.05


def check_activity(rehearsal: Rehearsal) -> list[Finding]:
    """Policies that never ask, that nearly always ask, or that often cannot see. To want fewer than the fewest allowed is to be
    at rest, and no asking."""
    rows = rehearsal.result.decisions
    there = rows["serving"] > 0
    views = rehearsal.result.views
    fewest = np.maximum(rehearsal.crew.group.minimum, rehearsal.result.setup.orders["low"][: len(rows)])
    desired = rows["desired"][there]
    at_rest = desired <= fewest[there]
    found: list[Finding] = []
    for number, policy in enumerate(rehearsal.crew.group.policies):
        if policy.paused or rehearsal.crew.group.policies_paused or not len(desired):
            continue
        if not (policy.adds or policy.removes):
            continue
        states, path = views["state"][:, number][there], f"policies.{policy.name}"
        asking = (states == Stance.ASKING) | (states == Stance.WAITING)
        acting = float((asking & ~(at_rest & (views["ask"][:, number][there] < desired))).mean())
        blind = float((states == Stance.NO_DATA).mean())
        if blind > OFTEN:
            text = f"It has no data {say_share(blind)} of the time, and without data it asks for nothing."
            found.append(Finding(code="no-data", severity="warning", path=path, text=text))
        elif not asking.any():
            values = views["value"][:, number][there]
            low, high = float(np.nanmin(values)), float(np.nanmax(values))
            text = f"It never asks for anything in this rehearsal: {policy.stays(low, high)}."
            found.append(Finding(code="never-acts", severity="note", path=path, text=text))
        elif acting > NEARLY_ALWAYS:
            text = f"It asks for a change {say_share(acting)} of the time: its level is hardly ever held."
            found.append(Finding(code="always-acts", severity="warning", path=path, text=text))
    return found


def check_maximum(rehearsal: Rehearsal) -> list[Finding]:
    """Time in which work waits or fails while a policy asks for more than the maximum."""
    rows, series = rehearsal.result.decisions, rehearsal.result.series
    group, clock = rehearsal.crew.group, rehearsal.clock
    held = (rows["wanted"] > group.maximum) & (rows["desired"] == group.maximum)
    ticks = np.minimum((rows["time"] / clock.tick).astype(np.int64), clock.ticks - 1)
    both = np.flatnonzero(held & series["short"][ticks])
    if not len(both):
        return []
    time = len(both) * group.evaluate_every
    text = f"For {say_duration(time)} {group.work.late} while the maximum of {group.maximum} holds the count down."
    return [Finding(code="maximum-short", severity="warning", path="maximum", text=text, at=float(rows["time"][both[0]]))]


def check_refusals(rehearsal: Rehearsal) -> list[Finding]:
    """Launches that were refused, but for what is ordered and waits for the market."""
    rows = rehearsal.result.events
    refused = rows[(rows["kind"] == EventKind.LAUNCH_REFUSED) & (rows["who"] != Refusal.MARKET)]
    if not len(refused):
        return []
    why = "the quota" if int(refused["who"][0]) == Refusal.QUOTA else "want of capacity in every zone"
    text = f"Launches are refused {say_count(len(refused), 'time')}, the first by {why}."
    return [Finding(code="launch-refused", severity="warning", path="maximum", text=text, at=float(refused["time"][0]))]


def check_quota(rehearsal: Rehearsal) -> list[Finding]:
    """Time in which the quota, or what other groups leave of it, holds the count down."""
    rows, group = rehearsal.result.decisions, rehearsal.crew.group
    held = np.flatnonzero(rows["limit"] == Outcome.AT_QUOTA)
    if not len(held):
        return []
    machine = rehearsal.crew.launch.machine
    text = (
        f"For {say_duration(len(held) * group.evaluate_every)} the quota of {machine}, which is "
        f"{rehearsal.crew.machine.quota} over all groups, holds the count down."
    )
    return [Finding(code="quota-holds", severity="warning", path="maximum", text=text, at=float(rows["time"][held[0]]))]


def check_overflow(rehearsal: Rehearsal) -> list[Finding]:
    """Overflow used so much of the time that it would better be owned."""
    owned, series = rehearsal.crew.group.owned, rehearsal.result.series
    if owned is None:
        return []
    beyond = float((series["desired"] > owned).mean())
    if beyond <= OVERFLOW_OFTEN:
        return []
    enough = int(np.quantile(series["desired"], 1 - OVERFLOW_OFTEN, method="higher"))
    text = f"{say_share(beyond)} of the time there is overflow beyond the {owned} owned: they are too few."
    mend = Mend(text=f"{enough} owned", settings={"owned": enough})
    return [Finding(code="overflow-often", severity="warning", path="owned", text=text, mend=mend)]


def check_margin(rehearsal: Rehearsal) -> list[Finding]:
    """A promise that is kept, and would not be if waits were longer by what the model is known to be off."""
    found, work = [], rehearsal.crew.group.work
    for number, promise in enumerate(rehearsal.crew.group.promises):
        if not isinstance(promise, AnswersPromise | AgePromise) or not isinstance(work, DrawnWork):
            continue
        off = KNOWN_ERROR if work.unevenness == 1 and isinstance(promise, AnswersPromise) else KNOWN_ERROR_UNEVEN
        nearer = promise.model_copy(update={"within": promise.within / (1 + off)})
        allowed = 1 - promise.share + 1e-12
        if broken_share(rehearsal.result, promise) <= allowed < broken_share(rehearsal.result, nearer):
            text = f"It is kept by less than {say_share(off)} of the time, by which a rehearsal may be off: it may be broken."
            found.append(Finding(code="promise-narrow", severity="note", path=f"promises.{number}.within", text=text))
    return found


def check_promises(rehearsal: Rehearsal, bounds: Bounds) -> list[Finding]:
    """A promise that not even always-peak keeps."""
    crew = rehearsal.crew
    if bounds.always_peak is not None:
        return []
    found = []
    for number, promise in enumerate(crew.group.promises):
        path, mend = f"promises.{number}.within", None
        match promise:
            case AnswersPromise():
                text, mend = _hopeless(rehearsal, promise, path)
            case AgePromise():
                text = "No number of instances keeps this: jobs are taken up too late even with every worker there."
            case SeatsPromise():
                path = f"promises.{number}.share"
                text = "No number of instances keeps this: sessions are refused while instances are broken or away."
            case _:
                continue
        found.append(Finding(code="promise-hopeless", severity="error", path=path, text=text, mend=mend))
    return found


def _hopeless(rehearsal: Rehearsal, promise: AnswersPromise, path: str) -> tuple[str, Mend | None]:
    """Why not even all instances keep a promise of answers, and what would: of which the slowest, alone, take too long."""
    work = rehearsal.crew.group.work
    assert isinstance(work, Requests)
    besides, mean = work.base_latency, 1 / rehearsal.result.setup.of("service_rate")
    left = promise.within - besides
    if done_within(work.unevenness, mean, left) >= promise.share:
        return "No number of instances keeps this: answers fail or wait while instances are broken or away.", None
    alone = say_share(math.floor(1000 * done_within(work.unevenness, mean, left)) / 1000)
    longest = time_of(work.unevenness, mean, promise.share)
    # Two figures, and some room for those that wait a moment
    digits = 10.0 ** (math.floor(math.log10(besides + longest)) - 1)
    enough = digits * math.ceil(1.05 * (besides + longest) / digits)
    faster = f", or a machine {longest / left:.1f} times as fast" if left > 0 else f"; {say_duration(besides)} go by besides CPU"
    text = (
        f"No number of instances keeps this: it is about the slowest answers, and without any load {alone} come within "
        f"{say_duration(promise.within)}. {say_duration(enough)} would do{faster}."
    )
    return text, Mend(text=f"within {say_duration(enough)}", settings={path: enough})
