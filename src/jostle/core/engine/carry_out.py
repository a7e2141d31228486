"""What was decided is carried out on the simulated instances: they are sent for, or sent away."""

from jostle.core.compiled import hot, inner, part
from jostle.core.decide.code import NOBODY, Cause, Outcome, Step
from jostle.core.decide.decide import decide
from jostle.core.decide.turnover import turnover, version_before
from jostle.core.engine.code import EventKind, Side
from jostle.core.engine.kind import most_units, present_units
from jostle.core.engine.launch import quota_at, send_for
from jostle.core.engine.leaving import pinned_there, send_away
from jostle.core.engine.note import note
from jostle.core.engine.setup import Setup
from jostle.core.engine.side import look_at_sides
from jostle.core.engine.state import State
from jostle.core.engine.swap import may_double, units_doubled
from jostle.core.engine.work import tell_apart


@part
def reconcile(setup: Setup, state: State, time: float, who: int) -> None:
    """Bring those that are there to the count that is desired, where others are there."""
    if is_off(setup, state):
        bring_to_count(setup, state, time, int(who))


@hot
def goal_of(setup: Setup, state: State) -> int:
    """How many are to be there, with those beyond need of a start and those that are about to be replaced."""
    goal = state.memory.row[0].desired + state.now[0].surplus
    if may_double(setup) and state.memory.row[0].rollout == NOBODY:
        goal += units_doubled(setup, state)
    return goal


@hot
def is_off(setup: Setup, state: State) -> bool:
    """Whether others are there than are to be, or it is still to be seen whether."""
    now = state.now[0]
    return now.waiting > 0 or state.memory.row[0].rollout != NOBODY or present_units(setup, state) != goal_of(setup, state)


@inner
def bring_to_count(setup: Setup, state: State, time: float, who: int) -> None:
    """Send for as many instances as are missing, or send away as many as are too many; while one version takes the place of
    another, of each in turn."""
    now, memory = state.now[0], state.memory
    goal, present = goal_of(setup, state), present_units(setup, state)
    rolls = memory.row[0].rollout != NOBODY
    version = before = memory.row[0].version
    missing, others_missing, leaving, others_leaving = max(0, goal - present), 0, 0, 0
    if rolls:
        tell_apart(setup, state)
        look_at_sides(setup, state, time)
        version, before = now.coming, version_before(memory)
        missing, others_missing, leaving, others_leaving = turnover(
            setup.rules, memory, goal, present, state.fleet[0].fresh, now.serving, most_units(setup, quota_at(setup, time))
        )
    else:
        if present < goal:
            tell_apart(setup, state)
        others_leaving = max(0, present - goal)
    for turn in range(2):
        number = missing if turn == 0 else others_missing
        if number > 0 or (now.waiting > 0 and (turn == 0 or rolls)):
            send_for(setup, state, time, number, who, version if turn == 0 else before)
    if not rolls and others_leaving > 0:
        if as_it_stood(setup, state, goal):
            return
        tell_apart(setup, state)
    for turn in range(2):
        number = leaving if turn == 0 else others_leaving
        if number > 0:
            side = Side.ALL if not rolls else Side.FRESH if turn == 0 else Side.BEFORE
            send_away(setup, state, time, number, who, memory.row[0].asleep, side)
    if others_leaving > 0 and not rolls:
        now.too_many, now.told_then = goal, now.events


@hot
def as_it_stood(setup: Setup, state: State, goal: int) -> bool:
    """Whether those that were too many were looked at for this goal, and nothing has happened since: none of them leaves now that
    did not then."""
    now = state.now[0]
    return setup.fixed[0].settled_order and now.too_many == goal and now.told_then == now.events


@hot
def evaluate(setup: Setup, state: State, time: float) -> None:
    """One evaluation: the decision, what is noted of it, and the launches or removals that follow from it. A host and its
    guests all decide before the first of them has others come or go; see `carrying`."""
    now = state.now[0]
    fleet = state.fleet[0]
    e = now.evaluations
    fleet.present, fleet.serving = present_units(setup, state), now.units
    fleet.waiting = now.waiting * setup.kinds[0].weight
    fleet.quota = most_units(setup, quota_at(setup, time))
    fleet.pinned = pinned_there(setup, state) if now.pins else 0
    if len(setup.rules.rollouts) > 0:
        look_at_sides(setup, state, time)
    v = min(e, len(state.views) - 1)
    told = setup.orders[e : e + 1]
    decide(setup.rules, state.memory, state.sight, told, state.fleet, time, state.decisions[e : e + 1], state.views[v : v + 1], 0)
    who = enter(state, time, e)
    if len(state.deck.guests) == 0:
        reconcile(setup, state, time, who)
    elif is_off(setup, state):
        now.owes, now.owed_by = True, who
        state.deck.helm[0].owing += 1


@hot
def enter(state: State, time: float, e: int) -> int:
    """Note what was decided in row e of the decisions. Returns the policy that changed the count, if one did."""
    now = state.now[0]
    row = state.decisions[e]
    if (row.winner != NOBODY and row.limit == Outcome.AT_MAXIMUM) or row.limit == Outcome.AT_QUOTA:
        if now.held_at != row.decided:
            note(state, time, EventKind.LIMIT_REACHED, Cause.POLICY, row.winner, row.braked, row.decided, e)
        now.held_at = row.decided
    elif now.held_at != row.decided:
        now.held_at = NOBODY
    now.evaluations += 1
    if row.step != Step.NONE:
        note(state, time, EventKind.ROLLOUT, Cause.CALENDAR, row.rollout, row.step, row.goal, e)
    who = NOBODY
    if row.decided != row.desired:
        named = row.winner if row.cause == Cause.POLICY else row.entry
        note(state, time, EventKind.COUNT_CHANGED, row.cause, named, row.desired, row.decided, e)
        who = row.winner if row.cause == Cause.POLICY else NOBODY
    return who
