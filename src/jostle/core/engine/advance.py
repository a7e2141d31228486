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
from jostle.core.engine.state import State, noted
from jostle.core.engine.swap import complete_swaps, look_for_swaps
from jostle.core.engine.watch import watch
from jostle.core.engine.work import pieces, serve, tell_apart


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
    if fixed.swap_ticks > 0 or fixed.guest != NOBODY:
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


@inner
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
def work(setup: Setup, state: State, k: int) -> None:
    """Tick k's demand meets the instances."""
    now = state.now[0]
    serve(setup, state, k)
    if setup.kinds[0].baseline < 1.0:
        burst(setup, state, k)
    if setup.fixed[0].watched != NOBODY:
        watch(setup, state, k)
    if setup.fixed[0].guest != NOBODY:
        be_carried(setup, state, k)
    row = state.series[noted(state, k)]
    row.in_use = now.in_use
    row.units = now.units
    row.serving, row.desired, row.billed, row.stopped = now.serving, state.memory.row[0].desired, now.billed, now.stopped
    now.short_ticks += row.short
    if row.short != now.short:
        kind = EventKind.SHORT_BEGINS if row.short else EventKind.SHORT_ENDS
        note(state, k * setup.fixed[0].tick, kind, Cause.NEED, NOBODY, 0, 0, NOBODY)
        now.short = row.short


@leaf
def advance(setup: Setup, state: State, until: int) -> bool:
    """Play the ticks before number `until`. False where the record's room ran out first: grow it and go on; or where a fault was
    found that a keeper has to see to."""
    whole = play_on(setup, state, until)
    tell_apart(setup, state)
    return whole


@part
def play_on(setup: Setup, state: State, until: int) -> bool:
    """The same, where nobody looks at single instances before it goes on."""
    now = state.now[0]
    fixed = setup.fixed[0]
    until = min(until, fixed.ticks)
    while now.tick < until and room_left(setup, state):
        k = now.tick
        if begins(setup, state, k) and not begin(setup, state, k):
            break
        work(setup, state, k)
        run_meters(setup, state, k)
        now.overflow_ticks += now.overflow
        now.spend += (running_price(setup, state) + fixed.price_group) * fixed.tick
        if fixed.spot:
            now.spend += spot_price(setup, state, k * fixed.tick) * fixed.tick
        done = pieces(setup, state, k)
        now.pieces += done
        now.spend += fixed.price_each * done
        if (k + 1) % fixed.period_ticks == 0:
            take_sample(setup, state, k)
        if not fixed.kept and (k + 1) % fixed.evaluate_ticks == 0:
            evaluate(setup, state, (k + 1) * fixed.tick)
        now.tick = k + 1
    return now.tick >= until
