"""The pictures of docs/screenshots, taken anew from the demo data at 1280 x 800."""

import tempfile
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.workbench import Workbench, open_browser, served

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"
NOON = 1_752_148_800_000 - 3_600_000
THURSDAY = f"begin={NOON - 5 * 3_600_000}&end={NOON + 7 * 3_600_000}"


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        with served(Path(folder), with_demo=False) as address:
            _take(address, _first_minutes)
        with served(Path(folder), with_demo=True) as address:
            _take(address, _rehearse)
            _take(address, _groups)
            _take(address, _sessions)
            _take(address, _short)
            _take(address, _sleep)
            _take(address, _library)
            _take(address, _demand)
            _take(address, _hosts)
            _take(address, _machines)
            _take(address, _network)
            _take(address, _dark, dark=True)
            _take(address, _tune)
            _take(address, _live)
            _take(address, _costs)


def _take(address: str, act, dark: bool = False) -> None:
    driver = open_browser(1280, 800, dark)
    try:
        act(Workbench(driver, address))
    finally:
        driver.quit()


def _keep(workbench: Workbench, name: str) -> None:
    workbench.until(lambda: workbench.driver.execute_script("return document.fonts.status") == "loaded")
    workbench.driver.save_screenshot(str(FOLDER / f"{name}.png"))
    print(f"{name}.png")


def _tune(workbench: Workbench) -> None:
    workbench.open("/tune/booking-web")
    workbench.named("button", "Look for better settings").click()
    workbench.until(lambda: "200 of 200" in (workbench.text("[role=status]") if workbench.all("[role=status]") else ""))
    workbench.wait_for('[aria-label="The chosen set"]')
    _keep(workbench, "tune")


def _live(workbench: Workbench) -> None:
    at = {"at": "2025-07-01T00:00", "until": "2025-07-10T12:09", "left_alone": ["tryout"]}
    workbench.ask("/api/plans/1/live", at)
    workbench.open("/live?instance=0")
    workbench.wait_for("[data-instance]")
    workbench.wait_for('[aria-label="Journal"] li')
    _keep(workbench, "live")
    workbench.named("button", "an hour on").click()
    workbench.named("button", "notices").click()
    workbench.waits_for_text('[aria-label="Notices"] ol', "is short of capacity no more")
    _keep(workbench, "notices")


def _costs(workbench: Workbench) -> None:
    workbench.open("/costs?begin=2025-07-09&end=2025-07-09")
    workbench.waits_for_text("main header h1", "is likely by")
    workbench.wait_for("figure span em")
    workbench.waits_for_text('[aria-label="Rehearsed and lived"] table', "not explained")
    workbench.waits_for_text("main dl", "needed or not")
    _keep(workbench, "costs")


def _first_minutes(workbench: Workbench) -> None:
    workbench.open("/")
    workbench.wait_for(".empty")
    _keep(workbench, "first-minutes")


def _rehearse(workbench: Workbench) -> None:
    workbench.open("/rehearse/booking-web")
    workbench.wait_for(".threshold")
    workbench.word("policies.add-on-cpu.amount").send_keys(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 3, was 1")
    workbench.mark(1, "Show take 1 as a ghost").click()
    workbench.until(lambda: "ghost=1" in workbench.driver.current_url)
    ActionChains(workbench.driver).move_to_element(workbench.wait_for(".wordmark")).perform()
    _keep(workbench, "rehearse")
    workbench.mark(1, "Lay take 1 beside the current one").click()
    workbench.wait_for(".compare .after")
    workbench.named(".made button", "over 20").click()
    workbench.waits_for_text(".band-line", "Over 20 seeds")
    _keep(workbench, "compare")
    workbench.named(".made button", "one seed").click()
    workbench.wait_for('[aria-label="Close the comparison"]').click()
    workbench.word("policies.add-on-cpu.threshold").click()
    workbench.keys(*[Keys.ARROW_UP] * 6)
    workbench.waits_for_text(".take.trying", "add above 64 %")
    _keep(workbench, "threshold")
    workbench.open(f"/rehearse/booking-web?take=1&at={NOON + 20 * 60_000}&{THURSDAY}")
    workbench.wait_for(".moment li")
    _keep(workbench, "moment")


def _short(workbench: Workbench) -> None:
    workbench.open("/rehearse/fare-quote")
    workbench.wait_for(".verdict button.figure").click()
    workbench.named(".short .plain-button", "the worst →").click()
    workbench.wait_for(".short li.here")
    workbench.until(lambda: "begin=" in workbench.driver.current_url)
    _keep(workbench, "short")


def _groups(workbench: Workbench) -> None:
    workbench.open("/groups")
    workbench.wait_for(".group-row")
    workbench.named("button", "New group").click()
    workbench.wait_for(".new-group")
    workbench.waits_for_text('[aria-label="All groups together"]', "promises kept")
    _keep(workbench, "groups")


def _sessions(workbench: Workbench) -> None:
    workbench.open("/rehearse/live-track")
    workbench.wait_for(".threshold")
    workbench.waits_for_text("main", "without notice")
    _keep(workbench, "sessions")


def _sleep(workbench: Workbench) -> None:
    workbench.open("/rehearse/tryout")
    workbench.wait_for(".threshold")
    calendar = workbench.wait_for('section[aria-label="Calendar"]')
    workbench.driver.execute_script("arguments[0].scrollIntoView()", calendar)
    _keep(workbench, "calendar")


def _library(workbench: Workbench) -> None:
    workbench.open("/library")
    workbench.wait_for(".sheet td")
    _keep(workbench, "library")


def _demand(workbench: Workbench) -> None:
    workbench.open("/library/demands/summer-week")
    workbench.wait_for('[data-layer="layers.5"] canvas')
    row = workbench.wait_for('[data-layer="layers.4"]')
    ActionChains(workbench.driver).move_to_element(row).perform()
    workbench.until(
        lambda: next((b for b in workbench.all(".layer:hover .layer-acts button") if b.text == "show without"), None)
    ).click()
    workbench.wait_for(".legend")
    _keep(workbench, "demand")


def _hosts(workbench: Workbench) -> None:
    workbench.open("/rehearse/deck")
    workbench.wait_for('[data-strip="Copies"]')
    workbench.waits_for_text('[aria-label="Verdict"]', "Shared out")
    _keep(workbench, "hosts")


def _machines(workbench: Workbench) -> None:
    workbench.open("/library/machines/booking-web")
    workbench.waits_for_text('[data-machine="otter-2"]', "as it runs now")
    _keep(workbench, "machines")


def _network(workbench: Workbench) -> None:
    workbench.open("/library/network")
    workbench.waits_for_text('[data-part="subnets"]', "lies in zone")
    _keep(workbench, "network")


def _dark(workbench: Workbench) -> None:
    workbench.open(f"/rehearse/booking-web?take=2&ghost=1&{THURSDAY}")
    workbench.wait_for(".threshold")
    workbench.until(lambda: len(workbench.all(".strip canvas")) == 5)
    _keep(workbench, "rehearse-dark")


if __name__ == "__main__":
    main()
