"""A group as it would be on another machine."""

from jostle.core.plan.group import Group
from jostle.core.plan.launch import version_number
from jostle.core.plan.misfit import misfits
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError
from jostle.core.plan.template import LaunchTemplate


def on_machine(plan: Plan, group_name: str, group: Group, machine: str) -> Plan:
    """The plan with a group as given, launching from its template but on another machine.

    Raises PlanError where it could not launch so.
    """
    template = plan.templates[group.template]
    number = version_number(template, group.version) or len(template.versions)
    versions = list(template.versions)
    if versions[number - 1].machine is not None:
        versions[number - 1] = versions[number - 1].model_copy(update={"machine": machine})
    else:
        group = group.model_copy(update={"launch": group.launch.model_copy(update={"machine": machine})})
    changed = plan.model_copy(
        update={
            "templates": {**plan.templates, group.template: LaunchTemplate(versions=versions)},
            "groups": {**plan.groups, group_name: group},
        }
    )
    if unfit := misfits(changed, group_name):
        raise PlanError(unfit)
    return changed
