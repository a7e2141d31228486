"""Single instances: started from a template by hand, outside any group, and left alone by the keeper."""

from datetime import datetime

from jostle.core.plan.clock import DAY
from jostle.core.plan.demand import Demand
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.template import LaunchTemplate, TemplateVersion
from jostle.live.hand import LaunchSingles

NOTHING = "nothing"


def plan_of_singles(plan: Plan, name: str, hand: LaunchSingles, now: float, ends: float) -> Plan:
    """A plan in which they are a group of their own to which no work comes, from an instant to another (s since 1970). Raises
    PlanError where they cannot be launched."""
    template = LaunchTemplate(versions=[TemplateVersion(**hand.launch)])
    alone = plan.model_copy(
        update={
            "start": datetime.fromtimestamp(now, plan.zone),
            "days": max(plan.tick, ends - now) / DAY,
            "templates": {name: template},
            "demands": {NOTHING: Demand.model_validate({"layers": [{"kind": "level", "rate": 0}]})},
            "groups": {},
            "budgets": [],
            "watches": [],
        }
    )
    return with_group(
        alone,
        name,
        {
            "template": name,
            "minimum": hand.count,
            "maximum": hand.count,
            "demand": NOTHING,
            "first_start": {},
            "work": {"kind": "jobs", "job_seconds": 1},
        },
    )
