"""What does not go well with a new version that is brought in."""

import math

import numpy as np

from jostle.core.built.play import portion
from jostle.core.checks.finding import Finding, Mend
from jostle.core.costs.bounds import keeps
from jostle.core.journal.event import say_time
from jostle.core.plan.promise import ServicePromise
from jostle.core.plan.quantity import say_duration, say_number, say_share
from jostle.core.plan.rollout import Canary, Rollout
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.rollout_state import without

# Of what comes when it begins, from which on it is a rush; how far ahead one is looked for; and over how long it is averaged (s)
RUSH, AHEAD, AVERAGED = 1.5, 86400.0, 300.0


def check_rollouts(rehearsal: Rehearsal) -> list[Finding]:
    """Watches too short to tell, more than the limits allow, a promise broken because of one, and one that meets a rush."""
    found = []
    for number, rule in enumerate(rehearsal.result.setup.rules.rollouts.view(np.ndarray)):
        entry, at = rehearsal.crew.group.calendar[int(rule["entry"])], float(rule["at"])
        assert isinstance(entry, Rollout)
        if at >= rehearsal.clock.seconds:
            continue
        looks = [_few(rehearsal, entry, at), _no_room(rehearsal, entry, int(rule["entry"])), _meets_rush(rehearsal, entry, at)]
        found += [one for one in looks if one is not None]
        found += _breaks(rehearsal, entry, number, at)
    return found


def _few(rehearsal: Rehearsal, entry: Rollout, at: float) -> Finding | None:
    """A canary whose watch is too short, or meets too few answers, for it to be told whether it does worse."""
    canary, tick = entry.canary, rehearsal.clock.tick
    if canary is None:
        return None
    path = f"calendar.{entry.name}.canary"
    if canary.metric != "failed_share":
        every = rehearsal.crew.group.evaluate_every
        rounds = math.ceil(math.log2(canary.looks / canary.false_alarms))
        least = rounds * every
        if canary.watch >= least + every:
            return None
        text = (
            f"With {say_count(canary.looks, 'look')} and a false alarm in {say_share(canary.false_alarms)} of cases at most it "
            f"takes {rounds} readings to tell that it does worse, and the watch has {int(canary.watch / every)}."
        )
        longer = say_duration(2 * least)
        mend = Mend(text=f"watch it for {longer}", settings={f"{path}.watch": 2 * least})
        return Finding(code="canary-short", severity="warning", path=f"{path}.watch", text=text, mend=mend, at=at)
    first, last = round(at / tick), round((at + canary.watch) / tick)
    came = float(rehearsal.demand_rate[first:last].sum() * tick)
    serving = float(rehearsal.result.series["serving"][first:last].mean()) if last > first else 0.0
    if serving <= 0.0 or rehearsal.crew.group.work.held:
        return None
    answers = came * portion(canary.count, canary.of == "percent", round(serving)) / serving
    if answers >= canary.at_least:
        return None
    longer_watch = 300.0 * math.ceil(1.2 * canary.watch * canary.at_least / max(answers, 1.0) / 300.0)
    text = (
        f"About {say_number(round(answers))} answers are its own within its watch, and below {say_number(canary.at_least)} it "
        f"cannot be told whether it does worse: failures of {_least_seen(canary, answers)} and more would be noticed."
    )
    mend = Mend(text=f"watch it for {say_duration(longer_watch)}", settings={f"{path}.watch": longer_watch})
    return Finding(code="canary-few", severity="warning", path=f"{path}.at_least", text=text, mend=mend, at=at)


def _least_seen(canary: Canary, answers: float) -> str:
    """The share of failures that is told from none, where the others have none and are ten times as many."""
    needed = max(1, math.ceil(math.log(canary.false_alarms / canary.looks) / math.log(1 / 10)))
    return say_share(min(1.0, round(needed / max(answers, 1.0), 4)))


def _no_room(rehearsal: Rehearsal, entry: Rollout, number: int) -> Finding | None:
    """More than the maximum or the quota allows."""
    rows, group = rehearsal.result.decisions, rehearsal.crew.group
    rows = rows[rows["rollout"] == number]
    most = np.minimum(group.maximum, rows["quota"])
    held = np.flatnonzero(rows["decided"] + entry.extra > most)
    if not len(held) or not entry.extra:
        return None
    worst = rows[held[0]]
    decided, quota = int(worst["decided"]), int(worst["quota"])
    limit = f"the maximum of {group.maximum}" if group.maximum <= quota else f"the quota, which leaves {quota}"
    then = "it waits for room" if entry.fewer == 0 else "it goes on with fewer alone"
    at = say_time(rehearsal.clock, float(worst["time"]))
    text = f"At {at} {decided} are wanted and {entry.extra} more pass {limit}: {then}."
    mend = Mend(text="let 1 be missing instead", settings={f"calendar.{entry.name}.fewer": 1}) if entry.fewer == 0 else None
    return Finding(
        code="rollout-no-room",
        severity="warning" if entry.fewer == 0 else "note",
        path=f"calendar.{entry.name}.extra",
        text=text,
        mend=mend,
        at=float(worst["time"]),
    )


def _meets_rush(rehearsal: Rehearsal, entry: Rollout, at: float) -> Finding | None:
    """One that its pauses keep under way until far more comes."""
    tick, rate = rehearsal.clock.tick, rehearsal.demand_rate
    each = max(1, round(AVERAGED / tick))
    first = round(at / tick)
    ahead = rate[first : first + round(AHEAD / tick)]
    ahead = ahead[: len(ahead) // each * each].reshape(-1, each).mean(axis=1)
    rushes = np.flatnonzero(ahead > RUSH * max(ahead[0], 1e-9)) if len(ahead) else ahead
    count = int(rehearsal.result.series["desired"][min(first, len(rehearsal.result.series) - 1)])
    if not len(rushes) or not entry.pause or count < 1:
        return None
    rush, least = float(rushes[0]) * AVERAGED, entry.least_time(count)
    pauses = (entry.batches(count) - 1) * entry.pause
    if not least - pauses < rush < least:
        return None
    fits = max(0.0, 60.0 * math.floor((rush - (least - pauses)) / (entry.batches(count) - 1) / 60.0))
    text = (
        f"With its pauses it takes {say_duration(least)} at the least, and {say_duration(rush)} after its beginning "
        f"{say_share(round(float(ahead[rushes[0]] / ahead[0]), 1))} of the demand comes that there was: it is half done then."
    )
    mend = Mend(text=f"pause for {say_duration(fits)}", settings={f"calendar.{entry.name}.pause": fits})
    return Finding(
        code="rollout-meets-rush", severity="warning", path=f"calendar.{entry.name}.pause", text=text, mend=mend, at=at + rush
    )


def _breaks(rehearsal: Rehearsal, entry: Rollout, number: int, at: float) -> list[Finding]:
    """A promise that is kept without it."""
    promises = [one for one in rehearsal.crew.group.promises if isinstance(one, ServicePromise)]
    if not promises or keeps(rehearsal.result, promises):
        return []
    if not keeps(without(rehearsal.result, number), promises):
        return []
    said = f", with {entry.fewer} fewer than desired meanwhile" if entry.fewer else ""
    mend = None
    if entry.fewer:
        settings = {f"calendar.{entry.name}.extra": max(1, entry.extra), f"calendar.{entry.name}.fewer": 0}
        mend = Mend(text="one more instead of one fewer", settings=settings)
    text = f"A promise that is kept without it is broken because of it{said}."
    path = f"calendar.{entry.name}.fewer" if entry.fewer else f"calendar.{entry.name}"
    return [Finding(code="rollout-breaks-promise", severity="error", path=path, text=text, mend=mend, at=at)]
