"""The plans that come along, each read once."""

from functools import cache

from jostle.core.plan.plan import Plan
from jostle.demo import PLAN, STARTER
from jostle.formats.plan_file import read_plan_file


@cache
def demo_plan() -> Plan:
    return read_plan_file(PLAN)


@cache
def starter_plan() -> Plan:
    return read_plan_file(STARTER)
