"""The engine: weeks, bounds, memory, beside a model that goes request by request, and the first result of a new process."""

import statistics
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from jostle.core.costs.bounds import bounds
from jostle.core.demand.series import demand_series
from jostle.core.engine.compile import compile_setup
from jostle.core.engine.result import run
from jostle.core.engine.setup import Setup
from jostle.core.plan.clock import Clock
from jostle.core.plan.metric import Metric
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import HoldPolicy, SparePolicy
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import verdict
from jostle.demo import PLAN
from jostle.formats.shipped import demo_plan
from tests.bench.measuring import Size, median_ms, say
from tests.core.engine.test_independent_model import engine as small_group
from tests.core.engine.test_independent_model import swell
from tests.independent.hall import Hall, Terms

GROUP = "booking-web"


def pace(size: Size) -> None:
    """A fixed piece of plain Python, so that figures of different hours and machines can be compared."""
    say("This machine now: a sum of two million numbers", median_ms(lambda: sum(range(2_000_000)), min(15, size.times)))


def setup_of(plan: Plan, days: float, group: str = GROUP) -> Setup:
    clock = Clock.of(plan.start, days, plan.tick, plan.zone)
    crew = crew_of(plan, group)
    return compile_setup(crew, clock, demand_series(plan.demands[crew.group.demand], clock, 1))


def crowd(plan: Plan) -> Plan:
    """The first group with some forty instances and four policies."""
    group = plan.groups[GROUP]
    policies = [
        *group.policies,
        HoldPolicy(kind="hold", name="hold", metric=Metric.REQUESTS_PER_INSTANCE, level=22.0, cooldown=300),
        SparePolicy(kind="spare", name="spare", share=0.2),
    ]
    larger = group.model_copy(update={"policies": policies, "maximum": 200, "minimum": 10})
    base = plan.demands[group.demand]
    layers = [layer.model_copy(update={"rate": 3.2 * layer.rate}) if layer.kind == "level" else layer for layer in base.layers]
    demands = {**plan.demands, group.demand: base.model_copy(update={"layers": layers})}
    return plan.model_copy(update={"groups": {**plan.groups, GROUP: larger}, "demands": demands})


def weeks(size: Size) -> None:
    plan, some = demo_plan(), min(5, size.times)
    full = crowd(plan)
    week, year = setup_of(full, 7), setup_of(full, size.long)
    mean = run(week).state.series["serving"].mean()
    name = f"Engine, a week at 10 s, {mean:.0f} instances on average, 4 policies"
    say(name, median_ms(lambda: run(week), size.times))
    say(f"Engine, {size.long / 7:.0f} weeks of it", median_ms(lambda: run(year), some))
    began = time.perf_counter()
    with ThreadPoolExecutor(2) as pool:
        for _ in pool.map(lambda seed: run(week.changed(seed=seed)).tally("spend"), range(size.weeks)):
            pass
    say(f"Engine, {size.weeks:,} of these weeks on two cores", f"{time.perf_counter() - began:8.2f} s")
    for group in plan.groups:
        made = setup_of(plan, 7, group)
        say(f"Engine, the week of {group}", median_ms(lambda made=made: run(made), min(15, size.times)))
    rehearser = Rehearser()
    verdict(rehearser.rehearse(plan, GROUP))
    told = median_ms(lambda: verdict(rehearser.rehearse(plan, GROUP)), size.times)
    say("Rehearsal with its verdict, demand and bounds at hand", told)
    promises = [promise for promise in plan.groups[GROUP].promises if promise.kind != "cost"]
    demo, crew = setup_of(plan, 7), crew_of(plan, GROUP)
    say("Both bounds, once for each demand and promise", median_ms(lambda: bounds(demo, promises, crew), some))


def memory(size: Size) -> None:
    """Peak memory of a week: all that its run has at once."""
    script = """
import tracemalloc
from jostle.core.engine.result import run
from tests.bench.engine import crowd, setup_of
from jostle.formats.shipped import demo_plan
plan = crowd(demo_plan())
week = setup_of(plan, 7)
run(setup_of(plan, 0.05))
tracemalloc.start()
found = run(week)
print(tracemalloc.get_traced_memory()[1] / 2**20)
"""
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    say("Peak memory of that week", f"{float(done.stdout):8.1f} MiB")


def against_the_model(size: Size) -> None:
    """The engine and the request-by-request model of the same small group, in the same run."""
    made = small_group(size.hours).setup
    began = time.perf_counter()
    Hall(Terms(rate=swell, top_rate=85.0, until=size.hours * 3600), seed=7).run()
    model = time.perf_counter() - began
    taken = []
    for _ in range(size.times):
        began = time.perf_counter()
        run(made)
        taken.append(time.perf_counter() - began)
    ours = statistics.median(taken)
    say(f"{size.hours:.0f} hours of a small group, request by request in SimPy", f"{model:8.2f} s")
    say("The same in the engine", f"{ours * 1000:8.2f} ms   ({model / ours:,.0f} times faster)")


def first_result(size: Size) -> None:
    """What a new process takes."""
    for _ in range(size.starts):
        began = time.perf_counter()
        command = [sys.executable, "-m", "jostle.cli.main", "rehearse", str(PLAN), "--group", GROUP]
        done = subprocess.run(command, check=False, capture_output=True)
        assert done.returncode in (0, 1), done.stderr
        say("First result in a new process", f"{time.perf_counter() - began:8.2f} s")


PARTS = (pace, weeks, memory, against_the_model, first_result)
