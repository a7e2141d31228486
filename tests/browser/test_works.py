"""Groups of every kind of work on the Rehearse screen, with their calendars and spare policies."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def opened(workbench, group):
    workbench.open(f"/rehearse/{group}")
    workbench.waits_for_text(".page h1", group)
    workbench.wait_for(".verdict")
    workbench.wait_for(".strip canvas")


def test_sessions_are_judged_by_their_seats(workbench):
    opened(workbench, "live-track")
    assert workbench.figure("Found a seat").startswith("100 %")
    assert "refused" in workbench.text(".verdict")
    strips = [one.get_attribute("aria-label") for one in workbench.all(".strip")]
    assert strips == ["Demand and capacity", "share of seats free", "Instances", "Each instance", "Spend"]
    word = workbench.word("policies.spare-seats.share")
    assert word.text == "18 %"
    word.send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("kept free 19 %, was 18 %")


def test_jobs_are_judged_by_their_wait(workbench):
    opened(workbench, "manifest-worker")
    assert "min" in workbench.figure("95 % taken up in")
    assert "left waiting" in workbench.text(".verdict")
    assert workbench.word("policies.pile.bands.0.amount").text == "6"


def test_a_calendar_entry_is_paused_and_the_sleep_is_gone(workbench):
    opened(workbench, "tryout")
    assert "calendar" in workbench.text('[data-strip="Instances"]')
    cost = workbench.figure("Cost of 7 d")
    sentence = workbench.wait_for('[data-key="calendar.weekend"]')
    assert "Asleep, all instances stopped" in sentence.text
    ActionChains(workbench.driver).move_to_element(workbench.in_view(sentence)).perform()
    next(b for b in sentence.find_elements("css selector", "button") if b.text == "pause").click()
    workbench.waits_for_take("weekend paused")
    assert workbench.figure("Cost of 7 d") != cost


def test_the_moment_says_why_not_more_and_not_fewer(workbench):
    opened(workbench, "booking-web")
    workbench.wait_for(".strips").send_keys(Keys.ENTER)
    workbench.until(lambda: "why" in workbench.text(".moment h2"))
    workbench.until(lambda: workbench.all(".moment .why dd"))
    more, fewer = (one.text for one in workbench.all(".moment .why dd"))
    assert more.endswith(".")
    assert fewer.endswith(".")
    assert workbench.text(".moment .outlook").startswith("If the demand stays at")


def test_a_policy_that_keeps_some_free_is_added(workbench):
    opened(workbench, "booking-web")
    workbench.named(".offers button", "+ policy that keeps spare capacity").click()
    workbench.waits_for_take("new policy keep-spare")
    assert workbench.word("policies.keep-spare.share").text == "18 %"
