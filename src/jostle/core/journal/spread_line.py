"""A spread over seeds in one sentence."""

from jostle.core.plan.quantity import say_money, say_number
from jostle.core.rehearsal.spread import Spread

NO_CHANCE = "Nothing in this week is left to chance: all seeds give the same, and being kept under all of them proves nothing."


def say_spread(found: Spread) -> str:
    """`Over 20 seeds: cost € 230 to € 245, short 12 to 40 min.`"""
    if not found.chance:
        return NO_CHANCE
    cost, short = found.figures["cost"], found.figures["short_minutes"]
    lowest, highest = (say_money(round(one, 2), found.currency) for one in (cost.lowest, cost.highest))
    minutes = f"{say_number(short.lowest)} to {say_number(short.highest)} min"
    return f"Over {len(found.seeds)} seeds: cost {lowest} to {highest}, short {minutes}."
