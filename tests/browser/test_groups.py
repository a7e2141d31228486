"""First minutes, the list of groups, and a new group."""

import pytest
from selenium.webdriver.common.keys import Keys

from jostle.demo import PLAN
from tests.browser.workbench import resize

pytestmark = [pytest.mark.browser, pytest.mark.xdist_group("browser")]


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
    empty.driver.find_element("css selector", "input[type=file]").send_keys(str(broken))
    empty.waits_for_text(".notice", "write an IANA time zone name")
    good = tmp_path / "good.yaml"
    text = PLAN.read_text()
    good.write_text(text[: text.index("  june-week:")])
    empty.driver.find_element("css selector", "input[type=file]").send_keys(str(good))
    empty.waits_for_text(".group-row h2", "booking-web")


def test_the_list_shows_what_breaks_its_promise(workbench):
    workbench.open("/groups")
    workbench.waits_for_text(".groups-head", "5 groups; 2 break a promise.")
    row = workbench.wait_for('.group-row[aria-label="booking-web"]').text
    assert "3 to 40 of web-front; adds 1 above 58 % CPU; removes 1 below 42 % CPU" in row
    assert "€ 225" in row
    assert "Broken: 97 % of answers within 400 ms; 96.31 % were" in row
    workbench.wait_for('.group-row[aria-label="booking-web"]').click()
    workbench.waits_for_text(".page h1", "booking-web")


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
    workbench.until(lambda: len(workbench.all(".group-row")) == 6)


def test_a_group_that_is_not_there_is_said(workbench):
    workbench.open("/rehearse/nobody")
    workbench.waits_for_text(".notice", "There is no group called nobody.")


@pytest.mark.parametrize("place", ["/groups", "/rehearse/booking-web"])
def test_a_narrow_screen_is_not_overrun(workbench, place):
    resize(workbench.driver, 390, 844)
    try:
        workbench.open(place)
        workbench.wait_for(".group-row, .verdict")
        widths = workbench.driver.execute_script("return [document.documentElement.scrollWidth, innerWidth]")
        assert widths[0] <= widths[1] == 390
    finally:
        workbench.driver.get("about:blank")
        resize(workbench.driver, 1280, 800)
