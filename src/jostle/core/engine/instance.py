"""The life of an instance: requested, booting, warming, serving, draining, stopping, stopped or gone; or broken."""

import math

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY, Cause
from jostle.core.decide.mending import restarts
from jostle.core.draw import STREAM_BOOT, STREAM_FAULT, exponential, lognormal, stream_of, uniform
from jostle.core.engine.code import Billed, EventKind, Fault, Life
from jostle.core.engine.identity import attach, lay_down
from jostle.core.engine.note import note
from jostle.core.engine.room import close_room, leave_host, open_room
from jostle.core.engine.setup import Setup
from jostle.core.engine.spell import begin_spell, end_spell
from jostle.core.engine.state import UNLIMITED, State
from jostle.core.engine.work import fails_unseen, give_back, is_empty


@inner
def boot(setup: Setup, state: State, i: int, time: float, fresh: bool, beside: float) -> None:
    """Start the machine of instance i: a fresh one, or one that was there before and starts sooner. What else it takes, s, comes
    `beside` the boot.

    Each launch, by its number and its restarts, takes as long under every arrangement that makes it. One that takes
    longer than the grace of the health checks is found broken before it ever serves.
    """
    fixed = setup.fixed[0]
    one = state.instances[i]
    number = 64 * i + min(63, one.restarts)
    kind = setup.kinds[one.kind]
    mean = kind.boot if fresh else kind.start
    close_room(setup, state, i, True)
    one.state = Life.BOOTING
    one.fault, one.found = Fault.SOUND, False
    one.credits, one.tired = kind.first_credits, False
    one.deadline = math.inf
    one.heeding = one.told = 0
    one.broke, one.noticed, one.unused = math.nan, math.inf, math.inf
    drawn = lognormal(stream_of(fixed.seed, STREAM_BOOT), number, kind.boot_spread)
    one.booted = time + beside + mean * state.now[0].boot_factor * drawn
    if fixed.never_boots > 0.0 and uniform(stream_of(fixed.seed, STREAM_FAULT + 16), number) < fixed.never_boots:
        one.booted = math.inf
        one.fault = Fault.FROZEN
    one.serves = one.booted + kind.warm_up
    answers = one.serves if fixed.health == Fault.HUNG else one.booted if fixed.health == Fault.FROZEN else 0.0
    patience = time + fixed.grace + fixed.notice
    if answers > patience:
        one.noticed = patience
    state.now[0].next_due = min(state.now[0].next_due, time)


@inner
def serve_now(setup: Setup, state: State, i: int, time: float) -> None:
    """Instance i takes load from now on."""
    now = state.now[0]
    fixed = setup.fixed[0]
    one = state.instances[i]
    one.state = Life.SERVING
    one.serves = time
    one.noticed, one.found = math.inf, False
    one.given_work = True
    one.sessions = 0
    one.share = one.line = 0.0
    one.breaks = math.inf
    if fixed.fault_every < math.inf:
        one.breaks = time + fixed.fault_every * exponential(stream_of(fixed.seed, STREAM_FAULT), 64 * i + min(63, one.restarts))
    now.serving += 1
    state.zones[one.zone].serving += 1
    state.crews[one.kind].serving += 1
    now.units += state.crews[one.kind].weight
    if fixed.sticky > 0.0 or fixed.weighted:
        now.uneven = True
    open_room(setup, state, i)
    note(state, time, EventKind.INSTANCE_SERVES, Cause.NEED, i, now.serving - 1, now.serving, NOBODY)


@inner
def stop_serving(state: State, i: int) -> None:
    """Instance i does no more work of its own accord: it leaves, or has broken."""
    one = state.instances[i]
    state.now[0].serving -= 1
    if one.tired:
        state.now[0].tired -= 1
    state.zones[one.zone].serving -= 1
    crew = state.crews[one.kind]
    crew.serving -= 1
    state.now[0].units -= crew.weight
    if crew.serving == 0:
        crew.line = 0.0


@inner
def leave_zone(state: State, i: int) -> None:
    """Instance i is no longer one of those present: it leaves, or is on its way to be stopped."""
    one = state.instances[i]
    one.found = False
    now = state.now[0]
    now.present -= 1
    if one.state == Life.REQUESTED:
        now.waiting -= 1
    else:
        state.zones[one.zone].present -= 1
        if one.overflow:
            now.overflow -= 1


@inner
def end(setup: Setup, state: State, i: int, time: float) -> None:
    """Instance i is gone and costs nothing from now on. Its place among the living is closed by the next `settle`."""
    now = state.now[0]
    one = state.instances[i]
    before = now.billed
    if one.state != Life.REQUESTED:
        end_spell(setup, state, i, time)
    lay_down(setup, state, i, time)
    leave_host(setup, state, i)
    close_room(setup, state, i, True)
    one.state = Life.GONE
    one.gone = time
    now.next_due = min(now.next_due, time)
    note(state, time, EventKind.INSTANCE_GONE, Cause.NEED, i, before, now.billed, NOBODY)


@inner
def stop_or_end(setup: Setup, state: State, i: int, time: float) -> None:
    """Instance i has left the work: it stops if it is to be kept, else it is gone."""
    one = state.instances[i]
    if one.to_stop:
        close_room(setup, state, i, True)
        one.state = Life.STOPPING
        one.unused = time + setup.fixed[0].stop
        state.now[0].next_due = min(state.now[0].next_due, time)
    else:
        end(setup, state, i, time)


@inner
def break_down(setup: Setup, state: State, i: int, time: float, fault: int) -> None:
    """Instance i breaks. Until the checks have seen it, it is still given work, which fails."""
    now = state.now[0]
    fixed = setup.fixed[0]
    one = state.instances[i]
    note(state, time, EventKind.INSTANCE_BROKE, Cause.NEED, i, fault, 0, NOBODY)
    close_room(setup, state, i, True)
    if one.state == Life.SERVING:
        give_back(setup, state, i, time, 0.0)
        stop_serving(state, i)
        if fails_unseen(setup):
            now.dead += 1
            one.unused = time + fixed.notice
        else:
            one.given_work = False
    else:
        one.given_work = False
    one.state = Life.BROKEN
    one.fault = fault
    one.broke = time
    one.breaks = math.inf
    one.noticed = max(time + fixed.notice, one.requested + fixed.grace) if fault <= fixed.health else math.inf
    now.next_due = min(now.next_due, time)


@inner
def forsake(state: State, i: int) -> None:
    """A broken instance is given no more work."""
    one = state.instances[i]
    if one.state == Life.BROKEN and one.given_work:
        one.given_work = False
        state.now[0].dead -= 1
        one.unused = math.inf


@inner
def find(state: State, i: int) -> None:
    """The health checks have found a fault of instance i. It is given no more work, and waits to be seen to."""
    forsake(state, i)
    state.instances[i].found, state.instances[i].noticed = True, math.inf
    state.now[0].found = True


@inner
def mend(setup: Setup, state: State, i: int, time: float, again: bool) -> None:
    """Restart instance i, whose fault was found, or end it so that another takes its place."""
    one = state.instances[i]
    if again:
        one.restarts += 1
        note(state, time, EventKind.INSTANCE_RESTARTS, Cause.NEED, i, one.restarts, 0, NOBODY)
        boot(setup, state, i, time, False, 0.0)
    else:
        note(state, time, EventKind.INSTANCE_REPLACED, Cause.NEED, i, one.fault, 0, NOBODY)
        leave_zone(state, i)
        end(setup, state, i, time)


@inner
def mend_found(setup: Setup, state: State, time: float) -> None:
    """See to every instance whose fault was found."""
    for a in range(state.now[0].living):
        i = state.alive[a]
        one = state.instances[i]
        if one.found:
            mend(setup, state, i, time, restarts(setup.rules, one.restarts, state.zones[one.zone].lost > 0))
    state.now[0].found = False


@inner
def kind_of_fault(setup: Setup, i: int, restarts: int) -> int:
    fixed = setup.fixed[0]
    drawn = uniform(stream_of(fixed.seed, STREAM_FAULT + 32), 64 * i + min(63, restarts))
    if drawn < fixed.frozen:
        return Fault.FROZEN
    return Fault.HUNG if drawn < fixed.frozen + fixed.hung else Fault.STOPPED


@hot
def live(setup: Setup, state: State, i: int, time: float) -> float:
    """Make the changes of instance i that are due at `time`; returns when its next one is."""
    one = state.instances[i]
    if (one.state == Life.BOOTING or one.state == Life.WARMING) and time >= one.noticed:
        find(state, i)
        return time
    if one.state == Life.BOOTING:
        if time < one.booted:
            return min(one.booted, one.noticed)
        one.state = Life.WARMING
    if one.state == Life.WARMING:
        if time < one.serves:
            return min(one.serves, one.noticed)
        serve_now(setup, state, i, time)
    if one.state == Life.SERVING:
        if time >= one.stress_until:
            one.stress, one.stress_until = 0.0, math.inf
        if time < one.breaks:
            return min(one.breaks, one.stress_until)
        break_down(setup, state, i, time, kind_of_fault(setup, i, one.restarts))
    if one.state == Life.BROKEN:
        if time >= one.unused:
            forsake(state, i)
        if time < one.noticed:
            return min(one.unused, one.noticed)
        find(state, i)
        return time
    if one.state == Life.DRAINING:
        until = min(one.drains + setup.fixed[0].drain, one.deadline)
        if time < until and not is_empty(setup, state, i):
            return until
        state.now[0].draining -= 1
        give_back(setup, state, i, time, time - one.drains)
        stop_or_end(setup, state, i, time)
    if one.state == Life.STOPPING:
        if time < one.unused:
            return one.unused
        end_spell(setup, state, i, time)
        begin_spell(state, i, Billed.STANDING, time)
        one.state = Life.STOPPED
        one.unused = math.inf
        note(state, time, EventKind.INSTANCE_STOPPED, Cause.NEED, i, 0, state.now[0].stopped, NOBODY)
    return math.inf


@inner
def settle(setup: Setup, state: State, time: float) -> None:
    """Make every change of state that is due at `time` (s from the start), and find when the next one is. Faults that are found
    are seen to, unless a keeper does it."""
    change(setup, state, time)
    if state.now[0].found and not setup.fixed[0].kept:
        mend_found(setup, state, time)
        change(setup, state, time)


@hot
def change(setup: Setup, state: State, time: float) -> None:
    """Have each instance make the changes that are due."""
    now = state.now[0]
    next_due = math.inf
    kept = 0
    for a in range(now.living):
        i = state.alive[a]
        due = live(setup, state, i, time)
        if state.instances[i].state != Life.GONE:
            next_due = min(next_due, due)
            state.alive[kept] = i
            kept += 1
    now.living = kept
    now.next_due = next_due


@hot
def owned(state: State) -> int:
    """Owned instances that are there, running or stopped."""
    number = 0
    for a in range(state.now[0].living):
        one = state.instances[state.alive[a]]
        if one.state != Life.REQUESTED and one.state != Life.GONE and not one.overflow:
            number += 1
    return number


@inner
def accepted(setup: Setup, state: State, i: int, zone: int, time: float) -> None:
    """A request was taken: the machine of instance i begins to boot in a zone, and to cost."""
    now = state.now[0]
    fixed = setup.fixed[0]
    one = state.instances[i]
    fresh = one.state == Life.REQUESTED
    if fresh:
        now.waiting -= 1
        one.zone = zone
        one.overflow = fixed.owned < UNLIMITED and owned(state) >= fixed.owned
    else:
        end_spell(setup, state, i, time)
        now.present += 1
        one.requested = time
        one.restarts += 1
        one.drains = math.nan
        one.to_stop = one.unwanted = False
    if one.overflow:
        now.overflow += 1
    state.zones[one.zone].present += 1
    begin_spell(state, i, Billed.RUNNING, time)
    boot(setup, state, i, time, fresh, attach(setup, state, i, time) if fresh else 0.0)
