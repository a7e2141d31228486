"""What is likely to come: learned week by week at each place in it, as many times as it runs above or below that of late.

Only samples that are known at an instant are read at it, so that nothing later can change what is expected.
"""

import math

from jostle.core.compiled import inner, leaf
from jostle.core.decide.code import NOBODY, Dial
from jostle.core.decide.memory import Memory
from jostle.core.decide.rules import Rules
from jostle.core.decide.sight import Sight
from jostle.core.plan.policy import PolicyKind
from jostle.core.plan.policy.lookahead import MOST_ABOVE, SLOT, SLOTS, learn


@leaf
def place_in_week(week: float) -> int:
    """The place of a time in the week (s since Monday began)."""
    return int(math.floor(week / SLOT)) % SLOTS


@inner
def take_in(rules: Rules, memory: Memory, sight: Sight, p: int, time: float, week: int, published: int) -> None:
    """Policy p reads the samples that have come since it last did: what was usual at a place is learned once that is over."""
    book, policy, one = memory.books[rules.policies[p].book], rules.policies[p], rules.row[0]
    usual = memory.usual[policy.book]
    ring = sight.samples.shape[2]
    fade = math.exp(-1.0 / policy.window)
    for k in range(max(book.read, published - ring), published):
        rate = sight.samples[0, Dial.ARRIVALS, k % ring]
        if math.isnan(rate):
            continue
        slot = place_in_week(week - time + (k + 0.5) * one.period)
        if slot != book.slot:
            if book.slot != NOBODY:
                learn(usual, book.slot, book.summed / book.number)
            book.slot, book.summed, book.number = slot, 0.0, 0
        book.summed += rate
        book.number += 1
        if usual[slot].weeks > 0:
            book.seen = fade * book.seen + rate
            book.usual = fade * book.usual + usual[slot].rate
    book.read = published


@inner
def expect(rules: Rules, memory: Memory, p: int, week: int) -> None:
    """What policy p expects at the most from now to as far as it looks ahead."""
    policy = rules.policies[p]
    book, usual = memory.books[policy.book], memory.usual[policy.book]
    book.ratio = 1.0
    if book.usual > 0.0:
        book.ratio = min(MOST_ABOVE, max(1.0 / MOST_ABOVE, book.seen / book.usual))
    best = NOBODY
    first = int(math.floor(week / SLOT))
    for n in range(first, int(math.floor((week + policy.lead) / SLOT)) + 1):
        one = usual[n % SLOTS]
        if one.weeks > 0 and (best == NOBODY or one.rate > usual[best % SLOTS].rate):
            best = n
    if best == NOBODY:
        book.expected, book.ahead, book.off, book.weeks = math.nan, 0.0, 0.0, 0
        return
    one = usual[best % SLOTS]
    book.expected, book.off, book.weeks = book.ratio * one.rate, book.ratio * one.off, one.weeks
    book.ahead = max(0.0, float(best * SLOT - week))


@leaf
def look_ahead(rules: Rules, memory: Memory, sight: Sight, time: float, week: int, published: int) -> None:
    """All policies that look ahead read and expect, at a time (s) that lies so far into the week (s)."""
    for p in range(len(rules.policies)):
        if rules.policies[p].kind == PolicyKind.LOOKAHEAD:
            take_in(rules, memory, sight, p, time, week, published)
            expect(rules, memory, p, week)
