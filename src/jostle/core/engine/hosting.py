"""Hosting: what the instances of a host carry, tick by tick."""

import numpy as np

from jostle.core.plan.group import Group
from jostle.core.plan.machine import Machine
from jostle.core.plan.place import room_of


def fill_hosting(kind: np.record, group: Group, machine: Machine) -> float:
    """The numbers of a host's room; a Spare policy counts its memory, GiB."""
    kind.room_vcpus, kind.room_memory = room_of(group, machine)
    kind.capacity = kind.draw = kind.room_memory
    return float(kind.room_memory)
