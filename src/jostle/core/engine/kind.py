"""The kinds of machine that a group has: what an instance of each can do, how soon it is there, and what it costs.

Counts are kept for each kind where instances begin and end to serve and to be billed, so that what the group can do and what it
costs are sums over kinds, however many instances there are.
"""

from jostle.core.compiled import hot
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import State


@hot
def can_do(setup: Setup, state: State) -> float:
    """What the serving instances can do: requests or jobs, 1/s; seats."""
    total = 0.0
    for m in range(len(setup.kinds)):
        total += state.crews[m].serving * setup.kinds[m].capacity
    return total


@hot
def running_price(setup: Setup, state: State) -> float:
    """What all instances cost a second, running or stopped."""
    total = 0.0
    for m in range(len(setup.kinds)):
        total += state.crews[m].billed * setup.kinds[m].price + state.crews[m].stopped * setup.kinds[m].price_stopped
    return total
