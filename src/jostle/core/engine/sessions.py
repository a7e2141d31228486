"""Sessions: guests who take a seat and stay a while."""

import math

import numpy as np

from jostle.core.plan.machine import Machine
from jostle.core.plan.notice import Notice
from jostle.core.plan.work import Sessions

# Ends of a step up to which it is drawn whose each is; and ends on average from which how many there are is drawn from a bell
MOST_ONE_BY_ONE, MANY_ENDS = 4, 5.0
# Part of a session that a step lasts, at most: the refused of Erlang B then come out within a few per cent
END_SHARE = 1 / 16


def fill_sessions(row: np.record, kind: np.record, work: Sessions, machine: Machine, notice: Notice | None) -> float:
    """The numbers of sessions; a Spare policy counts their seats, of which there are no more than the network carries."""
    kind.capacity = kind.draw = seats = min(work.seats, max(1, int(min(machine.most_each(work.kib_out), work.seats))))
    row.full_cpu = work.full_cpu
    if seats < work.seats:
        row.full_cpu = work.idle_cpu + (work.full_cpu - work.idle_cpu) * seats / work.seats
    row.pack = work.place == "pack"
    row.by_chance = True
    row.steps = math.ceil(row.tick / work.length / END_SHARE)
    step = row.tick / row.steps / work.length
    if notice is not None:
        row.notice_times, row.notice_every, row.heed, row.come_back = notice.times, notice.every, notice.heed, notice.come_back
        row.moves = 1.0 - math.exp(-row.tick / row.steps / notice.within)
    row.session_end = 1.0 - math.exp(-step)
    row.log_stay = math.log1p(-row.session_end)
    row.at_once = 1.0 - row.session_end / step
    return float(seats)
