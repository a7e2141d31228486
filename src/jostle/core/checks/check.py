"""All checks of one rehearsed group."""

from jostle.core.checks.conduct import check_activity, check_maximum, check_promises
from jostle.core.checks.direction import check_both_ways, check_sides, check_zero
from jostle.core.checks.finding import Finding
from jostle.core.checks.swing import check_swings
from jostle.core.checks.timing import check_waits, check_windows
from jostle.core.rehearsal.rehearsal import Rehearsal

_RANK = {"error": 0, "warning": 1, "note": 2}


def check(rehearsal: Rehearsal) -> list[Finding]:
    """The findings about a group, errors first."""
    crew = rehearsal.crew
    found = [
        *check_sides(crew),
        *check_both_ways(crew),
        *check_zero(crew),
        *check_swings(crew),
        *check_waits(crew),
        *check_windows(crew),
        *check_activity(rehearsal),
        *check_maximum(rehearsal),
        *check_promises(rehearsal),
    ]
    return sorted(found, key=lambda finding: _RANK[finding.severity])
