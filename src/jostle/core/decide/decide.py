"""One decision, for a rehearsal and for a group that is really there alike."""

import numpy as np

from jostle.core.compiled import door
from jostle.core.decide.code import NOBODY, Cause, Outcome, Stance, Step
from jostle.core.decide.expect import look_ahead
from jostle.core.decide.memory import Memory, remember_removal
from jostle.core.decide.rollout import roll
from jostle.core.decide.rules import Rules
from jostle.core.decide.sight import Sight, published_by
from jostle.core.decide.stages import brake, choose, consult, limit, pace
from jostle.core.decide.stand import stand


@door
def decide(
    rules: Rules,
    memory: Memory,
    sight: Sight,
    orders: np.ndarray,
    fleet: np.ndarray,
    time: float,
    decisions: np.ndarray,
    views: np.ndarray,
    e: int,
) -> int:
    """The count that is wanted from `time` (s, on the clock of the samples) on.

    `orders` holds ORDER rows, shape (evaluations,); `fleet` one FLEET row. What was decided and why is written to row `e` of
    `decisions`, of DECISION, shape (evaluations,), and of `views`, of VIEW, shape (evaluations, policies); what is to be
    remembered to `memory`. With one row of each, `e` is 0. It touches no instance.
    """
    now = memory.row[0]
    row = decisions[e]
    desired = now.desired
    published = published_by(time, rules.row[0].meter_delay, rules.row[0].period)
    if len(memory.books) > 0:
        look_ahead(rules, memory, sight, time, orders[e].week, published)
    choose(rules, memory, sight, time, published, decisions, views, e)
    pace(rules, memory, time, decisions, e)
    consult(rules, memory, orders, time, decisions, e)
    if rules.row[0].order > 0:
        stand(rules, memory, fleet, time, decisions, e)
    brake(rules, memory, time, decisions, e)
    limit(rules, memory, fleet, decisions, e)
    if len(rules.rollouts) > 0:
        roll(rules, memory, orders, fleet, time, decisions, e)
    else:
        row.rollout, row.step = NOBODY, Step.NONE
        row.phase = row.version_before = row.version = row.goal = row.look = 0
        row.own = row.others = row.chance = row.answers = 0.0
    row.time, row.desired, row.serving = time, desired, fleet[0].serving
    row.pending, row.pinned = fleet[0].present - fleet[0].serving, fleet[0].pinned
    row.group_wait = max(0.0, now.wait_until - time)
    if row.decided != desired:
        row.outcome = Outcome.CHANGED
        if row.cause == Cause.POLICY:
            for p in range(len(rules.policies)):
                agreed = row.decided < desired and views[e, p].state == Stance.ASKING and views[e, p].ask < desired
                if p == row.winner or agreed:
                    memory.waits[p] = time + rules.policies[p].cooldown
            now.wait_until = time + rules.row[0].cooldown
        if row.decided < desired:
            remember_removal(memory, time, desired - row.decided)
        now.desired = row.decided
    order = orders[e]
    done = order.set_entry == row.entry and (order.set_by or order.set_count == row.decided)
    if row.cause == Cause.CALENDAR and order.set_time > now.settled and done:
        now.settled = order.set_time
    return now.desired
