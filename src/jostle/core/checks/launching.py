"""What instances are launched from, what lets anyone in, and what sees that they are broken."""

from jostle.core.checks.finding import Finding, Mend, Severity
from jostle.core.engine.compile import Crew
from jostle.core.plan.calendar import Sleep
from jostle.core.plan.incident import Breaking
from jostle.core.plan.launch import NOWHERE, launch_of
from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_money
from jostle.core.plan.shut import shut_out
from jostle.core.plan.template import LAST_PORT, FirewallRule, LaunchFields, spans_of
from jostle.core.plan.word import listed

# Remote shells, desktops and management (IANA service names: ssh, telnet, ms-wbt-server, vnc, winrm)
ADMINISTRATION = {22: "ssh", 23: "telnet", 3389: "remote desktop", 5900: "vnc", 5985: "winrm", 5986: "winrm"}


def check_template(crew: Crew) -> list[Finding]:
    missing = crew.launch.missing
    if not missing or crew.group.host is not None:
        return []
    named = listed(name.replace("_gib", "").replace("_", " ") for name in missing)
    text = f"Neither {crew.launch.template} version {crew.launch.version} nor the group says its {named}."
    return [Finding(code="template-incomplete", severity="note", path="template", text=text)]


def opened(name: str, rule: FirewallRule) -> list[tuple[str, Severity, str]]:
    """What a rule lets the whole world in by: code, severity and words for each."""
    if not rule.from_anywhere:
        return []
    found: list[tuple[str, Severity, str]] = []
    spans = [span for span in rule.spans if span[0] < span[1]]
    ports = [f"{port} ({what})" for port, what in ADMINISTRATION.items() if rule.lets_in(port)]
    if (1, LAST_PORT) in spans:
        return [("open-to-all", "error", f"{name} opens every port to the whole world ({rule.source})")]
    if ports:
        found.append(("open-to-all", "error", f"{name} opens port {listed(ports)} to the whole world ({rule.source})"))
    if spans:
        named = listed(f"{low} to {high}" for low, high in spans)
        said = f"{name} opens ports {named} to the whole world ({rule.source}); name those that are served"
        found.append(("open-wide", "warning", said))
    return found


def against_rules(plan: Plan, fields: LaunchFields) -> list[tuple[str, str]]:
    """What goes against the plan's rules for templates: field and words for each."""
    rules = plan.template_rules
    found = []
    if lacking := [tag for tag in rules.required_tags if tag not in (fields.tags or {})]:
        found.append(("tags", f"the plan asks for the tags {listed(rules.required_tags)}; {listed(lacking)} is missing"))
    if fields.machine and rules.machines is not None and fields.machine not in rules.machines:
        found.append(("machine", f"the plan allows {listed(rules.machines)}, not {fields.machine}"))
    known = {name: plan.firewall[name] for name in fields.firewall or () if name in plan.firewall}
    for name, rule in known.items():
        for low, high in spans_of(rules.shut_ports):
            if rule.from_anywhere and any(first <= high and low <= last for first, last in rule.spans):
                shut = str(low) if low == high else f"{low} to {high}"
                found.append(("firewall", f"the plan keeps port {shut} shut to the world; {name} opens it"))
    return found


def check_rules(plan: Plan, crew: Crew) -> list[Finding]:
    """Instances that are launched against the plan's rules for templates."""
    return [
        Finding(code="against-rules", severity="warning", path="template", text=f"{crew.launch.template}: {text}.")
        for _, text in against_rules(plan, crew.launch.fields)
    ]


def check_firewall(plan: Plan, crew: Crew) -> list[Finding]:
    """What is open to the whole world, and a health check that is shut out."""
    fields = crew.launch.fields
    found = [
        Finding(code=code, severity=severity, path="template", text=f"{text}.")
        for name in fields.firewall or ()
        for code, severity, text in opened(name, plan.firewall[name])
    ]
    if said := shut_out(plan, fields):
        asked = crew.group.health.basis == "load_balancer" or crew.group.load_balancer
        rest = ", so that no instance ever counts as healthy." if asked else "; nothing asks it as yet."
        found.append(Finding(code="check-shut-out", severity="error" if asked else "warning", path="template", text=said + rest))
    return found


def check_network(plan: Plan, crew: Crew) -> list[Finding]:
    """A group without subnets in a plan whose other groups have some."""
    if crew.launch.zones != [NOWHERE]:
        return []
    placed = [name for name in plan.groups if launch_of(plan, name).zones != [NOWHERE]]
    if not placed:
        return []
    known = ", ".join(plan.subnets)
    text = f"It names no subnet and so lies nowhere; {listed(placed[:3])} named theirs: add some of {known}."
    return [Finding(code="network-forgotten", severity="error", path="template", text=text)]


def check_health(crew: Crew) -> list[Finding]:
    """A basis of health that cannot see an instance that runs and does not answer."""
    group = crew.group
    if group.work.kind == "jobs" or group.health.basis == "load_balancer":
        return []
    rehearsed = group.faults.hung > 0 or any(isinstance(i, Breaking) and i.fault == "hung" for i in crew.incidents)
    beside = " The load balancer it pays for has a check of its own." if group.load_balancer else ""
    what = "only a stopped machine" if group.health.basis == "machine" else "a stopped or frozen machine"
    return [
        Finding(
            code="health-blind",
            severity="warning" if rehearsed or group.load_balancer else "note",
            path="health.basis",
            text=f"The check sees {what}: an instance whose service hangs is paid for and never replaced.{beside}",
            mend=Mend(text="the load balancer's check", settings={"health.basis": "load_balancer"}),
        )
    ]


def check_stopped(plan: Plan, crew: Crew) -> list[Finding]:
    """Stopping what costs as much stopped."""
    group, machine = crew.group, crew.machine
    if not machine.billed_when_stopped:
        return []
    price = say_money(machine.price_per_hour, plan.currency)
    text = f"A {crew.launch.machine} costs {price} an hour stopped as well, so this saves nothing."
    paths = [f"calendar.{entry.name}" for entry in group.calendar if isinstance(entry, Sleep) and not entry.paused]
    paths += ["owned"] if group.owned else []
    return [Finding(code="stopped-billed", severity="warning", path=path, text=text) for path in paths]
