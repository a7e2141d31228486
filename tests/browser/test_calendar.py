"""The calendar on the page, findings that show where they happen, and groups copied and retired."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def opened(workbench, group):
    workbench.open(f"/rehearse/{group}")
    workbench.waits_for_text(".page h1", group)
    workbench.wait_for(".strip canvas")


def test_an_entry_is_added_and_its_time_is_changed(workbench):
    opened(workbench, "booking-web")
    workbench.in_view(workbench.named(".offers button", "+ floor")).click()
    workbench.waits_for_take("new calendar entry floor")
    workbench.waits_for_text('[data-key="calendar.floor"]', "At least 4 from 08:00 until 12:00, every day, first on Mon 7 Jul.")
    workbench.until(lambda: workbench.driver.switch_to.active_element.get_attribute("data-path") == "calendar.floor.count")
    workbench.word("calendar.floor.until").click()
    field = workbench.wait_for(".wall-time")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("14:30")
    field.send_keys(Keys.ENTER)
    workbench.waits_for_take("until 14:30, was 12:00")
    workbench.waits_for_text('[data-key="calendar.floor"]', "until 14:30, every day, first")
    workbench.word("calendar.floor.from").click()
    field = workbench.wait_for(".wall-time")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("9:30", Keys.ENTER)
    workbench.waits_for_take("from 09:30, was 08:00")
    workbench.word("calendar.floor.repeat").click()
    for day in ("Sat", "Sun"):
        workbench.named(".days-editor .week button", day).click()
    workbench.waits_for_text(".take.trying", "on weekdays, was every day")
    workbench.wait_for(".days-editor input").send_keys("31 Aug", Keys.ENTER)
    workbench.waits_for_text('[data-key="calendar.floor"]', "on weekdays until Sun 31 Aug")


def test_a_finding_shows_where_it_happens(workbench):
    opened(workbench, "booking-web")
    word = workbench.word("maximum")
    word.send_keys(Keys.ENTER)
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("16", Keys.ENTER)
    workbench.waits_for_take("maximum 16, was 40")
    finding = workbench.wait_for('[data-code="maximum-short"]')
    next(b for b in finding.find_elements("css selector", "button") if b.text == "show").click()
    workbench.until(lambda: "Thu 10 Jul" in workbench.text(".axis"))
    workbench.until(lambda: "why" in workbench.text(".moment h2"))
    workbench.until(lambda: "begin=" in workbench.driver.current_url)


def test_a_group_is_copied_retired_and_brought_back(workbench):
    workbench.open("/groups")
    row = workbench.wait_for('[aria-label="tryout"]')
    ActionChains(workbench.driver).move_to_element(row).perform()
    next(b for b in row.find_elements("css selector", ".acts button") if b.text == "copy").click()
    workbench.wait_for(".acts input").send_keys("tryout-two", Keys.ENTER)
    copied = workbench.wait_for('[aria-label="tryout-two"]')
    assert "1 error, 3 warnings: " in copied.text
    ActionChains(workbench.driver).move_to_element(copied).perform()
    next(b for b in copied.find_elements("css selector", ".acts button") if b.text == "retire").click()
    workbench.waits_for_text(".retired", "Retired, with arrangements that stay: tryout-two")
    workbench.until(lambda: len(workbench.all(".group-row")) == 10)
    workbench.named(".retired button", "Bring it back").click()
    workbench.until(lambda: len(workbench.all(".group-row")) == 11)
