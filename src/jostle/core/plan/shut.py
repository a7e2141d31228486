"""Ports of instances that no firewall rule lets anybody in by."""

from jostle.core.plan.group import Group
from jostle.core.plan.plan import Plan
from jostle.core.plan.template import LaunchFields
from jostle.core.plan.word import listed
from jostle.core.plan.work import Jobs


def shut_out(plan: Plan, fields: LaunchFields) -> str | None:
    """Why the health check never gets an answer, where no firewall rule lets its port in; None where one does."""
    port = fields.check_port
    names = None if port is None else who_shuts(plan, fields, port)
    return names and f"{fields.health_check} is never answered: {names} does not let port {port} in"


def who_shuts(plan: Plan, fields: LaunchFields, port: int) -> str | None:
    """The firewall rules, in words, of which none lets a port in; None where one does, or none are known."""
    rules = [plan.firewall[name] for name in fields.firewall or () if name in plan.firewall]
    if fields.firewall is None or any(rule.lets_in(port) for rule in rules):
        return None
    return listed(fields.firewall) if fields.firewall else "no firewall rule"


def kept_out(plan: Plan, group: Group, fields: LaunchFields) -> str:
    """Why nothing that a group's load balancer sends gets through to an instance, its checks or its work; empty where it does."""
    if group.load_balancer is None or isinstance(group.work, Jobs):
        return ""
    for port in (group.load_balancer.target, fields.check_port):
        if port is not None and (names := who_shuts(plan, fields, port)):
            return f"{names} does not let port {port} in"
    return ""
