"""Sending for instances: stopped ones of the reserve first, then new ones, in a zone that takes them."""

import math

from jostle.core.compiled import hot, inner, part
from jostle.core.decide.code import NOBODY, Cause
from jostle.core.engine.buying import place_for, to_be_had
from jostle.core.engine.code import EventKind, Life, Refusal
from jostle.core.engine.identity import free_post, home_of
from jostle.core.engine.instance import accepted, end, leave_zone
from jostle.core.engine.kind import room_left_by, weight_of
from jostle.core.engine.launch_zone import zone_for
from jostle.core.engine.note import note
from jostle.core.engine.room import CRUMB, find_host, largest_room
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNLIMITED, UNTOUCHED, State


@hot
def quota_at(setup: Setup, time: float) -> int:
    """Instances that the quota leaves to this group."""
    fixed = setup.fixed[0]
    e = int(time / (fixed.evaluate_ticks * fixed.tick) + 1e-9) - 1
    return setup.quota[min(max(0, e), len(setup.quota) - 1)] if len(setup.quota) else UNLIMITED


@inner
def stopped_one(state: State) -> int:
    """The longest stopped instance of the open zone that has the fewest at work, or NOBODY."""
    now = state.now[0]
    best = NOBODY
    if now.stopped == 0:
        return best
    for a in range(now.living):
        i = state.alive[a]
        one = state.instances[i]
        zone = state.zones[one.zone]
        if one.state != Life.STOPPED or zone.lost > 0 or zone.closed > 0:
            continue
        if best == NOBODY or zone.present < state.zones[state.instances[best].zone].present:
            best = i
    return best


@inner
def ask_for(state: State, time: float, version: int, who: int, post: int) -> int:
    """Write a request for a new instance, under a number of the names that are used again; returns its position."""
    now = state.now[0]
    i = now.launched
    state.instances[i] = UNTOUCHED[0]
    one = state.instances[i]
    one.requested = time
    one.booted = one.serves = math.inf
    one.state = Life.REQUESTED
    one.version = version
    one.asked_by = who
    one.post = post
    if post != NOBODY:
        state.posts[post].held_by = i
    state.alive[now.living] = i
    now.living += 1
    now.launched += 1
    now.present += 1
    now.waiting += 1
    return i


@inner
def lacking(setup: Setup, state: State) -> int:
    """Of what no host has enough for a copy."""
    guest = state.deck.guests[setup.fixed[0].guest]
    return Refusal.MEMORY if largest_room(state.deck, guest.memory)[0] + CRUMB < guest.memory else Refusal.VCPUS


@inner
def largest_free(setup: Setup, state: State, refused: int) -> int:
    """The largest place that is free, of what a launch was refused for: memory in MiB, or vCPUs in thousandths."""
    memory, vcpus = largest_room(state.deck, state.deck.guests[setup.fixed[0].guest].memory)
    return int(round(1024.0 * memory)) if refused == Refusal.MEMORY else int(round(1000.0 * vcpus))


@inner
def try_launch(setup: Setup, state: State, time: float, quota: int, post: int, version: int) -> int:
    """Have one more instance of a version, under a number of its name, where something takes it: its position, NOBODY where it is
    to be asked for, or -2 - reason of the refusal."""
    if room_left_by(setup, state, quota, version) == 0:
        return -2 - Refusal.QUOTA
    i = stopped_one(state)
    if i != NOBODY:
        accepted(setup, state, i, state.instances[i].zone, time)
        note(state, time, EventKind.INSTANCE_STARTS, Cause.NEED, i, 0, state.now[0].stopped, NOBODY)
        return i
    if setup.fixed[0].guest != NOBODY:
        return NOBODY if find_host(setup, state.deck) != NOBODY else -2 - lacking(setup, state)
    if (setup.fixed[0].ordered or setup.fixed[0].wait > 0.0) and not to_be_had(
        setup, state, time, quota, home_of(setup, state, post), version
    ):
        return -2 - Refusal.MARKET
    return -2 - Refusal.CAPACITY if zone_for(setup, state, home_of(setup, state, post)) == NOBODY else NOBODY


@part
def send_for(setup: Setup, state: State, time: float, number: int, who: int, version: int) -> None:
    """Send for instances of a version; see `launch_all`."""
    launch_all(setup, state, time, int(number), int(who), version)


@inner
def launch_all(setup: Setup, state: State, time: float, number: int, who: int, version: int) -> None:
    """Send for as many instances of a version as are worth so much of what the group counts in, and once more for those that were
    refused before."""
    now = state.now[0]
    quota = quota_at(setup, time)
    waited = had = now.waiting
    refused = NOBODY
    for a in range(now.living):
        if waited == 0:
            break
        i = state.alive[a]
        if state.instances[i].state != Life.REQUESTED:
            continue
        waited -= 1
        found = try_launch(setup, state, time, quota, state.instances[i].post, state.instances[i].version)
        if found == NOBODY:
            accepted(setup, state, i, place_for(setup, state, i, time, quota), time)
        elif found >= 0:
            leave_zone(state, i)
            end(setup, state, i, time)
        else:
            refused = -2 - found
    missing = number
    while missing > 0:
        post = free_post(setup, state)
        found = try_launch(setup, state, time, quota, post, version)
        if found >= 0:
            state.instances[found].asked_by = who
            missing -= weight_of(setup, state, found)
            continue
        i = ask_for(state, time, version, who, post)
        if found == NOBODY:
            accepted(setup, state, i, place_for(setup, state, i, time, quota), time)
        else:
            refused = -2 - found
        missing -= weight_of(setup, state, i)
    if now.waiting > had and refused != NOBODY:
        most = largest_free(setup, state, refused) if setup.fixed[0].guest != NOBODY else quota
        note(state, time, EventKind.LAUNCH_REFUSED, Cause.NEED, refused, now.waiting, most, NOBODY)
    elif had > 0 and now.waiting == 0:
        note(state, time, EventKind.LAUNCH_TAKEN, Cause.NEED, NOBODY, had, 0, NOBODY)
    now.next_due = min(now.next_due, time)
