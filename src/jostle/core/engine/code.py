"""The numbers that stand for words in the engine's rows."""

from enum import IntEnum


class Life(IntEnum):
    """How far an instance has come."""

    REQUESTED = 0
    BOOTING = 1
    WARMING = 2
    SERVING = 3
    DRAINING = 4
    STOPPING = 5
    STOPPED = 6
    GONE = 7
    BROKEN = 8


class Fault(IntEnum):
    """Faults, and the bases of health that see them: a basis sees every fault up to its own number."""

    SOUND = 0
    STOPPED = 1
    FROZEN = 2
    HUNG = 3


class Billed(IntEnum):
    """Kinds of time that are billed."""

    RUNNING = 0
    STANDING = 1
    DETACHED = 2


class Blow(IntEnum):
    """What an incident does."""

    ZONE_LOST = 0
    NO_CAPACITY = 1
    SLOW_BOOTS = 2
    SLOW_DEPENDENCY = 3
    BREAKING = 4
    MARKET = 5


class HandAct(IntEnum):
    """What a hand does."""

    SET = 0
    KILL = 1
    PIN = 2
    STRESS = 3
    RESTART = 4
    DRAIN = 5
    LOAD = 6
    ROLL = 7


class Side(IntEnum):
    """Who is meant while a version is brought in: all, those of it, or the others."""

    ALL = 0
    FRESH = 1
    BEFORE = 2


class Order(IntEnum):
    """What a keeper has done to instances that it keeps from outside, besides what hands do."""

    ENTER = 10
    MORE = 11
    LEAVE = 12
    COUNT = 13
    MEND = 14
    END = 15


class EventKind(IntEnum):
    COUNT_CHANGED = 0
    INSTANCE_SERVES = 1
    INSTANCE_GONE = 2
    SHORT_BEGINS = 3
    SHORT_ENDS = 4
    LIMIT_REACHED = 5
    LAUNCH_REFUSED = 6
    LAUNCH_TAKEN = 7
    INSTANCE_BROKE = 8
    INSTANCE_RESTARTS = 9
    INSTANCE_REPLACED = 10
    INSTANCE_STOPPED = 11
    INSTANCE_STARTS = 12
    SESSIONS_CUT = 13
    JOBS_RETURNED = 14
    SURPLUS_DROPPED = 15
    INCIDENT_BEGINS = 16
    INCIDENT_ENDS = 17
    HAND_ACTS = 18
    INSTANCE_LEAVES = 19
    SPOT_BOUGHT = 20
    NO_SPOT = 21
    SWAP_BEGINS = 22
    SWAP_ENDS = 23
    ROLLOUT = 24
    COPY_LOST = 25
    COPY_MOVES = 26
    COPY_MOVED = 27
    INSTANCE_LAUNCHED = 28


class Choose(IntEnum):
    """In which zone spot is bought."""

    BALANCED = 0
    CHEAPEST = 1
    SAFEST = 2
    IN_ORDER = 3


class Bought(IntEnum):
    """How a launch is bought, and why."""

    SPOT = 0
    BY_MIX = 1
    NO_SPOT = 2


class Refusal(IntEnum):
    """Why a launch was refused."""

    QUOTA = 0
    CAPACITY = 1
    MARKET = 2
    MEMORY = 3
    VCPUS = 4


class Put(IntEnum):
    """On which host a copy goes."""

    SPREAD = 0
    PACK = 1


# Which instance, where not by number
THE_OLDEST, THE_NEWEST = -1, -2
