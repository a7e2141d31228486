"""The numbers that stand for words inside the engine and in its rows."""

# Kinds of policy
HOLD, TRIGGER = 0, 1
# How a window is folded
AVERAGE, MINIMUM, MAXIMUM, LATEST = 0, 1, 2, 3
# What a Trigger policy does
ADD, REMOVE, SET = 0, 1, 2
# What a policy is doing at an evaluation
QUIET, ASKING, WAITING, NO_DATA, PAUSED = 0, 1, 2, 3, 4
# How an evaluation ended
NOTHING, CHANGED, GROUP_WAITS, AT_MAXIMUM, AT_MINIMUM, NOT_AGREED = 0, 1, 2, 3, 4, 5
# Metrics, in the order of the rows of `State.samples`
CPU, REQUESTS_PER_INSTANCE, LATENCY_P95, FAILED_SHARE, BACKLOG, BACKLOG_PER_INSTANCE = 0, 1, 2, 3, 4, 5
METRICS = 6
# States of an instance; draining comes after serving, gone is the end
BOOTING, WARMING, SERVING, DRAINING, GONE = 0, 1, 2, 3, 4
# Events
COUNT_CHANGED, INSTANCE_SERVES, INSTANCE_GONE, SHORT_BEGINS, SHORT_ENDS, LIMIT_REACHED = 0, 1, 2, 3, 4, 5
# Who, where no policy is meant
NOBODY = -1
