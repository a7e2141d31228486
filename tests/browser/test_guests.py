"""A host and its guests: under each other on Groups, on one axis in Rehearse, and the words of a place."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def test_guests_are_found_under_their_host_and_drawn_with_it(workbench):
    workbench.open("/groups")
    host = workbench.wait_for('article[aria-label="deck"]')
    assert host.location["y"] < workbench.wait_for('article[aria-label="chat"]').location["y"]
    workbench.open("/rehearse/deck")
    workbench.waits_for_text('[aria-label="Verdict"]', "Shared out")
    assert "copies on deck: chat, timetable, weather, without a place" in workbench.text('[data-strip="Copies"]')
    assert "how full each is of chat, timetable, weather" in workbench.text('[data-strip="Each instance"]')


def test_a_place_is_changed_by_hand(workbench):
    workbench.open("/rehearse/chat")
    workbench.waits_for_text('[data-key="runs"]', "each with 0.5 vCPUs and 2.5 GiB")
    workbench.write_word("place.memory_gib", "3", Keys.ENTER)
    workbench.waits_for_text('[data-key="runs"]', "0.5 vCPUs and 3 GiB")
    workbench.write_word("place.memory_gib", "40", Keys.ENTER)
    workbench.waits_for_text(".notice", "no host has room for it: otter-4 has 15.5 GiB")


def test_live_shows_what_each_instance_carries_and_what_is_lost_with_it(workbench):
    workbench.ask("/api/plans/1/live", {"at": "2025-07-08T08:00", "until": "2025-07-08T11:00", "days": 1})
    workbench.open("/live?group=deck")
    tile = workbench.wait_for('section[aria-label="deck"] [data-instance="1"]')
    assert "carries" in tile.get_attribute("aria-label")
    assert "GiB free" in tile.get_attribute("aria-label")
    workbench.in_view(tile).click()
    workbench.waits_for_text('[aria-label="By hand"]', "Instance 1 at")
    workbench.named("button", "kill").click()
    workbench.wait_for("[role=alert] button")
    next(one for one in workbench.all("[role=alert] button") if one.text == "kill").click()
    workbench.until(lambda: not workbench.all('section[aria-label="deck"] [data-instance="1"]'))
    workbench.named("button", "to the next change").click()
    workbench.open("/live?group=timetable&by=host")
    workbench.wait_for('section[aria-label="timetable"] [data-instance]')
    bays = workbench.text('section[aria-label="timetable"]')
    assert "Copies by" in bays
    assert "of deck" in bays
    assert "on instance 1 of deck" not in bays
