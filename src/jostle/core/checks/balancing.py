"""The load balancer, the database, and where both stand."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.launch import NOWHERE
from jostle.core.plan.plan import Plan
from jostle.core.plan.shut import who_shuts
from jostle.core.plan.word import listed
from jostle.core.plan.work import Jobs


def check_target(plan: Plan, crew: Crew) -> list[Finding]:
    """A port of the instances that no firewall rule lets the load balancer in by, and one that hands on to nobody."""
    group, fields = crew.group, crew.launch.fields
    if group.load_balancer is None:
        return []
    if isinstance(group.work, Jobs):
        text = "Workers take jobs from a pile: nothing ever goes through the load balancer, which is paid for."
        without = Mend(text="no load balancer", settings={"load_balancer": None})
        return [Finding(code="balancer-idle", severity="warning", path="load_balancer", text=text, mend=without)]
    port = group.load_balancer.target
    names = who_shuts(plan, fields, port)
    if names is None:
        return []
    text = f"Port {port} of the instances is never reached: {names} does not let it in."
    rules = [plan.firewall[name] for name in fields.firewall or ()]
    known = sorted({low for rule in rules for low, high in rule.spans if low == high and not rule.from_anywhere})
    mend = Mend(text=f"port {known[0]}", settings={"load_balancer.target": known[0]}) if known else None
    return [Finding(code="target-shut-out", severity="error", path="load_balancer.target", text=text, mend=mend)]


def check_places(plan: Plan, crew: Crew) -> list[Finding]:
    """Machines, load balancer and database that are not in one region, or share no zone."""
    group, zones = crew.group, crew.launch.zones
    if zones == [NOWHERE]:
        return []
    own = crew.launch.fields.subnets or []
    balancer = group.load_balancer.subnets if group.load_balancer else None
    database = plan.databases[group.database].subnets if group.database else None
    if len(regions := _regions(plan, own)) > 1:
        text = f"Its instances lie in the regions {listed(regions)}; a group has one."
        return [Finding(code="regions-apart", severity="error", path="template", text=text)]
    found = []
    for path, what, subnets in (
        ("load_balancer.subnets", "The load balancer", balancer),
        ("database", f"The database {group.database}", database),
    ):
        if subnets is not None and len(regions := _regions(plan, [*own, *subnets])) > 1:
            text = f"{what} and its instances lie in the regions {listed(regions)}; nothing reaches from one to the other."
            found.append(Finding(code="regions-apart", severity="error", path=path, text=text))
    if balancer is not None and (left := [zone for zone in zones if zone not in _zones(plan, balancer)]):
        text = f"The load balancer does not stand in {listed(left)}: the instances there are never asked."
        mend = Mend(text="in every zone", settings={"load_balancer.subnets": None})
        found.append(Finding(code="zone-unasked", severity="error", path="load_balancer.subnets", text=text, mend=mend))
    if database is not None and not set(zones) & set(_zones(plan, database)):
        text = (
            f"The database {group.database} stands in {listed(_zones(plan, database))} and the group in {listed(zones)}: "
            "every question goes from zone to zone."
        )
        found.append(Finding(code="database-apart", severity="warning", path="database", text=text))
    return found


def _zones(plan: Plan, subnets: list[str]) -> list[str]:
    return list(dict.fromkeys(plan.subnets[name].zone for name in subnets))


def _regions(plan: Plan, subnets: list[str]) -> list[str]:
    """The regions that are named, each once."""
    return list(dict.fromkeys(region for name in subnets if (region := plan.subnets[name].region)))
