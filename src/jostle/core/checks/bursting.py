"""Bursting machines whose credits run out, and what the network of a machine holds back."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.quantity import say_duration, say_number, say_share
from jostle.core.plan.work import Requests, Sessions
from jostle.core.rehearsal.rehearsal import Rehearsal

# Share of the instances' time without credits that is worth a word
SELDOM = 0.001


def check_credits(rehearsal: Rehearsal) -> list[Finding]:
    """A span in which instances had no credits left."""
    crew, result = rehearsal.crew, rehearsal.result
    served, gone = result.tally("served_ticks"), result.tally("tired_ticks")
    if crew.machine.baseline is None or gone <= SELDOM * served:
        return []
    baseline = say_share(crew.machine.baseline)
    text = (
        f"The credits of a {crew.launch.machine} were gone for {say_duration(round(gone * result.setup.tick / 60) * 60.0)} "
        f"of instance time, {say_share(gone / served)} of it: it gives {baseline} of its CPU then, and works for the rest."
    )
    return [Finding(code="credits-gone", severity="warning", path="template", text=text)]


def check_baseline(crew: Crew) -> list[Finding]:
    """A CPU threshold that an instance without credits never reads."""
    baseline, found = crew.machine.baseline, []
    for policy in crew.group.policies:
        if baseline is None or not isinstance(policy, TriggerPolicy) or policy.metric != Metric.CPU:
            continue
        if policy.paused or policy.side != "above" or policy.threshold <= baseline:
            continue
        text = (
            f"Once its credits are gone a {crew.launch.machine} reads {say_share(baseline)} at the most, however much waits: "
            f"{policy.name} then never adds."
        )
        path = f"policies.{policy.name}.threshold"
        mend = Mend(text=f"above {say_share(0.9 * baseline)}", settings={path: round(0.9 * baseline, 3)})
        found.append(Finding(code="above-baseline", severity="warning", path=path, text=text, mend=mend))
    return found


def check_network_limit(crew: Crew) -> list[Finding]:
    """A machine whose network is full before its CPU is."""
    work, machine = crew.group.work, crew.machine
    most = machine.most_each(work.kib_out)
    match work:
        case Requests():
            by_cpu = machine.vcpus * machine.speed / work.cpu_seconds * (1.0 - work.idle_cpu)
            said = f"{say_number(most)} requests/s, of {say_number(by_cpu)} that its CPU could answer"
        case Sessions():
            by_cpu, said = (
                work.seats,
                f"{say_number(float(int(most)) if most < work.seats else most)} sessions, of {work.seats} seats",
            )
        case _:
            return []
    if most >= by_cpu:
        return []
    text = f"The network of a {crew.launch.machine} lets {said}: it is full before its CPU is, which then reads low."
    return [Finding(code="network-full", severity="warning", path="work", text=text)]
