"""The numbers that stand for words inside the engine and in its rows."""

# Kinds of work
REQUESTS, JOBS, SESSIONS = 0, 1, 2
# Kinds of policy
HOLD, TRIGGER, SPARE = 0, 1, 2
# How a window is folded
AVERAGE, MINIMUM, MAXIMUM, LATEST, SUM, COUNT, P90 = 0, 1, 2, 3, 4, 5, 6
# What a Trigger policy does
ADD, REMOVE, SET = 0, 1, 2
# What a policy is doing at an evaluation
QUIET, ASKING, WAITING, NO_DATA, PAUSED = 0, 1, 2, 3, 4
# What policies may do
BOTH_WAYS, OUT_ONLY, HELD = 0, 1, 2
# How an evaluation ended: what came of it, or the last stage that held it back
NOTHING, CHANGED, GROUP_WAITS, AT_MAXIMUM, AT_MINIMUM, NOT_AGREED = 0, 1, 2, 3, 4, 5
MODE_HOLDS, FROZEN, NO_REMOVALS, AT_FLOOR, AT_CEILING, ASLEEP, BRAKED, AT_QUOTA, AT_PINNED = 6, 7, 8, 9, 10, 11, 12, 13, 14
# Metrics, in the order of the rows of `State.samples`; rows of outside series follow
CPU, REQUESTS_PER_INSTANCE, LATENCY_P95, FAILED_SHARE, BACKLOG, BACKLOG_PER_INSTANCE = 0, 1, 2, 3, 4, 5
MEMORY, AGE, SESSIONS_PER_INSTANCE, FREE_SEATS, FREE_SEATS_SHARE, NETWORK_IN, NETWORK_OUT, IN_USE = 6, 7, 8, 9, 10, 11, 12, 13
METRICS = 14
# States of an instance
REQUESTED, BOOTING, WARMING, SERVING, DRAINING, STOPPING, STOPPED, GONE, BROKEN = 0, 1, 2, 3, 4, 5, 6, 7, 8
# Faults, and the bases of health that see them: a basis sees every fault up to its own number
SOUND, FAULT_STOPPED, FAULT_FROZEN, FAULT_HUNG = 0, 1, 2, 3
# Kinds of time that are billed
RUNNING, STANDING = 0, 1
# Gates of the calendar, as bits
GATE_SLEEP, GATE_FREEZE, GATE_NO_REMOVALS = 1, 2, 4
# Criteria of leaving
OLDEST_VERSION, OLDEST, NEWEST, NEAREST_PAID_HOUR, FEWEST_SESSIONS = 0, 1, 2, 3, 4
# Incidents
ZONE_LOST, NO_CAPACITY, SLOW_BOOTS, SLOW_DEPENDENCY, BREAKING = 0, 1, 2, 3, 4
# What a hand does
HAND_SET, HAND_KILL, HAND_PIN, HAND_STRESS = 0, 1, 2, 3
# Which instance, where not by number
THE_OLDEST, THE_NEWEST = -1, -2
# Events
COUNT_CHANGED, INSTANCE_SERVES, INSTANCE_GONE, SHORT_BEGINS, SHORT_ENDS, LIMIT_REACHED = 0, 1, 2, 3, 4, 5
LAUNCH_REFUSED, LAUNCH_TAKEN, INSTANCE_BROKE, INSTANCE_RESTARTS, INSTANCE_REPLACED = 6, 7, 8, 9, 10
INSTANCE_STOPPED, INSTANCE_STARTS, SESSIONS_CUT, JOBS_RETURNED, SURPLUS_DROPPED = 11, 12, 13, 14, 15
INCIDENT_BEGINS, INCIDENT_ENDS, HAND_ACTS = 16, 17, 18
# Who changed the count or sent for an instance
BY_POLICY, BY_CALENDAR, BY_HAND, BY_SLEEP, BY_NEED = 0, 1, 2, 3, 4
# Why a launch was refused
REFUSED_QUOTA, REFUSED_CAPACITY = 0, 1
# Who, where nobody is meant
NOBODY = -1
