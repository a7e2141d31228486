"""Keepers on the embedded stand-in: the demo's groups, and many groups of forty instances."""

import statistics
import time
from datetime import datetime

from jostle.core.plan.clock import DAY
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.formats.shipped import demo_plan
from jostle.live.life import Life
from jostle.live.live import Begun, Live
from tests.bench.measuring import Size, say

GROUP, HOUR = "booking-web", 3600.0
BEGUN = Begun(at=datetime(2025, 7, 8), days=2)


def keeper(size: Size) -> None:
    plan = demo_plan()
    for group in plan.groups:
        life = Life(plan, group, 1, 1, Rehearser())
        before = min(1.0, size.days)
        life.go_on(before * DAY)
        began = time.perf_counter()
        life.go_on((before + size.days) * DAY)
        say(f"A lived day of {group}, embedded", f"{(time.perf_counter() - began) / size.days * 1000:8.0f} ms")
    one = plan.groups[GROUP].model_copy(update={"minimum": 38, "maximum": 42, "start_count": 40, "promises": [], "calendar": []})
    many = {f"{GROUP}-{number}": one for number in range(size.groups)}
    live = Live.begin(plan.model_copy(update={"groups": many, "watches": [], "budgets": []}), BEGUN, Rehearser(most_bytes=0))
    live.go_on(live.first + HOUR)
    taken = []
    for _ in range(size.rounds):
        began = time.perf_counter()
        live.go_on(live.now + one.evaluate_every)
        taken.append(time.perf_counter() - began)
    there = statistics.mean(len(life.ground.instances()) for life in live.lives.values())
    often = len(many) / statistics.median(taken)
    say(
        f"Evaluations a second, {size.groups} groups of {there:.0f} instances",
        f"{often:8.0f}     (slowest round {1000 * max(taken):.0f} ms)",
    )
    say("The highest pace that keeps up with them", f"{one.evaluate_every / max(taken):8.0f}")


PARTS = (keeper,)
