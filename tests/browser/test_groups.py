"""First minutes, the list of groups, and a new group."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

from jostle.demo import PLAN
from tests.browser.workbench import resize

PLAN_FILE = 'input[type=file][accept^=".yaml"]'
pytestmark = pytest.mark.browser


def test_an_empty_service_says_what_it_is_for_and_offers_the_demo(empty):
    empty.open("/")
    empty.waits_for_text("h1", "See the week before it happens.")
    empty.named("button", "Start with the demo data").click()
    empty.waits_for_text(".page h1", "booking-web")
    empty.wait_for(".threshold")


def test_a_plan_file_is_opened_and_its_errors_are_told(empty, tmp_path):
    empty.open("/")
    empty.wait_for(".empty")
    broken = tmp_path / "broken.yaml"
    broken.write_text("jostle: 1\nname: Quay\ntime_zone: Mars/Base\nstart: 2025-07-07\n")
    empty.driver.find_element("css selector", PLAN_FILE).send_keys(str(broken))
    empty.waits_for_text(".notice", "write an IANA time zone name")
    good = tmp_path / "good.yaml"
    text = PLAN.read_text()
    good.write_text(text[: text.index("  since-june:")].replace("history: since-june, ", ""))
    empty.driver.find_element("css selector", PLAN_FILE).send_keys(str(good))
    empty.waits_for_text(".group-row h2", "booking-web")


def test_the_list_shows_what_breaks_its_promise(workbench):
    workbench.open("/groups")
    workbench.waits_for_text(".groups-head", "10 groups; 2 break a promise.")
    row = workbench.wait_for('.group-row[aria-label="booking-web"]').text
    assert "3 to 40 of web-front; adds 1 above 58 % CPU; removes 1 below 42 % CPU" in row
    assert "€ 225" in row
    assert "Broken: 97 % of answers within 400 ms; 96.3 % were" in row
    workbench.wait_for('.group-row[aria-label="booking-web"]').click()
    workbench.waits_for_text(".page h1", "booking-web")


def test_the_frame_of_the_plan_is_changed_in_its_sentence(workbench):
    workbench.open("/groups")
    workbench.waits_for_text(".frame", "rehearsed for 7 d from Mon 7 Jul 2025 00:00 on the clock of Atlantic/Faroe")
    workbench.word("currency").click()
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("GBP", Keys.ENTER)
    workbench.waits_for_text('.group-row[aria-label="booking-web"] .cost', "£ 225")
    workbench.word("time_zone").click()
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Mars/Base", Keys.ENTER)
    workbench.waits_for_text(".frame [role=alert]", "write an IANA time zone name")
    assert workbench.word("time_zone").text == "Atlantic/Faroe"


def test_a_new_group_is_written_in_one_sentence(workbench):
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    name = workbench.wait_for('[aria-label="Name"]')
    name.send_keys("Berth Desk", Keys.ENTER)
    workbench.waits_for_text(".new-group .wrong", "a name is lower-case letters, digits and hyphens")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("berth-desk", Keys.ENTER)
    workbench.waits_for_text(".page h1", "berth-desk")
    workbench.wait_for(".threshold")
    assert workbench.current_take() == "arrangement 1"
    workbench.open("/groups")
    workbench.until(lambda: len(workbench.all(".group-row")) == 11)


def test_a_group_that_is_not_there_is_said(workbench):
    workbench.open("/rehearse/nobody")
    workbench.waits_for_text(".notice", "There is no group called nobody.")


@pytest.mark.parametrize(
    "place", ["/groups", "/rehearse/booking-web", "/library/demands/sailings", "/library/templates", "/tune"]
)
def test_a_narrow_screen_is_not_overrun(workbench, place):
    resize(workbench.driver, 390, 844)
    try:
        workbench.open(place)
        workbench.wait_for(".group-row, .verdict, .layer canvas, .sheet td, [aria-label=Sets]")
        widths = workbench.driver.execute_script("return [document.documentElement.scrollWidth, innerWidth]")
        assert widths[0] <= widths[1] == 390
    finally:
        workbench.driver.get("about:blank")
        resize(workbench.driver, 1280, 800)


def test_a_first_file_that_is_left_leaves_nothing_behind(empty, tmp_path):
    file = tmp_path / "load.csv"
    file.write_text("time,requests_per_second\n2025-07-07T00:00Z,5\n2025-07-07T01:00Z,7\n")
    empty.open("/")
    empty.wait_for(".empty")
    empty.driver.find_element("css selector", 'input[type="file"]').send_keys(str(file))
    empty.wait_for(".bring-form svg")
    empty.named(".bring-form button", "Leave it").click()
    empty.waits_for_text("h1", "See the week before it happens.")
    assert empty.driver.execute_script("return fetch('/api/plans').then(r => r.json()).then(r => r.length)") == 0


def test_from_nothing_a_group_is_written_kept_to_its_promise_and_saved(empty):
    empty.open("/")
    empty.named("button", "Write a new group").click()
    empty.wait_for('[aria-label="Name"]').send_keys("quay-web", Keys.ENTER)
    empty.waits_for_text(".page h1", "quay-web")
    empty.wait_for(".threshold")
    empty.until(lambda: empty.all(".verdict .kept, .verdict .broken"))
    empty.word("work.cpu_seconds").send_keys(*[Keys.ARROW_UP] * 80, Keys.ENTER)
    empty.until(lambda: empty.current_take().startswith("CPU time"))
    empty.until(lambda: empty.all(".verdict .broken"))
    amount = empty.word("policies.add-on-cpu.amount")
    amount.send_keys(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ENTER)
    empty.waits_for_take("add 3, was 1")
    empty.word("policies.add-on-cpu.threshold").send_keys(*[Keys.ARROW_DOWN] * 12, Keys.ENTER)
    empty.waits_for_take("add above 50 %, was 62 %")
    empty.until(lambda: "✓" in empty.text(".verdict") and not empty.all(".verdict .broken"))
    empty.named(".page-head button", "save as arrangement 2").click()
    empty.wait_for('[aria-label="Note on arrangement 2"]').send_keys("Keeps its promise at three times the work", Keys.ENTER)
    empty.waits_for_text(".where", "arrangement 2")
    empty.named(".where button", "arrangement 2").click()
    empty.waits_for_text(".arrangements li", "Keeps its promise at three times the work")


def test_a_csv_comes_first_and_the_group_follows_it(empty, tmp_path):
    file = tmp_path / "Night Boats.csv"
    file.write_text("time,requests_per_second\n" + "".join(f"2025-07-07T{hour:02}:00,{20 + hour}\n" for hour in range(24)))
    empty.open("/")
    empty.wait_for(".empty")
    empty.driver.find_element("css selector", 'input[type=file][accept^=".csv"]').send_keys(str(file))
    empty.waits_for_text(".bring-form", "24 rows, each so many a second, 1 h apart")
    empty.named(".bring-form button", "Write a group for it").click()
    empty.until(lambda: empty.wait_for('[aria-label="Demand"]').get_attribute("value") == "night-boats")
    empty.wait_for('[aria-label="Name"]').send_keys("night-web", Keys.ENTER)
    empty.waits_for_text(".page h1", "night-web")
    empty.waits_for_text('[data-key="demand"]', "Requests as in night-boats.")


def test_days_are_dragged_on_the_outline_of_a_file(workbench, tmp_path):
    file = tmp_path / "fortnight.csv"
    file.write_text(
        "time,requests_per_second\n"
        + "".join(f"2025-06-{day:02}T{h:02}:00,{day + h}\n" for day in range(2, 16) for h in range(24))
    )
    workbench.open("/library/demands")
    workbench.wait_for('input[type=file][accept^=".csv"]').send_keys(str(file))
    outline = workbench.wait_for(".bring-form svg")
    width = outline.size["width"]
    drag = ActionChains(workbench.driver).move_to_element_with_offset(outline, int(width * (2.5 / 14 - 0.5)), 0)
    drag.click_and_hold().move_by_offset(int(width * 3 / 14), 0).release().perform()
    workbench.waits_for_text(".bring-form", "Rehearsed: Wed 4 Jun to")
    workbench.named(".bring-form button", "rehearse 4 days, as dragged").click()
    workbench.waits_for_text(".bring-form", "Rehearsed: Wed 4 Jun to Sat 7 Jun 2025.")


@pytest.mark.parametrize(
    ("kind", "size", "told"),
    [
        ("jobs", "Time of a job", "Each takes 20 s"),
        ("sessions", "Mean length of a session", "Each lasts 15 min on average"),
    ],
)
def test_a_new_group_does_jobs_or_holds_sessions(workbench, kind, size, told):
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    workbench.wait_for(f'[aria-label="Kind of work"] option[value="{kind}"]').click()
    workbench.wait_for(f'[aria-label="{size}"]')
    workbench.wait_for('[aria-label="Name"]').send_keys("night-crew", Keys.ENTER)
    workbench.waits_for_text(".page h1", "night-crew")
    workbench.waits_for_text('[data-key="work"]', told)


def test_a_group_is_renamed_with_all_that_was_saved_of_it(workbench):
    workbench.open("/groups")
    row = workbench.wait_for('[aria-label="booking-web"]')
    workbench.driver.execute_script("arguments[0].querySelectorAll('[class^=acts] button')[1].focus()", row)
    workbench.until(lambda: workbench.driver.switch_to.active_element.text == "rename")
    workbench.keys(Keys.ENTER)
    workbench.wait_for('[aria-label="New name of booking-web"]').send_keys("ticket-web", Keys.ENTER)
    workbench.wait_for('[aria-label="ticket-web"]')
    workbench.open("/rehearse/ticket-web")
    workbench.waits_for_take("arrangement 1")


def test_a_plan_file_is_looked_at_before_it_changes_anything(workbench, tmp_path):
    text = PLAN.read_text().replace("    minimum: 3\n    maximum: 40", "    minimum: 4\n    maximum: 40")
    file = tmp_path / "next.yaml"
    file.write_text(text[: text.index("  since-june:")].replace("history: since-june, ", ""))
    workbench.open("/groups")
    workbench.wait_for(".group-row")
    workbench.driver.find_element("css selector", PLAN_FILE).send_keys(str(file))
    workbench.waits_for_text(".import-list", "group booking-web minimum 4, was 3")
    workbench.waits_for_text(".import-list", "demand june-week goes")
    workbench.named(".bring-form button", "Take it in").click()
    workbench.until(lambda: not workbench.all(".import-list"))
    workbench.open("/rehearse/booking-web")
    workbench.waits_for_take("arrangement 2")
    workbench.until(lambda: workbench.word("minimum").text == "4")


def test_a_half_written_group_is_there_again_and_may_begin_without_a_policy(workbench):
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    workbench.wait_for('[aria-label="Name"]').send_keys("quay-desk")
    workbench.wait_for('[aria-label="Policies"] option[value="none"]').click()
    workbench.wait_for('[aria-label="At the start"] option[value="other"]').click()
    count = workbench.wait_for('[aria-label="Starting count"]')
    count.send_keys(Keys.CONTROL, "a")
    count.send_keys("5")
    written = "return Object.values(sessionStorage).some((one) => one.includes('\"count\":5'))"
    workbench.until(lambda: workbench.driver.execute_script(written))
    workbench.open("/library/network")
    workbench.wait_for('[data-part="subnets"]')
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    assert workbench.wait_for('[aria-label="Name"]').get_attribute("value") == "quay-desk"
    assert workbench.wait_for('[aria-label="Starting count"]').get_attribute("value") == "5"
    workbench.named("button", "Keep it").click()
    workbench.until(lambda: "/rehearse/quay-desk" in workbench.driver.current_url)
    assert workbench.word("start_count").text == "5"
    assert not workbench.all('[data-key^="policies."]')


def test_a_new_group_and_its_template_are_seen_before_they_are_kept(workbench):
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    workbench.waits_for_text("[aria-label='Its week']", "Its week, before anything is kept: 2 to 12 of web-front")
    workbench.wait_for('[aria-label="Load balancer"] option[value="one"]').click()
    workbench.wait_for('[aria-label="Launch template"] option:last-child').click()
    workbench.wait_for('[aria-label="Name of the new template"]').send_keys("slip-front")
    workbench.wait_for('[aria-label="Machine type"] option:nth-child(2)').click()
    for subnet in ("back-north", "back-skerry"):
        workbench.named('[aria-label="Subnets"] button', subnet).click()
    workbench.named('[aria-label="Firewall rules"] button', "inside").click()
    workbench.waits_for_text("[aria-label='Its week']", "2 to 12 of slip-front")
    workbench.until(lambda: len(workbench.all("[aria-label='Promises']")) == 11)
    workbench.wait_for('[aria-label="Name"]').send_keys("slip-web", Keys.ENTER)
    workbench.waits_for_text(".page h1", "slip-web")
    workbench.waits_for_text('[data-key="load_balancer"]', "https on 443 goes to port 8080")
    workbench.waits_for_text('[data-key="runs"]', "slip-front, version 1 (newest) in north, skerry and west")


def test_many_groups_are_changed_at_once_each_listed_first(workbench):
    workbench.open("/groups")
    workbench.named("button", "change many").click()
    opened_at = workbench.wait_for(".many").rect["y"]
    workbench.until(lambda: workbench.all('[aria-label="What to change"] option[value="drain"]'))
    workbench.wait_for('[aria-label="What to change"] option[value="drain"]').click()
    workbench.wait_for('[aria-label="Its new value"]').send_keys("2 min")
    workbench.waits_for_text(".many table", "drain 2 min, was 90 s")
    assert "no change" in workbench.text(".many table")
    workbench.waits_for_text('[aria-label="All groups together"]', "promises kept")
    assert workbench.wait_for(".many").rect["y"] == opened_at, "what comes later moves it away under the pointer"
    workbench.named(".many button", "Change these 8").click()
    workbench.until(lambda: not workbench.all(".many"))
    workbench.open("/rehearse/fare-quote")
    workbench.until(lambda: workbench.word("drain").text == "2 min")
    workbench.named(".where button", "arrangement 2").click()
    workbench.waits_for_text(".arrangements li", "the drain of all groups")


def test_a_group_is_begun_from_what_it_is_for(workbench):
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    workbench.named(".new-group button", "begin from what it is for").click()
    workbench.named(".new-group button", "A web service with rushes").click()
    workbench.waits_for_text("[aria-label='What to begin from'] dl", "the larger the step")
    workbench.until(lambda: workbench.wait_for('[aria-label="Maximum"]').get_attribute("value") == "30")
    workbench.waits_for_text("[aria-label='Its week']", "3 to 30 of web-front; adds 1 above 55 % CPU; removes 1 below 30 % CPU")
    workbench.wait_for('[aria-label="Name"]').send_keys("rush-web", Keys.ENTER)
    workbench.waits_for_text(".page h1", "rush-web")
    workbench.waits_for_text('[data-key="leaving"]', "at most 3 instances within 15 min")
