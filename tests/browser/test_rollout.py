"""A version brought in: its block with its stages on the strips, its words on the page, and a hand that brings one in on Live."""

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

pytestmark = pytest.mark.browser


def test_a_rollout_is_seen_stretched_and_judged(workbench):
    workbench.open("/rehearse/fare-quote")
    workbench.waits_for_text('[aria-label="Verdict"]', "rounding: version 2 back after")
    assert "version 2, 1: dark to light" in workbench.text('[data-strip="Instances"]')
    block = workbench.in_view(workbench.wait_for('.calendar-week [aria-label^="rounding,"]'))
    assert [one.get_attribute("title") for one in block.find_elements("css selector", "b")] == [
        "its canary is on its way",
        "its canary is watched",
        "it goes back",
    ]
    block.send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    block.send_keys(Keys.TAB)
    workbench.waits_for_text('[data-key="calendar.rounding"]', "a pause of 25 min between")
    workbench.write_word("calendar.rounding.canary.watch", "30 min", Keys.ENTER)
    workbench.waits_for_text('[data-key="calendar.rounding"]', "first, for 30 min: by")


def test_a_hand_brings_a_version_in_and_turns_it_back(workbench):
    workbench.ask("/api/plans/1/live", {"at": "2025-07-08T00:00", "until": "2025-07-08T10:00", "days": 1})
    workbench.open("/live?group=fare-quote")
    workbench.wait_for("[data-instance]")
    workbench.named("button", "bring in a version").click()
    Select(workbench.wait_for('[aria-label="Canary"]')).select_by_visible_text("without a canary,")
    workbench.named("button", "Bring it in").click()
    workbench.waits_for_text('[aria-label="By hand"]', "Done: version 2 is brought in.")
    workbench.ask("/api/plans/1/live/steps", {"by": 600})
    workbench.waits_for_text('[aria-label="fare-quote"]', "by-hand-1: version 2 brought in: ")
    workbench.named("button", "turn it back").click()
    workbench.waits_for_text('[aria-label="By hand"]', "Done: the rollout is turned back.")
    workbench.named("button", "an hour on").click()
    workbench.waits_for_text('[aria-label="Journal"]', "by-hand-1 is back: all are of version 1 again")
