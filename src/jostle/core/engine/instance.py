"""The life of an instance: booting, warming, serving, draining, gone."""

import math

from jostle.core.compiled import leaf
from jostle.core.engine.code import BOOTING, DRAINING, GONE, INSTANCE_GONE, INSTANCE_SERVES, NOBODY, SERVING, WARMING
from jostle.core.engine.state import Setup, State


@leaf
def note(state: State, time: float, kind: int, who: int, before: int, after: int, evaluation: int) -> None:
    """Write one event row."""
    now = state.now[0]
    row = state.events[now.events]
    row.time, row.kind, row.who = time, kind, who
    row.before, row.after, row.evaluation = before, after, evaluation
    now.events += 1


@leaf
def settle(setup: Setup, state: State, time: float) -> None:
    """Make every change of state that is due at `time` (s from the start), and find when the next one is."""
    now = state.now[0]
    next_due = math.inf
    kept = 0
    for a in range(now.living):
        i = state.alive[a]
        one = state.instances[i]
        if one.state == BOOTING and time >= one.booted:
            one.state = WARMING
        if one.state == WARMING and time >= one.serves:
            one.state = SERVING
            one.serves = time
            now.serving += 1
            note(state, time, INSTANCE_SERVES, i, now.serving - 1, now.serving, NOBODY)
        if one.state == DRAINING and time >= one.drains + setup.drain:
            depart(state, i, time)
            continue
        if one.state == BOOTING:
            next_due = min(next_due, one.booted)
        elif one.state == WARMING:
            next_due = min(next_due, one.serves)
        elif one.state == DRAINING:
            next_due = min(next_due, one.drains + setup.drain)
        state.alive[kept] = i
        kept += 1
    now.living = kept
    now.next_due = next_due


@leaf
def depart(state: State, i: int, time: float) -> None:
    """An instance ends and costs nothing from now on. The caller takes it off the list of the living."""
    now = state.now[0]
    one = state.instances[i]
    one.state = GONE
    one.gone = time
    now.billed -= 1
    note(state, time, INSTANCE_GONE, i, now.billed + 1, now.billed, NOBODY)


@leaf
def launch(setup: Setup, state: State, time: float, number: int, policy: int) -> None:
    """Request `number` new instances."""
    now = state.now[0]
    for _ in range(number):
        i = now.launched
        one = state.instances[i]
        one.requested = time
        one.booted = time + setup.boot
        one.serves = one.booted + setup.warm_up
        one.state = BOOTING
        one.asked_by = policy
        one.sent_by = NOBODY
        state.alive[now.living] = i
        now.living += 1
        now.launched += 1
        now.billed += 1
    now.next_due = min(now.next_due, time)


@leaf
def send_away(setup: Setup, state: State, time: float, number: int, policy: int) -> None:
    """Take `number` instances out: those that do not serve yet, newest first, end at once; then the oldest drain."""
    now = state.now[0]
    a = now.living - 1
    while number > 0 and a >= 0:
        i = state.alive[a]
        one = state.instances[i]
        if one.state == BOOTING or one.state == WARMING:
            one.sent_by = policy
            depart(state, i, time)
            for b in range(a, now.living - 1):
                state.alive[b] = state.alive[b + 1]
            now.living -= 1
            number -= 1
        a -= 1
    for a in range(now.living):
        if number == 0:
            break
        one = state.instances[state.alive[a]]
        if one.state == SERVING:
            one.state = DRAINING
            one.drains = time
            one.sent_by = policy
            now.serving -= 1
            number -= 1
    now.next_due = min(now.next_due, time)
