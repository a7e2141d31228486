"""What is measured: the engine, the first result of a new process, and the picture that follows an edit."""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from jostle.core.costs.bounds import bounds
from jostle.core.demand.clock import Clock
from jostle.core.demand.series import demand_series
from jostle.core.engine.compile import compile_setup
from jostle.core.engine.result import run
from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearsal import crew_of, rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file
from tests.browser.workbench import Workbench, open_browser, served

GROUP = "booking-web"
EDITS = 30


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


def setup_of(plan: Plan, days: float):
    clock = Clock.of(plan.start, days, plan.tick, plan.zone)
    crew = crew_of(plan, GROUP)
    return compile_setup(crew, clock, demand_series(plan.demands[crew.group.demand], clock, 1))


def engine() -> None:
    plan = read_plan_file(PLAN)
    week, year = setup_of(plan, 7), setup_of(plan, 364)
    run(week)
    say("Engine, the demo week at 10 s, compiled", median_ms(lambda: run(week), 31))
    say("Engine, 52 weeks of it", median_ms(lambda: run(year), 5))
    verdict(rehearse(plan, GROUP))
    say("Rehearsal with its verdict, demand and bounds at hand", median_ms(lambda: verdict(rehearse(plan, GROUP)), 31))
    group = plan.groups[GROUP]
    answers = [promise for promise in group.promises if promise.kind == "answers"]
    price = plan.machine_types["otter-2"].price_per_hour
    say("Both bounds, once for each demand and promise", median_ms(lambda: bounds(week, answers, price), 5))


def first_result() -> None:
    with tempfile.TemporaryDirectory() as cache:
        for label in ("cold", "warm", "warm again"):
            began = time.perf_counter()
            command = [sys.executable, "-m", "jostle.cli.main", "rehearse", str(PLAN)]
            environment = {**os.environ, "JOSTLE_CACHE": cache}
            subprocess.run(command, env=environment, check=True, capture_output=True)
            say(f"First result in a new process, {label} cache", f"{time.perf_counter() - began:8.2f} s")


def edits() -> None:
    with tempfile.TemporaryDirectory() as folder, served(Path(folder), with_demo=True) as address:
        driver = open_browser(1280, 800)
        try:
            workbench = Workbench(driver, address)
            workbench.open(f"/rehearse/{GROUP}")
            say("Edit to picture, by key", _pictures(workbench, _by_key))
            say("Edit to picture, by drag", _pictures(workbench, _by_drag))
        finally:
            driver.quit()


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
    workbench.threshold("add-on-cpu").send_keys(Keys.ARROW_UP if number % 20 < 10 else Keys.ARROW_DOWN)


def _by_drag(workbench: Workbench, number: int) -> None:
    line = workbench.threshold("add-on-cpu")
    if number == 0:
        ActionChains(workbench.driver, duration=0).click_and_hold(line).perform()
    step = -3 if number % 16 < 8 else 3
    ActionChains(workbench.driver, duration=0).move_by_offset(0, step).perform()


if __name__ == "__main__":
    pace()
    engine()
    first_result()
    edits()
