"""What strikes a group from outside at given times: incidents, and the hands of whoever scripts a test."""

import math

from jostle.core.compiled import inner
from jostle.core.decide.code import NOBODY, Cause, Reason
from jostle.core.decide.memory import set_by_hand
from jostle.core.decide.rollout import roll_by_hand
from jostle.core.engine.code import THE_NEWEST, THE_OLDEST, Blow, EventKind, Fault, HandAct, Life
from jostle.core.engine.instance import boot, break_down, end, forsake, leave_zone, stop_serving
from jostle.core.engine.leaving import dismiss
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State
from jostle.core.engine.work import give_back


@inner
def lose(setup: Setup, state: State, i: int, time: float) -> None:
    """The machine of instance i is no more: one that works is broken, one that leaves is gone."""
    one = state.instances[i]
    if one.state == Life.BOOTING or one.state == Life.WARMING or one.state == Life.SERVING:
        break_down(setup, state, i, time, Fault.STOPPED)
    elif one.state == Life.DRAINING:
        state.now[0].draining -= 1
        give_back(setup, state, i, time, time - one.drains)
        end(setup, state, i, time)
    elif one.state == Life.STOPPING:
        end(setup, state, i, time)


@inner
def close_zones(state: State, zone: int, by: int) -> None:
    """One more reason, or one less, for a zone to refuse launches; for every zone where none is named."""
    for z in range(len(state.zones)):
        if zone in (NOBODY, z):
            state.zones[z].closed += by


@inner
def strike(setup: Setup, state: State, n: int, time: float) -> None:
    """Incident n begins."""
    now = state.now[0]
    incident = setup.incidents[n]
    if incident.kind == Blow.ZONE_LOST:
        state.zones[incident.zone].lost += 1
        for a in range(now.living):
            if state.instances[state.alive[a]].zone == incident.zone:
                lose(setup, state, state.alive[a], time)
    elif incident.kind == Blow.NO_CAPACITY:
        close_zones(state, incident.zone, 1)
    elif incident.kind == Blow.SLOW_BOOTS:
        now.boot_factor *= incident.amount
    elif incident.kind == Blow.SLOW_DEPENDENCY:
        now.extra_latency += incident.amount
    elif incident.kind == Blow.BREAKING:
        left = int(math.ceil(incident.amount * now.serving - 1e-9))
        for a in range(now.living):
            if left > 0 and state.instances[state.alive[a]].state == Life.SERVING:
                break_down(setup, state, state.alive[a], time, incident.fault)
                left -= 1


@inner
def pass_over(setup: Setup, state: State, n: int) -> None:
    """Incident n ends."""
    now = state.now[0]
    incident = setup.incidents[n]
    if incident.kind == Blow.ZONE_LOST:
        state.zones[incident.zone].lost -= 1
    elif incident.kind == Blow.NO_CAPACITY:
        close_zones(state, incident.zone, -1)
    elif incident.kind == Blow.SLOW_BOOTS:
        now.boot_factor /= incident.amount
    elif incident.kind == Blow.SLOW_DEPENDENCY:
        now.extra_latency = max(0.0, now.extra_latency - incident.amount)


@inner
def befall(setup: Setup, state: State, time: float) -> float:
    """Begin and end the incidents that are due; returns when the next one is (s from the start)."""
    due = math.inf
    for n in range(len(setup.incidents)):
        incident = setup.incidents[n]
        if state.incidents[n] == 0 and time >= incident.begin:
            state.incidents[n] = 1
            note(state, time, EventKind.INCIDENT_BEGINS, Cause.NEED, n, 0, 0, NOBODY)
            strike(setup, state, n, time)
        if state.incidents[n] == 1 and time >= incident.end:
            state.incidents[n] = 2
            if incident.kind != Blow.BREAKING:
                note(state, time, EventKind.INCIDENT_ENDS, Cause.NEED, n, 0, 0, NOBODY)
            pass_over(setup, state, n)
        if state.incidents[n] < 2:
            due = min(due, incident.begin if state.incidents[n] == 0 else incident.end)
    return due


@inner
def meant(state: State, number: int) -> int:
    """Position of the instance that a hand means, or NOBODY where it is not there."""
    found = NOBODY
    for a in range(state.now[0].living):
        i = state.alive[a]
        kind = state.instances[i].state
        if kind != Life.SERVING and kind != Life.BOOTING and kind != Life.WARMING:
            continue
        if number in (THE_OLDEST, i):
            return i
        if number == THE_NEWEST:
            found = i
    return found


@inner
def handle(setup: Setup, state: State, i: int, kind: int, time: float, amount: float, length: float) -> None:
    """Do one thing to instance i by hand; `amount` and `length` (s) are those of the load on its CPU."""
    one, now = state.instances[i], state.now[0]
    if kind == HandAct.DRAIN:
        dismiss(setup, state, i, time, NOBODY, False, Reason.HAND)
    elif kind == HandAct.PIN:
        one.pinned = amount >= 0.0
        now.pins = True
    elif kind == HandAct.STRESS:
        one.stress = amount
        one.stress_until = time + length
        now.uneven = True
        now.next_due = min(now.next_due, time)
    else:
        forsake(state, i)
        if one.state == Life.SERVING:
            give_back(setup, state, i, time, 0.0)
            stop_serving(state, i)
        if kind == HandAct.KILL:
            leave_zone(state, i)
            end(setup, state, i, time)
        else:
            one.restarts += 1
            note(state, time, EventKind.INSTANCE_RESTARTS, Cause.HAND, i, one.restarts, 0, NOBODY)
            boot(setup, state, i, time, False, 0.0)


@inner
def lay_hand(setup: Setup, state: State, n: int, time: float) -> None:
    """Hand n does what it is there for. A count that it sets stands within the limits; `reconcile` sees to the rest."""
    hand = setup.hands[n]
    if hand.kind == HandAct.SET:
        before = state.memory.row[0].desired
        after = set_by_hand(setup.rules, state.memory, int(hand.amount))
        note(state, time, EventKind.COUNT_CHANGED, Cause.HAND, n, before, after, NOBODY)
        return
    if hand.kind == HandAct.LOAD:
        note(state, time, EventKind.HAND_ACTS, Cause.HAND, n, 0, 0, NOBODY)
        return
    if hand.kind == HandAct.ROLL:
        done = roll_by_hand(setup.rules, state.memory, hand.number, time, state.memory.row[0].desired)
        note(state, time, EventKind.HAND_ACTS, Cause.HAND, n, int(done), 0, NOBODY)
        return
    i = meant(state, hand.number)
    note(state, time, EventKind.HAND_ACTS, Cause.HAND, n, i, 0, NOBODY)
    if i == NOBODY:
        return
    handle(setup, state, i, hand.kind, time, hand.amount, hand.length)


@inner
def hands_due(setup: Setup, state: State, time: float) -> bool:
    """Do what hands do by now; whether one of them set the count."""
    now = state.now[0]
    counted = False
    while now.next_hand < len(setup.hands) and time >= setup.hands[now.next_hand].time:
        counted = counted or setup.hands[now.next_hand].kind == HandAct.SET
        lay_hand(setup, state, now.next_hand, time)
        now.next_hand += 1
    return counted
