"""How many of which version are launched and leave, where one version takes the place of another."""


cdef inline (long, long, long, long) c_turnover(
    Rules* rules, Memory* memory, long goal, long present, long fresh, long serving, long quota
) noexcept nogil:
    """Instances to launch of the version that is brought in, and of the one before; and those of each that are to leave.

    `goal` is how many there are to be, `present` how many there are, `fresh` those of the version that is brought in, `serving`
    those of both that serve. At no time are there more than said beyond the goal, the maximum or the quota, nor fewer than said
    that serve, but for what the goal itself asks for.
    """
    cdef bint moving
    rule, one, moving = &rules.rollouts[memory.row.rollout], &memory.rollouts[memory.row.rollout], memory.row.rolls
    wanted = min(one.goal, goal)
    lack, lack_before = wanted - fresh, (goal - wanted) - (present - fresh)
    most = max(goal, min(goal + rule.extra, min(rules.row.maximum, quota)))
    launches = max(0, goal - present)
    if moving:
        launches = max(launches, min(max(lack, lack_before), most - present))
    launched = min(launches, max(0, lack))
    wrong, wrong_before = max(0, -lack), max(0, -lack_before)
    spared = serving - goal + (rule.fewer if moving else 0)
    leaving = max(0, min(wrong + wrong_before, max(present - most, spared)))
    leaving_before = min(wrong_before, leaving)
    return launched, launches - launched, leaving - leaving_before, leaving_before


cdef inline long c_version_before(Memory* memory) noexcept nogil:
    """The version whose place is being taken."""
    return memory.rollouts[memory.row.rollout].before
