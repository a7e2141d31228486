"""A validated plan becomes plain arrays and scalars. All strings, dates and units end here."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jostle.core.demand.clock import Clock
from jostle.core.engine import code
from jostle.core.engine.queue import wait_tables
from jostle.core.engine.state import POLICY, Setup
from jostle.core.plan.group import Group
from jostle.core.plan.machine_type import MachineType
from jostle.core.plan.metric import Metric
from jostle.core.plan.policy import HoldPolicy, TriggerPolicy
from jostle.core.plan.template import LaunchTemplate

METRIC_CODES = {
    Metric.CPU: code.CPU,
    Metric.REQUESTS_PER_INSTANCE: code.REQUESTS_PER_INSTANCE,
    Metric.LATENCY_P95: code.LATENCY_P95,
    Metric.FAILED_SHARE: code.FAILED_SHARE,
    Metric.BACKLOG: code.BACKLOG,
    Metric.BACKLOG_PER_INSTANCE: code.BACKLOG_PER_INSTANCE,
}
_FOLDS = {"average": code.AVERAGE, "minimum": code.MINIMUM, "maximum": code.MAXIMUM, "latest": code.LATEST}
_ACTIONS = {"add": code.ADD, "remove": code.REMOVE, "set": code.SET}


@dataclass(frozen=True)
class Crew:
    """A group with what it runs on: the part of a plan that one rehearsal needs besides its demand."""

    group: Group
    template: LaunchTemplate
    machine_type: MachineType


def compile_setup(crew: Crew, clock: Clock, rate: NDArray[np.float64]) -> Setup:
    """The setup of one rehearsal. `rate` is the demand of each tick in 1/s, shape (clock.ticks,)."""
    group, template, machine = crew.group, crew.template, crew.machine_type
    work = group.work
    service_rate = machine.speed / work.cpu_seconds
    capacity = machine.vcpus * service_rate * (1.0 - work.idle_cpu)
    period_ticks = round(group.meters.period / clock.tick)
    policies = np.zeros(len(group.policies), POLICY)
    for row, policy in zip(policies, group.policies, strict=True):
        row["metric"] = METRIC_CODES[policy.metric]
        row["window"] = max(1, round(policy.window / group.meters.period))
        row["fold"] = _FOLDS[policy.fold]
        row["cooldown"] = policy.cooldown
        row["paused"] = policy.paused
        match policy:
            case HoldPolicy():
                row["kind"] = code.HOLD
                row["level"], row["tolerance"], row["removes"] = policy.level, policy.tolerance, policy.may_remove
            case TriggerPolicy():
                row["kind"] = code.TRIGGER
                row["level"], row["below"] = policy.threshold, policy.side == "below"
                row["action"], row["amount"] = _ACTIONS[policy.action], policy.amount
                row["percent"], row["removes"] = policy.of == "percent", policy.action != "add"
    return Setup(
        tick=clock.tick,
        ticks=clock.ticks,
        cumulative=np.concatenate([[0.0], np.cumsum(rate * clock.tick)]),
        rate=np.ascontiguousarray(rate, dtype=np.float64),
        vcpus=machine.vcpus,
        capacity=capacity,
        service_rate=service_rate,
        idle_cpu=work.idle_cpu,
        base_latency=work.base_latency,
        timeout=work.timeout,
        waits=wait_tables(machine.vcpus, capacity, service_rate),
        boot=template.boot_time,
        warm_up=template.warm_up,
        drain=group.drain,
        minimum=group.minimum,
        maximum=group.maximum,
        first_count=group.first_count,
        group_cooldown=group.cooldown,
        evaluate_ticks=round(group.evaluate_every / clock.tick),
        period_ticks=period_ticks,
        meter_delay=group.meters.delay,
        meter_latency=any(policy.metric == Metric.LATENCY_P95 for policy in group.policies),
        price=float(machine.price_per_hour) / 3600.0,
        policies=policies.view(np.recarray),
    )
