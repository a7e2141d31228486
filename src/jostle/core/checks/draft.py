"""What is noticed about a version of a launch template while it is written, field by field."""

from decimal import Decimal
from typing import Any

from pydantic import BaseModel, ConfigDict

from jostle.core.checks.finding import Severity
from jostle.core.checks.launching import against_rules, opened
from jostle.core.plan.plan import Plan
from jostle.core.plan.problem import PlanError, validated
from jostle.core.plan.quantity import say_money
from jostle.core.plan.shut import shut_out
from jostle.core.plan.tariff import MONTH_HOURS
from jostle.core.plan.template import TemplateVersion


class FieldFinding(BaseModel):
    model_config = ConfigDict(frozen=True)

    field: str
    severity: Severity
    text: str


def check_draft(plan: Plan, data: dict[str, Any]) -> list[FieldFinding]:
    """Findings about a version as plain data: what it cannot be, what it names that is not there, what it opens or costs."""
    try:
        version = validated(TemplateVersion, data)
    except PlanError as error:
        return [
            FieldFinding(field=str(p.path[0]) if p.path else "note", severity="error", text=p.message) for p in error.problems
        ]
    ruled = [FieldFinding(field=field, severity="error", text=text) for field, text in against_rules(plan, version)]
    return [*_named(plan, version), *_open(plan, version), *_zones(plan, version), *_disk(plan, version), *ruled]


def _named(plan: Plan, version: TemplateVersion) -> list[FieldFinding]:
    found = []
    for field, noun, names, known in (
        ("machine", "machine", [version.machine] if version.machine else [], plan.machines),
        ("subnets", "subnet", version.subnets or [], plan.subnets),
        ("firewall", "firewall rule", version.firewall or [], plan.firewall),
    ):
        for name in names:
            if name not in known:
                text = f"there is no {noun} {name}; there is: {', '.join(known) or 'none yet'}"
                found.append(FieldFinding(field=field, severity="error", text=text))
    return found


def _open(plan: Plan, version: TemplateVersion) -> list[FieldFinding]:
    found: list[FieldFinding] = []
    for name in version.firewall or []:
        if name in plan.firewall:
            told = opened(name, plan.firewall[name])
            found += [FieldFinding(field="firewall", severity=severity, text=text) for _, severity, text in told]
    if said := shut_out(plan, version):
        found.append(FieldFinding(field="health_check", severity="error", text=said))
    return found


def _zones(plan: Plan, version: TemplateVersion) -> list[FieldFinding]:
    if version.subnets is None:
        return [FieldFinding(field="subnets", severity="note", text="left open: each group says where it runs")]
    zones = {plan.subnets[name].zone for name in version.subnets if name in plan.subnets}
    if len(zones) == 1:
        text = f"all in zone {next(iter(zones))}: if it is lost, so is the whole group"
        return [FieldFinding(field="subnets", severity="warning", text=text)]
    return []


def _disk(plan: Plan, version: TemplateVersion) -> list[FieldFinding]:
    """A disk that costs more than its machine is the wrong one."""
    machine = plan.machines.get(version.machine or "")
    if not version.all_disks_gib or machine is None:
        return []
    disk = plan.prices.disk_gib_month * Decimal(str(version.all_disks_gib))
    monthly = machine.price_per_hour * MONTH_HOURS
    if disk <= monthly:
        return []
    text = f"it costs {say_money(disk, plan.currency)} a month, more than its machine at {say_money(monthly, plan.currency)}"
    return [FieldFinding(field="disk_gib", severity="warning", text=text)]
