"""What a search finds, held against the best of many sets that were drawn blindly; and how fast it looks."""

import math
import random
import statistics
import time
from concurrent.futures import ProcessPoolExecutor

from jostle.api.picture import picture
from jostle.cluster.dask import Workers
from jostle.core.engine.result import run
from jostle.core.journal.event import events
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import judge, verdict
from jostle.core.tuning.goal import Goal
from jostle.core.tuning.judges import Threads
from jostle.core.tuning.search import CANDIDATES, Found, search
from jostle.core.tuning.space import Varied, applied, typed, usual_space
from jostle.formats.shipped import demo_plan
from tests.bench.measuring import Size

GROUPS = ("booking-web", "manifest-worker", "live-track")
SEEDS, MARGIN = 3, 0.1
# A set whose weeks so far cost so much more than the best is no longer looked at
FAR = 1.03
PROCESSES = 2
WEEKS = ("booking-web", "fare-quote", "live-track", "manifest-worker")
# As wide as a page draws them
BUCKETS = 1200


def drawn_blindly(group: str, seed: int, number: int) -> tuple[list[tuple[float, dict[str, float]]], int]:
    """Cost and settings of the cheapest drawn sets that keep every promise under all seeds, and how many weeks were played."""
    plan = demo_plan()
    goal, space = Goal.over(plan, group, SEEDS, MARGIN), usual_space(plan.groups[group])
    chance, rehearser = random.Random(seed), Rehearser()
    document = plan.groups[group].model_dump(mode="json")
    kept: list[tuple[float, dict[str, float]]] = []
    weeks = 0
    for _ in range(number):
        values = typed(space, {one.path: chance.uniform(one.low, one.high) for one in space})
        made, _ = goal.refusal(applied(document, values))
        if made is None:
            continue
        best = min((cost for cost, _ in kept), default=float("inf"))
        cost = looked = 0.0
        for rehearsal in rehearser.rehearse_each(made, group, goal.seeds, bare=True):
            told = judge(rehearsal)
            weeks, looked, cost = weeks + 1, looked + 1, cost + float(told.cost)
            if told.broken or cost / looked > FAR * best:
                break
        else:
            kept = sorted([*kept, (cost / looked, values)], key=lambda one: one[0])[:CANDIDATES]
    return kept, weeks


def weeks(size: Size) -> None:
    """A week as a page asks for it, with its series, lanes and events, and its figures alone, as a search plays it under ten
    seeds; and of both what the engine's loop takes. By turns."""
    plan, rehearser = demo_plan(), Rehearser()
    for group in WEEKS:
        setup = rehearser.setup_of(plan, group, 1)

        def shown(group: str = group) -> None:
            rehearsal = rehearser.rehearse(plan, group)
            verdict(rehearsal)
            picture(rehearsal, None, None, BUCKETS)

        told = rehearser.rehearse(plan, group)

        def searched(group: str = group) -> None:
            for rehearsal in rehearser.rehearse_each(plan, group, range(1, 11), bare=True):
                judge(rehearsal)

        acts = (
            (shown, 1),
            (lambda told=told: list(events(told)), 1),
            (searched, 10),
            (lambda setup=setup: run(setup), 1),
            (lambda setup=setup: run(setup, bare=True), 1),
        )
        taken: list[list[float]] = [[] for _ in acts]
        for _ in range(min(15, size.times)):
            for (act, many), times in zip(acts, taken, strict=True):
                began = time.perf_counter()
                act()
                times.append((time.perf_counter() - began) / many * 1000)
        drawn, listed, alone, loop, bare = (statistics.median(times) for times in taken)
        print(
            f"A week of {group} with series and lanes: {drawn:.1f} ms, its events {listed:.1f}; figures alone: {alone:.1f} ms, "
            f"{drawn / alone:.2f} and {(drawn + listed) / alone:.2f} times faster; the loop {loop:.1f} and {bare:.1f} ms",
            flush=True,
        )


def best_confirmed(goal: Goal, drawn: list[tuple[float, dict[str, float]]]) -> float:
    """The cheapest of drawn sets that keeps every promise under the choosing seeds too, as what a search chooses does."""
    rehearser = Rehearser()
    for cost, values in sorted(drawn, key=lambda one: one[0]):
        if goal.judge(1, values, rehearser, goal.choosing).keeps:
            return cost
    return float("inf")


def found(group: str, space: list[Varied], goal: Goal, judges: Threads | Workers, sets: int) -> Found:
    return search(goal, space, sets, judges=judges)


def quality(size: Size) -> None:
    """The chosen set and the best that was drawn, group by group."""
    plan = demo_plan()
    for group in GROUPS:
        goal, space = Goal.over(plan, group, SEEDS, MARGIN), usual_space(plan.groups[group])
        began = time.perf_counter()
        told = found(group, space, goal, Threads(), size.sets)
        searched = time.perf_counter() - began
        began = time.perf_counter()
        with ProcessPoolExecutor(PROCESSES) as pool:
            parts = [pool.submit(drawn_blindly, group, seed, size.drawn // PROCESSES) for seed in range(PROCESSES)]
            halves = [one.result() for one in parts]
        drawn, weeks = [one for some, _ in halves for one in some], sum(played for _, played in halves)
        best, sure = min((cost for cost, _ in drawn), default=math.inf), best_confirmed(goal, drawn)
        chosen = told.chosen
        if chosen is None or told.confirmed is None or told.best is None:
            print(f"{group}: none of {size.sets} sets kept every promise", flush=True)
            continue
        print(
            f"{group}, {len(space)} settings, {SEEDS} seeds: {size.sets} sets in {searched:.0f} s, "
            f"cheapest {told.best.cost:.2f}, chosen {chosen.cost:.2f}, "
            f"kept in {told.confirmed.kept} of {told.confirmed.seeds} others; "
            f"{size.drawn:,} drawn in "
            f"{time.perf_counter() - began:.0f} s, {weeks:,} weeks, cheapest {best:.2f}, with others kept too {sure:.2f}; "
            f"chosen is {100 * (chosen.cost / best - 1):+.2f} % and {100 * (chosen.cost / sure - 1):+.2f} %",
            flush=True,
        )


def speed(size: Size) -> None:
    """So many sets under ten seeds: in one thread, in two, and by two workers of a cluster here."""
    from distributed import LocalCluster

    plan = demo_plan()
    goal, space = Goal.over(plan, GROUPS[0], 10, MARGIN), usual_space(plan.groups[GROUPS[0]])
    for threads in (1, 2):
        began = time.perf_counter()
        told = found(GROUPS[0], space, goal, Threads(threads), size.sets)
        weeks = sum(one.seeds for one in told.sets)
        took = time.perf_counter() - began
        many = f"{weeks:,} weeks, {weeks / took:.0f} a second"
        print(f"{size.sets} sets x 10 seeds of {GROUPS[0]}, {threads} threads: {took:.1f} s, {many}", flush=True)
    for workers in size.workers:
        with LocalCluster(n_workers=workers, threads_per_worker=1, dashboard_address=None) as cluster:
            judges = Workers(cluster.scheduler_address)
            found(GROUPS[0], space, goal, judges, sets=8)
            began = time.perf_counter()
            told = found(GROUPS[0], space, goal, judges, size.sets)
            weeks, took = sum(one.seeds for one in told.sets), time.perf_counter() - began
            print(f"the same by {workers} workers of a Dask cluster: {took:.1f} s, {weeks / took:.0f} weeks a second", flush=True)


PARTS = (weeks, speed, quality)
