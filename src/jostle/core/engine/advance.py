"""The loop over ticks: lifecycle and incidents, demand, meters, evaluation, money, in this order."""

from jostle.core.compiled import hot, inner, leaf, part
from jostle.core.decide.code import NOBODY, Cause
from jostle.core.engine.burst import burst
from jostle.core.engine.buying import reclaim, spot_price
from jostle.core.engine.carry_out import evaluate, reconcile
from jostle.core.engine.code import EventKind
from jostle.core.engine.hosting import be_carried
from jostle.core.engine.incident import befall, hands_due
from jostle.core.engine.instance import settle
from jostle.core.engine.kind import running_price
from jostle.core.engine.leaving import drop_coming
from jostle.core.engine.meter import run_meters, take_sample
from jostle.core.engine.note import note, room_left
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import AT_ONCE, State, noted
from jostle.core.engine.swap import complete_swaps, look_for_swaps, may_double
from jostle.core.engine.watch import watch
from jostle.core.engine.work import serve, tell_apart
from jostle.core.plan.work import WorkKind
from jostle.core.reference import by_reference


@inner
def happen(setup: Setup, state: State, time: float) -> None:
    """All that is due by itself at `time`: incidents, hands, changes of state; the first launch of a cold start. Where a fault
    waits to be seen to it is called again at the same time."""
    now = state.now[0]
    fixed = setup.fixed[0]
    tell_apart(setup, state)
    due = befall(setup, state, time)
    counted = hands_due(setup, state, time)
    if counted or (time == 0.0 and (fixed.cold or fixed.guest != NOBODY)):
        reconcile(setup, state, time, NOBODY)
    settle(setup, state, time)
    if may_double(setup):
        complete_swaps(setup, state, time)
    if now.found:
        now.next_due = time
        return
    now.next_due = min(now.next_due, due)
    if now.next_hand < len(setup.hands):
        now.next_due = min(now.next_due, setup.hands[now.next_hand].time)
    if now.surplus > 0 and now.units >= state.memory.row[0].desired:
        dropped = drop_coming(setup, state, time, now.surplus)
        note(state, time, EventKind.SURPLUS_DROPPED, Cause.NEED, NOBODY, now.surplus, dropped, NOBODY)
        now.surplus = 0


@part
def begin(setup: Setup, state: State, k: int) -> bool:
    """What is due at the beginning of tick k. False where a fault was found that a keeper has to see to."""
    now = state.now[0]
    fixed = setup.fixed[0]
    time = k * fixed.tick
    if time >= now.next_due:
        happen(setup, state, time)
        if now.found:
            return False
    if fixed.spot and k % fixed.market_ticks == 0 and k > 0:
        tell_apart(setup, state)
        due = now.next_due
        reclaim(setup, state, time)
        settle(setup, state, time)
        # Instances alone were asked when they are next due: incidents and hands still are as before.
        now.next_due = min(now.next_due, due)
    if fixed.swap_ticks > 0 and k % fixed.swap_ticks == 0 and k > 0:
        tell_apart(setup, state)
        look_for_swaps(setup, state, time)
    now.begun = k + 1
    return True


@hot
def begins(setup: Setup, state: State, k: int) -> bool:
    """Whether something is due at the beginning of tick k that has not been seen to."""
    now, fixed = state.now[0], setup.fixed[0]
    if now.begun > k:
        return False
    on_market = (fixed.spot and k % fixed.market_ticks == 0) or (fixed.swap_ticks > 0 and k % fixed.swap_ticks == 0)
    return on_market or k * fixed.tick >= now.next_due


@hot
def next_to(k: int, every: int) -> int:
    """The first of every so many ticks that comes after tick k."""
    return (k // every + 1) * every


@hot
def tick_due(setup: Setup, state: State, k: int, until: int) -> int:
    """The first tick after tick k at whose beginning something is due, `until` at the most."""
    now, fixed = state.now[0], setup.fixed[0]
    goal = until
    if fixed.spot:
        goal = min(goal, next_to(k, fixed.market_ticks))
    if fixed.swap_ticks > 0:
        goal = min(goal, next_to(k, fixed.swap_ticks))
    if (goal - 1) * fixed.tick >= now.next_due:
        goal = max(k + 1, int(now.next_due / fixed.tick))
        while goal * fixed.tick < now.next_due:
            goal += 1
    return goal


@hot
def quiet_until(setup: Setup, state: State, k: int, until: int) -> int:
    """The tick up to which, from tick k on and until another at the most, nothing but work is done. One tick alone where each has
    more to do."""
    fixed = setup.fixed[0]
    if fixed.watched != NOBODY or fixed.meter_zones or setup.kinds[0].baseline < 1.0:
        return k + 1
    return tick_due(setup, state, k, min(until, k + AT_ONCE))


@part
def work(setup: Setup, state: State, first: int, until: int) -> int:
    """The demand of the ticks from `first` on meets the instances. Returns the tick that is next."""
    now, fixed = state.now[0], setup.fixed[0]
    goal = serve(setup, state, first, until)
    if setup.kinds[0].baseline < 1.0:
        burst(setup, state, first)
    if fixed.watched != NOBODY:
        watch(setup, state, first)
    if fixed.guest != NOBODY:
        be_carried(setup, state, first, goal)
    units, serving, desired, billed, stopped = now.units, now.serving, state.memory.row[0].desired, now.billed, now.stopped
    short, short_ticks = now.short, now.short_ticks
    for k in range(first, goal):
        row = state.series[noted(state, k)]
        row.units, row.serving, row.desired, row.billed, row.stopped = units, serving, desired, billed, stopped
        short_ticks += row.short
        if row.short != short:
            short = row.short
            kind = EventKind.SHORT_BEGINS if short else EventKind.SHORT_ENDS
            note(state, k * fixed.tick, kind, Cause.NEED, NOBODY, 0, 0, NOBODY)
    now.short, now.short_ticks = short, short_ticks
    return goal


@hot
def pay(setup: Setup, state: State, first: int, goal: int) -> None:
    """What the ticks from `first` to before `goal` cost: instances, and what was done by which traffic is told, which are
    requests, jobs, or seconds of sessions."""
    now, fixed = state.now[0], setup.fixed[0]
    price = (running_price(setup, state) + fixed.price_group) * fixed.tick
    seated, each, spend, pieces = fixed.work == WorkKind.SESSIONS, fixed.price_each, now.spend, now.pieces
    for k in range(first, goal):
        row = state.series[noted(state, k)]
        spend += price
        if fixed.spot:
            spend += spot_price(setup, state, k * fixed.tick) * fixed.tick
        done = row.seated * fixed.tick if seated else float(row.served)
        pieces += done
        spend += each * done
    now.spend, now.pieces = spend, pieces
    now.overflow_ticks += now.overflow * (goal - first)


@leaf
def advance(setup: Setup, state: State, until: int) -> bool:
    """Play the ticks before number `until`. False where the record's room ran out first: grow it and go on; or where a fault was
    found that a keeper has to see to."""
    setup, state = by_reference(setup, state)
    return play_out(setup, state, until)


@part
def play_out(setup: Setup, state: State, until: int) -> bool:
    """The same, in compiled code."""
    whole = play_on(setup, state, until)
    tell_apart(setup, state)
    return whole


@part
def play_on(setup: Setup, state: State, until: int) -> bool:
    """The same, where nobody looks at single instances before it goes on."""
    now = state.now[0]
    until = min(until, setup.fixed[0].ticks)
    while now.tick < until:
        if not play_stretch(setup, state, until):
            return False
    return True


@part
def play_stretch(setup: Setup, state: State, until: int) -> bool:
    """Of the ticks before number `until` those that are played in one. False where there was no room, or a fault was found."""
    now, fixed = state.now[0], setup.fixed[0]
    k = now.tick
    if not room_left(setup, state) or (begins(setup, state, k) and not begin(setup, state, k)):
        return False
    reading = decision = (now.samples + 1) * fixed.period_ticks
    if fixed.evaluate_ticks != fixed.period_ticks:
        decision = next_to(k, fixed.evaluate_ticks)
    goal = work(setup, state, k, quiet_until(setup, state, k, min(until, min(reading, decision))))
    run_meters(setup, state, k, goal)
    pay(setup, state, k, goal)
    if goal == reading:
        take_sample(setup, state, goal - 1)
    if goal == decision and not fixed.kept:
        evaluate(setup, state, goal * fixed.tick)
    now.tick = goal
    return True
