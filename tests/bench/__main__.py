"""What is measured: the engine, the first result of a new process, and the picture that follows an edit."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from jostle.core.costs.bounds import bounds
from jostle.core.demand.series import demand_series
from jostle.core.engine.compile import compile_setup
from jostle.core.engine.result import run
from jostle.core.engine.setup import Setup
from jostle.core.plan.clock import DAY, Clock
from jostle.core.plan.metric import Metric
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import HoldPolicy, SparePolicy
from jostle.core.rehearsal.rehearsal import crew_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import verdict
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file
from jostle.live.life import Life
from jostle.live.live import Begun, Live
from tests.bench import buying, guests, search
from tests.bench.ledger import measure
from tests.browser.workbench import Workbench, open_browser, served
from tests.core.engine.test_independent_model import HOURS, swell
from tests.core.engine.test_independent_model import engine as small_group
from tests.independent.hall import Hall, Terms

GROUP = "booking-web"
EDITS = 30
HOUR = 3600.0
FIFTY = Begun(at=datetime(2025, 7, 8), days=2)


def say(what: str, value: str) -> None:
    print(f"{what:<62}{value}", flush=True)


def median_ms(act, times: int) -> str:
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        taken.append((time.perf_counter() - began) * 1000)
    return f"{statistics.median(taken):8.1f} ms   (least {min(taken):.1f}, of {times})"


def pace() -> None:
    """A fixed piece of plain Python, so that figures of different hours and machines can be compared."""
    say("This machine now: a sum of two million numbers", median_ms(lambda: sum(range(2_000_000)), 15))


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


def engine() -> None:
    plan = read_plan_file(PLAN)
    full = crowd(plan)
    week, year = setup_of(full, 7), setup_of(full, 364)
    mean = run(week).state.series["serving"].mean()
    name = f"Engine, a week at 10 s, {mean:.0f} instances on average, 4 policies"
    say(name, median_ms(lambda: run(week), 31))
    say("Engine, 52 weeks of it", median_ms(lambda: run(year), 5))
    began = time.perf_counter()
    with ThreadPoolExecutor(2) as pool:
        for _ in pool.map(lambda seed: run(week.changed(seed=seed)).tally("spend"), range(1000)):
            pass
    say("Engine, 1,000 of these weeks on two cores", f"{time.perf_counter() - began:8.2f} s")
    for group in plan.groups:
        made = setup_of(plan, 7, group)
        say(f"Engine, the week of {group}", median_ms(lambda made=made: run(made), 15))
    rehearser = Rehearser()
    verdict(rehearser.rehearse(plan, GROUP))
    say("Rehearsal with its verdict, demand and bounds at hand", median_ms(lambda: verdict(rehearser.rehearse(plan, GROUP)), 31))
    promises = [promise for promise in plan.groups[GROUP].promises if promise.kind != "cost"]
    demo, crew = setup_of(plan, 7), crew_of(plan, GROUP)
    say("Both bounds, once for each demand and promise", median_ms(lambda: bounds(demo, promises, crew), 5))


def memory() -> None:
    """Peak memory of a week: all that its run has at once."""
    script = """
import tracemalloc
from jostle.core.engine.result import run
from jostle.core.engine.setup import Setup
from jostle.core.plan.metric import Metric
from tests.bench.__main__ import crowd, setup_of
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file
plan = crowd(read_plan_file(PLAN))
week = setup_of(plan, 7)
run(setup_of(plan, 0.05))
tracemalloc.start()
found = run(week)
print(tracemalloc.get_traced_memory()[1] / 2**20)
"""
    done = subprocess.run([sys.executable, "-c", script], check=True, capture_output=True, text=True)
    say("Peak memory of that week", f"{float(done.stdout):8.1f} MiB")


def against_the_model() -> None:
    """The engine and the request-by-request model of the same small group, in the same run."""
    made = small_group().setup
    began = time.perf_counter()
    Hall(Terms(rate=swell, top_rate=85.0, until=HOURS * 3600), seed=7).run()
    model = time.perf_counter() - began
    taken = []
    for _ in range(51):
        began = time.perf_counter()
        run(made)
        taken.append(time.perf_counter() - began)
    ours = statistics.median(taken)
    say("Three hours of a small group, request by request in SimPy", f"{model:8.2f} s")
    say("The same in the engine", f"{ours * 1000:8.2f} ms   ({model / ours:,.0f} times faster)")


def first_result() -> None:
    with tempfile.TemporaryDirectory() as cache:
        for label in ("cold", "warm", "warm again"):
            began = time.perf_counter()
            command = [sys.executable, "-m", "jostle.cli.main", "rehearse", str(PLAN), "--group", GROUP]
            environment = {**os.environ, "JOSTLE_CACHE": cache}
            done = subprocess.run(command, env=environment, check=False, capture_output=True)
            assert done.returncode in (0, 1), done.stderr
            say(f"First result in a new process, {label} cache", f"{time.perf_counter() - began:8.2f} s")


def edits() -> None:
    with tempfile.TemporaryDirectory() as folder, served(Path(folder), with_demo=True) as address:
        driver = open_browser(1280, 800)
        try:
            workbench = Workbench(driver, address)
            say("Page to picture, service warm", _opened(workbench))
            for group in (GROUP, "live-track"):
                workbench.open(f"/rehearse/{group}")
                say(f"Edit to picture, {group}, by key", _pictures(workbench, _by_key))
                say(f"Edit to picture, {group}, by drag", _pictures(workbench, _by_drag))
        finally:
            driver.quit()


def keeper() -> None:
    """A keeper with the demo's groups, and with fifty groups of forty instances, on the embedded stand-in."""
    plan = read_plan_file(PLAN)
    for group in plan.groups:
        life = Life(plan, group, 1, 1, Rehearser())
        life.go_on(DAY)
        began = time.perf_counter()
        life.go_on(4 * DAY)
        say(f"A lived day of {group}, embedded", f"{(time.perf_counter() - began) / 3 * 1000:8.0f} ms")
    one = plan.groups[GROUP].model_copy(update={"minimum": 38, "maximum": 42, "start_count": 40, "promises": [], "calendar": []})
    many = {f"{GROUP}-{number}": one for number in range(50)}
    live = Live.begin(plan.model_copy(update={"groups": many, "watches": [], "budgets": []}), FIFTY, Rehearser(most_bytes=0))
    live.go_on(live.first + HOUR)
    taken = []
    for _ in range(60):
        began = time.perf_counter()
        live.go_on(live.now + one.evaluate_every)
        taken.append(time.perf_counter() - began)
    there = statistics.mean(len(life.ground.instances()) for life in live.lives.values())
    often = len(many) / statistics.median(taken)
    say(
        f"Evaluations a second, 50 groups of {there:.0f} instances",
        f"{often:8.0f}     (slowest round {1000 * max(taken):.0f} ms)",
    )
    say("The highest pace that keeps up with them", f"{one.evaluate_every / max(taken):8.0f}")


TILES = """
const [label, done] = arguments;
const tiles = () => document.querySelectorAll('[data-instance]').length;
const [before, began] = [tiles(), performance.now()];
const seen = new MutationObserver(() => tiles() !== before && (seen.disconnect(), done(performance.now() - began)));
seen.observe(document.body, {subtree: true, childList: true});
[...document.querySelectorAll('button')].find(one => one.textContent === label).click();
"""


def tiles() -> None:
    """From an order by hand to its tile on the page."""
    at = {"at": "2025-07-08T00:00", "until": "2025-07-08T10:00", "days": 31}
    with tempfile.TemporaryDirectory() as folder, served(Path(folder), with_demo=True) as address:
        driver = open_browser(1280, 800)
        try:
            workbench = Workbench(driver, address)
            workbench.ask("/api/plans/1/live", at)
            workbench.open("/live")
            workbench.wait_for("[data-instance]")
            taken = sorted(driver.execute_async_script(TILES, "one more") for _ in range(20))
        finally:
            driver.quit()
    say("From an order to its tile", f"{statistics.median(taken):8.0f} ms   (95th percentile {taken[18]:.0f}, of 20)")


def _opened(workbench: Workbench) -> str:
    """From the opening of the page, service and caches warm, until its picture stands there."""
    found = []
    script = "return performance.getEntriesByName('page-to-picture').map(entry => entry.duration)"
    for _ in range(9):
        workbench.driver.get("about:blank")
        workbench.open("/rehearse/booking-web")
        found.append(workbench.until(lambda: workbench.driver.execute_script(script))[0])
    return f"{statistics.median(found):.0f} ms (slowest of 9: {max(found):.0f})"


def _measured(workbench: Workbench) -> list[float]:
    script = "return performance.getEntriesByName('edit-to-picture').map(entry => entry.duration)"
    return workbench.driver.execute_script(script)


def _pictures(workbench: Workbench, act) -> str:
    first = len(_measured(workbench))
    for number in range(EDITS + 3):
        before = len(_measured(workbench))
        act(workbench, number)
        workbench.until(lambda before=before: len(_measured(workbench)) > before)
    taken = sorted(_measured(workbench)[first + 3 :])
    late = taken[min(len(taken) - 1, round(0.95 * len(taken)))]
    return f"{statistics.median(taken):8.0f} ms   (95th percentile {late:.0f}, of {len(taken)})"


def _by_key(workbench: Workbench, number: int) -> None:
    workbench.wait_for(".threshold").send_keys(Keys.ARROW_UP if number % 20 < 10 else Keys.ARROW_DOWN)


def _by_drag(workbench: Workbench, number: int) -> None:
    line = workbench.wait_for(".threshold")
    if number == 0:
        ActionChains(workbench.driver, duration=0).click_and_hold(line).perform()
    step = -3 if number % 16 < 8 else 3
    ActionChains(workbench.driver, duration=0).move_by_offset(0, step).perform()


if __name__ == "__main__":
    pace()
    engine()
    memory()
    against_the_model()
    first_result()
    edits()
    keeper()
    tiles()
    measure(say, median_ms)
    buying.main()
    guests.main(say, median_ms)
    search.weeks()
    search.speed()
    search.quality()
