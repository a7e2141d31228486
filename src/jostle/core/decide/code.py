"""The numbers that stand for words in rules and decisions."""

from enum import IntEnum


class Fold(IntEnum):
    """How a window becomes one value."""

    AVERAGE = 0
    MINIMUM = 1
    MAXIMUM = 2
    LATEST = 3
    SUM = 4
    COUNT = 5
    P90 = 6


class Stance(IntEnum):
    """What a policy is doing at an evaluation."""

    QUIET = 0
    ASKING = 1
    WAITING = 2
    NO_DATA = 3
    PAUSED = 4
    ADVISING = 5


class Mode(IntEnum):
    """What policies may do."""

    GROW_AND_SHRINK = 0
    GROW = 1
    STAY = 2


class Outcome(IntEnum):
    """How an evaluation ended: what came of it, or the last stage that held it back."""

    NOTHING = 0
    CHANGED = 1
    GROUP_WAITS = 2
    AT_MAXIMUM = 3
    AT_MINIMUM = 4
    NOT_AGREED = 5
    MODE_HOLDS = 6
    FROZEN = 7
    NO_REMOVALS = 8
    AT_FLOOR = 9
    AT_CEILING = 10
    ASLEEP = 11
    BRAKED = 12
    AT_QUOTA = 13
    AT_PINNED = 14
    EXPECTED = 15


class Cause(IntEnum):
    """Who changed the count or sent for an instance."""

    POLICY = 0
    CALENDAR = 1
    HAND = 2
    SLEEP = 3
    NEED = 4
    ORDER = 5


class Dial(IntEnum):
    """Metrics, in the order of the rows of samples; rows of outside series follow."""

    CPU = 0
    REQUESTS_PER_INSTANCE = 1
    LATENCY_P95 = 2
    FAILED_SHARE = 3
    BACKLOG = 4
    BACKLOG_PER_INSTANCE = 5
    MEMORY = 6
    AGE = 7
    SESSIONS_PER_INSTANCE = 8
    FREE_SEATS = 9
    FREE_SEATS_SHARE = 10
    NETWORK_IN = 11
    NETWORK_OUT = 12
    IN_USE = 13
    DISK = 14
    ARRIVALS = 15
    FREE_CPU = 16
    FREE_VCPUS = 17
    FREE_MEMORY = 18
    FREE_GIB = 19
    LARGEST_PLACE = 20
    WITHOUT_PLACE = 21
    VCPUS_IN_USE = 22


class Criterion(IntEnum):
    """By what it is chosen who leaves."""

    OLDEST_VERSION = 0
    OLDEST = 1
    NEWEST = 2
    LEAST_PAID_LEFT = 3
    FEWEST_SESSIONS = 4
    DEAREST = 5
    SPOT_FIRST = 6
    ON_DEMAND_FIRST = 7
    FEWEST_COPIES = 8


class Reason(IntEnum):
    """What parts the one that leaves from the next in turn; from CRITERION on, a criterion."""

    ONLY = 0
    ASKED = 1
    ZONE = 2
    OVERFLOW = 3
    BROKEN = 4
    COMING = 5
    AGE = 6
    HAND = 7
    SURPLUS = 8
    RECLAIMED = 9
    SWAPPED = 10
    ROLLOUT = 11
    MOVED = 12
    CRITERION = 16


class Phase(IntEnum):
    """Where a rollout stands."""

    NOT_BEGUN = 0
    CANARY_COMES = 1
    CANARY_WATCHED = 2
    BATCH_COMES = 3
    BATCH_WATCHED = 4
    PAUSED = 5
    STOPPED = 6
    GOES_BACK = 7
    DONE = 8
    BACK = 9


class Step(IntEnum):
    """What happens with a rollout at an evaluation."""

    NONE = 0
    BEGINS = 1
    CANARY_SERVES = 2
    CANARY_FINE = 3
    CANARY_WORSE = 4
    CANARY_UNCLEAR = 5
    BATCH_SERVES = 6
    NEXT_BATCH = 7
    NOT_THERE = 8
    STOPS = 9
    TURNS_BACK = 10
    DONE = 11
    IS_BACK = 12
    HELD = 13
    GOES_ON = 14


class Then(IntEnum):
    """What follows where a canary is judged."""

    ON = 0
    STOP = 1
    BACK = 2


class Compared(IntEnum):
    """By what a canary is compared with the others."""

    FAILED_SHARE = 0
    CPU = 1
    LATENCY_P95 = 2


class Standing(IntEnum):
    """How far a candidate for leaving has come."""

    ASKED = 0
    COMING = 1
    SERVING = 2
    BROKEN = 3
    LEFT = 4


DIALS = len(Dial)
# Who, where nobody is meant
NOBODY = -1
