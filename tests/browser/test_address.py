"""What is chosen stands in the address: Back takes it back, and a link finds it."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.usefixtures("opened")


def chosen(workbench, part):
    return part in workbench.driver.current_url


def test_back_takes_back_what_was_chosen(workbench):
    workbench.word("minimum").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("minimum 4, was 3")
    workbench.mark(1, "Show take 1 as a ghost").click()
    workbench.until(lambda: chosen(workbench, "ghost=1"))
    workbench.wait_for('.takes [title^="All takes"]').click()
    workbench.wait_for(".takes-list")
    address = workbench.driver.current_url
    workbench.driver.back()
    workbench.until(lambda: not workbench.all(".takes-list"))
    assert chosen(workbench, "ghost=1")
    workbench.driver.back()
    workbench.until(lambda: not workbench.all(".take.ghost"))
    workbench.driver.back()
    workbench.waits_for_take("arrangement 1")
    workbench.driver.forward()
    workbench.waits_for_take("minimum 4, was 3")
    workbench.driver.get(address)
    workbench.wait_for(".takes-list")
    assert workbench.current_take() == "minimum 4, was 3"
    assert workbench.all(".take.ghost")


def test_the_list_of_takes_is_sorted_by_how_they_did(workbench):
    for _ in range(2):
        before = len(workbench.takes())
        workbench.word("minimum").send_keys(Keys.ARROW_UP, Keys.ENTER)
        workbench.until(lambda before=before: len(workbench.takes()) > before)
    workbench.wait_for('.takes [title^="All takes"]').click()
    workbench.named(".takes-list thead button", "Cost").click()
    costs = [float(one.text.removeprefix("€ ")) for one in workbench.all(".takes-list tbody td:nth-child(2)")]
    assert len(costs) == 3
    assert costs == sorted(costs)
    workbench.wait_for('.takes-list [aria-label="Take 2 out"]').click()
    workbench.waits_for_text(".takes-list h2", "2 takes")
    workbench.wait_for('.takes-list [aria-label="Compare with take 1"]').click()
    workbench.until(lambda: workbench.text(".compare h2") == "Take 1 and take 3")


def test_the_finder_knows_the_words_of_the_trade(workbench):
    workbench.word("minimum").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("minimum 4, was 3")
    for typed, found in (
        ("scale up", "+ policy that adds"),
        ("price", "Machines"),
        ("zone lost", "summer-week"),
        ("undo", "Undo (Ctrl Z)"),
        ("compare", "Compare with take 1"),
        ("export", "Export as plan file"),
        ("cooldown", "Wait: 6 min"),
        ("why", "Why is the count what it is"),
        ("alert", "Notices"),
        ("max size", "Maximum: 40"),
        ("warmup", "Templates"),
        ("schedule", "+ floor"),
        ("launch template", "Template: web-front"),
        ("health check", "Basis: the machine's state"),
    ):
        workbench.driver.find_element("css selector", "body").send_keys(Keys.CONTROL, "k")
        field = workbench.wait_for('.finder [aria-label="Find or do"]')
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(typed)
        workbench.until(lambda found=found: found in workbench.text(".finder"))
        field.send_keys(Keys.ESCAPE)
        workbench.until(lambda: not workbench.all(".finder"))
