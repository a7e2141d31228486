"""The page: from its opening, from an edit, from an order by hand, until it is seen."""

import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.bench.measuring import Size, late, say
from tests.browser.workbench import Workbench, open_browser, served

TILES = """
const [label, done] = arguments;
const tiles = () => document.querySelectorAll('[data-instance]').length;
const [before, began] = [tiles(), performance.now()];
const seen = new MutationObserver(() => tiles() !== before && (seen.disconnect(), done(performance.now() - began)));
seen.observe(document.body, {subtree: true, childList: true});
[...document.querySelectorAll('button')].find(one => one.textContent === label).click();
"""


@contextmanager
def workbench() -> Iterator[Workbench]:
    """A service with the demo data, and a browser of its own."""
    with tempfile.TemporaryDirectory() as folder, served(Path(folder), with_demo=True) as address:
        driver = open_browser(1280, 800)
        try:
            yield Workbench(driver, address)
        finally:
            driver.quit()


def edits(size: Size) -> None:
    with workbench() as shown:
        say("Page to picture, service warm", late(_opened(shown, min(9, size.edits))))
        for group in ("booking-web", "live-track"):
            shown.open(f"/rehearse/{group}")
            say(f"Edit to picture, {group}, by key", late(_pictures(shown, _by_key, size.edits)))
            say(f"Edit to picture, {group}, by drag", late(_pictures(shown, _by_drag(), size.edits)))


def tiles(size: Size) -> None:
    """From an order by hand to its tile on the page."""
    at = {"at": "2025-07-08T00:00", "until": "2025-07-08T10:00", "days": 31}
    with workbench() as shown:
        shown.ask("/api/plans/1/live", at)
        shown.open("/live")
        shown.wait_for("[data-instance]")
        taken = []
        for _ in range(min(20, size.edits)):
            shown.until(lambda: shown.named("button", "one more").is_enabled())
            taken.append(shown.driver.execute_async_script(TILES, "one more"))
    say("From an order to its tile", late(taken))


def _opened(shown: Workbench, times: int) -> list[float]:
    """From the opening of the page, service and caches warm, until its picture stands there, ms."""
    found = []
    script = "return performance.getEntriesByName('page-to-picture').map(entry => entry.duration)"
    for _ in range(times):
        shown.driver.get("about:blank")
        shown.open("/rehearse/booking-web")
        found.append(shown.until(lambda: shown.driver.execute_script(script))[0])
    return found


def _measured(shown: Workbench) -> list[float]:
    script = "return performance.getEntriesByName('edit-to-picture').map(entry => entry.duration)"
    return shown.driver.execute_script(script)


def _pictures(shown: Workbench, act: Callable[[Workbench, int], None], times: int) -> list[float]:
    """From an edit to its picture, ms; the first three are not counted."""
    first = len(_measured(shown))
    for number in range(times + 3):
        before = len(_measured(shown))
        act(shown, number)
        shown.until(lambda before=before: len(_measured(shown)) > before)
    return _measured(shown)[first + 3 :]


def _by_key(shown: Workbench, number: int) -> None:
    shown.wait_for(".threshold").send_keys(Keys.ARROW_UP if number % 20 < 10 else Keys.ARROW_DOWN)


def _by_drag() -> Callable[[Workbench, int], None]:
    """Steps of one drag."""
    held: list[Callable[[int], None]] = []

    def step(shown: Workbench, number: int) -> None:
        if not held:
            held.append(shown.take_hold(".threshold"))
        held[0](-3 if number % 16 < 8 else 3)

    return step


PARTS = (edits, tiles)
