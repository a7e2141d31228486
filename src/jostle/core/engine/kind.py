"""The kinds of machine that a group has: what an instance of each can do, how soon it is there, and what it costs.

Counts are kept for each kind where instances begin and end to serve and to be billed, so that what the group can do and what it
costs are sums over kinds, however many instances there are.
"""

from jostle.core.compiled import hot, inner
from jostle.core.decide.code import NOBODY
from jostle.core.engine.code import Life
from jostle.core.engine.mix import ON_DEMAND, SPOT, kind_of, type_of
from jostle.core.engine.setup import Setup
from jostle.core.engine.state import UNLIMITED, State


@hot
def can_do(setup: Setup, state: State) -> float:
    """What the serving instances can do: requests or jobs, 1/s; seats."""
    total = 0.0
    for m in range(len(setup.kinds)):
        total += state.crews[m].serving * setup.kinds[m].capacity
    return total


@inner
def draws(setup: Setup, state: State) -> float:
    """What the serving instances are given of requests, in the unit of `can_do`: as much as they could do of what the group is
    said to do, whatever their version takes for it."""
    total = 0.0
    for m in range(len(setup.kinds)):
        total += state.crews[m].serving * setup.kinds[m].draw
    return total


@inner
def build_of(setup: Setup, version: int) -> int:
    """The place of a version among those that are told apart, 0 where it is none of them."""
    types = setup.fixed[0].types
    for b in range(setup.fixed[0].builds):
        if setup.kinds[2 * types * b].version == version:
            return b
    return 0


@inner
def first_type(setup: Setup, version: int) -> int:
    """The first type of machine of a version; those after it are as many as each version has."""
    return setup.fixed[0].types * build_of(setup, version) if setup.fixed[0].builds > 1 else 0


@hot
def running_price(setup: Setup, state: State) -> float:
    """What all instances cost a second, running or stopped, with the disks of those that are gone."""
    total = 0.0
    for m in range(len(setup.kinds)):
        total += state.crews[m].billed * setup.kinds[m].price + state.crews[m].stopped * setup.kinds[m].price_stopped
    if setup.fixed[0].keeps:
        for m in range(len(setup.kinds)):
            total += state.crews[m].detached * setup.kinds[m].price_detached
    return total


@hot
def worth(setup: Setup, kind: int) -> float:
    """What an instance of a kind does against one of the first, whatever their version takes for it."""
    return setup.kinds[kind].draw / setup.kinds[0].draw


@hot
def weight_of(setup: Setup, state: State, i: int) -> int:
    """What instance i is of what the group counts in."""
    return setup.kinds[state.instances[i].kind].weight


@hot
def present_units(setup: Setup, state: State) -> int:
    """Those that are not leaving, stopped or gone in what the group counts in; one that is asked for counts as one of the first
    type."""
    if not setup.fixed[0].weighed:
        return state.now[0].present
    number = 0
    for a in range(state.now[0].living):
        i = state.alive[a]
        if is_present(state.instances[i].state):
            number += weight_of(setup, state, i)
    return number


@hot
def is_present(life: int) -> bool:
    return life <= Life.SERVING or life == Life.BROKEN


@hot
def is_coming(state: State, i: int) -> bool:
    """Whether instance i is on its way in the place of one that still serves."""
    one = state.instances[i]
    coming = one.replaces != NOBODY and one.state < Life.SERVING
    return coming and state.instances[one.replaces].state == Life.SERVING


@inner
def billed_of(setup: Setup, state: State, machine_type: int) -> int:
    """Instances on the machine of a type that run, of whatever version."""
    number = state.crews[kind_of(machine_type, ON_DEMAND)].billed
    if len(setup.kinds) > 1:
        number += state.crews[kind_of(machine_type, SPOT)].billed
    if setup.fixed[0].builds > 1:
        pool = setup.kinds[kind_of(machine_type, ON_DEMAND)].pool
        for m in range(len(setup.kinds)):
            if type_of(m) != machine_type and setup.kinds[kind_of(type_of(m), ON_DEMAND)].pool == pool:
                number += state.crews[m].billed
    return number


@hot
def room_of(setup: Setup, state: State, machine_type: int, quota: int) -> int:
    """How many more of a type of machine its quota allows; that of the first is `quota`."""
    kind = setup.kinds[kind_of(machine_type, ON_DEMAND)]
    allowed = quota if kind.pool == 0 else kind.quota
    return max(0, allowed - billed_of(setup, state, machine_type))


@hot
def room_left_by(setup: Setup, state: State, quota: int, version: int) -> int:
    """How many more of all types of machines of a version their quotas allow."""
    number, first = 0, first_type(setup, version)
    for t in range(first, first + setup.fixed[0].types):
        number += room_of(setup, state, t, quota)
    return number


@hot
def most_units(setup: Setup, quota: int) -> int:
    """What the quotas leave to the group, that of its first type being `quota`, in what it counts in."""
    most = min(UNLIMITED, quota * setup.kinds[0].weight)
    for m in range(2, 2 * setup.fixed[0].types, 2):
        most = min(UNLIMITED, most + min(UNLIMITED, setup.kinds[m].quota) * setup.kinds[m].weight)
    return most
