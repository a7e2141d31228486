"""Requests: visitors at the counters, each served and gone within moments, or tired of waiting.

The line is an average over all that chance may bring, at the load that the group is under; what was counted and burnt in
a tick is drawn.
"""

import numpy as np

from jostle.core.plan.group import Group
from jostle.core.plan.machine import Machine
from jostle.core.plan.work import Requests

# Share of those that go in a tick that fail while nothing is amiss; beyond it the group is short
FEW = 0.001


def fill_requests(row: np.record, kind: np.record, group: Group, work: Requests, machine: Machine) -> float:
    """The numbers of requests; a Spare policy counts those that an instance answers (1/s)."""
    row.by_chance, row.unevenness = work.arrivals == "by_chance", work.unevenness
    usual = machine.speed / work.cpu_seconds * (1.0 - work.idle_cpu)
    kind.service_rate = usual / float(kind.cpu)
    kind.capacity = machine.vcpus * kind.service_rate
    by_network = machine.most_each(work.kib_out)
    kind.draw = min(by_network, machine.vcpus * usual)
    if by_network < kind.capacity:
        row.full_cpu = work.idle_cpu + (1.0 - work.idle_cpu) * by_network / kind.capacity
        kind.capacity, kind.service_rate = by_network, by_network / machine.vcpus
    row.base_latency, row.timeout, row.sticky = work.base_latency, work.timeout, group.sticky
    return float(kind.capacity)
