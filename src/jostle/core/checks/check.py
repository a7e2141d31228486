"""All checks of one rehearsed group."""

from jostle.core.checks.ahead import check_foresight, check_history
from jostle.core.checks.balancing import check_places, check_target
from jostle.core.checks.bursting import check_baseline, check_credits, check_network_limit
from jostle.core.checks.conduct import (
    check_activity,
    check_margin,
    check_maximum,
    check_overflow,
    check_promises,
    check_quota,
    check_refusals,
)
from jostle.core.checks.direction import check_grow_and_shrink, check_sides, check_zero
from jostle.core.checks.entries import check_entries
from jostle.core.checks.finding import Finding
from jostle.core.checks.hosting import check_host, check_hosting
from jostle.core.checks.identity import check_identity
from jostle.core.checks.launching import check_firewall, check_health, check_network, check_rules, check_stopped, check_template
from jostle.core.checks.limits import check_criteria, check_quotas, check_reach, check_zones
from jostle.core.checks.market import (
    check_caps,
    check_interrupted,
    check_on_demand_part,
    check_spot_places,
    check_spot_types,
    check_storm,
    check_swaps,
    check_types,
)
from jostle.core.checks.rollout import check_rollouts
from jostle.core.checks.swing import check_swings
from jostle.core.checks.timing import check_drain, check_grace, check_sticky, check_waits, check_windows
from jostle.core.costs.bounds import Bounds
from jostle.core.engine.compile import Crew
from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearsal import Rehearsal

_RANK = {"error": 0, "warning": 1, "note": 2}
_OF_CREW = (
    check_sides,
    check_grow_and_shrink,
    check_zero,
    check_swings,
    check_waits,
    check_windows,
    check_sticky,
    check_drain,
    check_grace,
    check_health,
    check_reach,
    check_zones,
    check_template,
    check_criteria,
    check_baseline,
    check_network_limit,
    check_caps,
    check_spot_places,
    check_types,
    check_interrupted,
    check_identity,
    check_host,
)
_OF_PLAN = (
    check_firewall,
    check_rules,
    check_network,
    check_stopped,
    check_quotas,
    check_target,
    check_places,
    check_history,
    check_spot_types,
)
_OF_REHEARSAL = (
    check_entries,
    check_activity,
    check_maximum,
    check_quota,
    check_refusals,
    check_overflow,
    check_margin,
    check_credits,
    check_on_demand_part,
    check_storm,
    check_swaps,
    check_foresight,
    check_rollouts,
    check_hosting,
)


def errors_of(plan: Plan, crew: Crew) -> list[Finding]:
    """The findings that are errors whatever is rehearsed."""
    return [finding for finding in _of_crew(plan, crew) if finding.severity == "error"]


def _of_crew(plan: Plan, crew: Crew) -> list[Finding]:
    found = [finding for look in _OF_CREW for finding in look(crew)]
    return found + [finding for look in _OF_PLAN for finding in look(plan, crew)]


def check(rehearsal: Rehearsal, bounds: Bounds | None) -> list[Finding]:
    """The findings about a group, errors first; without the bounds of cost, those that only they can tell are left out."""
    plan, crew = rehearsal.plan, rehearsal.crew
    found = _of_crew(plan, crew)
    found += [finding for look in _OF_REHEARSAL for finding in look(rehearsal)]
    found += [] if bounds is None else check_promises(rehearsal, bounds)
    return sorted(found, key=lambda finding: _RANK[finding.severity])
