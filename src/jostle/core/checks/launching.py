"""What instances are launched from, what lets anyone in, and what sees that they are broken."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.calendar import Sleep
from jostle.core.plan.incident import Breaking
from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_money
from jostle.core.plan.word import listed

# Remote shells, desktops and management (IANA service names: ssh, telnet, ms-wbt-server, vnc, winrm)
ADMINISTRATION = {22: "ssh", 23: "telnet", 3389: "remote desktop", 5900: "vnc", 5985: "winrm", 5986: "winrm"}


def check_template(crew: Crew) -> list[Finding]:
    missing = crew.launch.missing
    if not missing:
        return []
    named = listed(name.replace("_gib", "").replace("_", " ") for name in missing)
    text = f"Neither {crew.launch.template} version {crew.launch.version} nor the group says its {named}."
    return [Finding(code="template-incomplete", severity="note", path="template", text=text)]


def check_firewall(plan: Plan, crew: Crew) -> list[Finding]:
    """Administration ports that are open to the whole world."""
    found = []
    for name in crew.launch.fields.firewall or ():
        rule = plan.firewall[name]
        open_ports = [f"{port} ({ADMINISTRATION[port]})" for port in rule.ports if port in ADMINISTRATION]
        if rule.from_anywhere and open_ports:
            text = f"{name} opens port {listed(open_ports)} to the whole world ({rule.source})."
            found.append(Finding(code="open-to-all", severity="error", path="template", text=text))
    return found


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
