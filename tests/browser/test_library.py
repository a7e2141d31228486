"""The library: machines by need, templates with what is wrong beside the field."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def test_a_machine_is_picked_by_need_and_its_week_is_seen(workbench):
    workbench.open("/library/machines/booking-web")
    workbench.waits_for_text('[data-machine="otter-2"]', "as it runs now")
    workbench.waits_for_text('[data-machine="tern-1"]', "broken: 97 % of answers within 400 ms")
    field = workbench.wait_for('[aria-label="At least so many vCPUs"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("4")
    workbench.waits_for_text('[data-machine="otter-2"].unfit', "does not meet the need")
    workbench.until(lambda: workbench.all("[data-machine]")[0].get_attribute("data-machine") == "otter-4")
    workbench.wait_for(
        '[aria-label="Whose week"] option[value="live-track"], [aria-label="Whose week"] option:nth-child(4)'
    ).click()
    workbench.until(lambda: "/library/machines/live-track" in workbench.driver.current_url)
    workbench.waits_for_text('[data-machine="seal-4"]', "found a seat")


def test_what_is_wrong_stands_beside_the_field_before_saving(workbench):
    workbench.open("/library/templates/web-front")
    workbench.named("button", "write version 3").click()
    workbench.wait_for('[aria-label="Firewall rules"] label:last-child input').click()
    workbench.waits_for_text(".field-finding.error", "leftover opens port 22 (ssh) to the whole world")
    disk = workbench.wait_for('[aria-label="Disk, GiB"]')
    disk.send_keys("00")
    workbench.waits_for_text(".field-finding.warning", "more than its machine")
    workbench.wait_for('[aria-label="Firewall rules"] label:last-child input').click()
    workbench.waits_for_text(".sheet-head", "booking-web € 225 → €")
    workbench.wait_for('.library-parts a[href="/library/machines"]').click()
    workbench.wait_for(".machines")
    workbench.wait_for('.library-parts a[href="/library/templates"]').click()
    assert str(workbench.wait_for('[aria-label="Disk, GiB"]').get_attribute("value")).endswith("00")


def test_a_price_is_changed_where_it_stands(workbench):
    workbench.open("/library/machines/booking-web")
    workbench.waits_for_text('[data-machine="otter-2"]', "as it runs now")
    before = workbench.text('[data-machine="otter-2"] td.differs b')
    workbench.wait_for('[data-path="machines.otter-2.price_per_hour"]').click()
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("0.5", Keys.ENTER)
    workbench.waits_for_text('[data-path="machines.otter-2.price_per_hour"]', "€ 0.5")
    workbench.until(lambda: workbench.text('[data-machine="otter-2"] td.differs b') != before)
    row = workbench.wait_for('[data-machine="otter-2"]')
    next(b for b in row.find_elements("css selector", "button") if b.text == "+ one like it").click()
    made = workbench.wait_for('[data-machine="otter-2-2"]')
    next(b for b in made.find_elements("css selector", "button") if b.text == "take out").click()
    workbench.until(lambda: not workbench.all('[data-machine="otter-2-2"]'))


def test_a_template_is_begun_as_a_group_launches(workbench):
    workbench.open("/library/templates")
    workbench.named(".new-one button", "a new template").click()
    workbench.wait_for('[aria-label="Name of the new template"]').send_keys("packer")
    workbench.wait_for('[aria-label="Begun like"] option[value="group manifest-worker"]').click()
    workbench.named(".new-one button", "begin it").click()
    workbench.waits_for_text(".sheet h1", "packer")
    workbench.waits_for_text(".sheet tbody", "tern-1")


def test_a_finding_is_pointed_at_and_mended(workbench):
    workbench.open("/rehearse/booking-web")
    workbench.named(".findings-line button", "One thing is worth a look").click()
    workbench.until(lambda: workbench.driver.switch_to.active_element.text == "the load balancer's check")
    workbench.keys(Keys.ENTER)
    workbench.until(lambda: workbench.current_take().startswith("basis"))
    workbench.until(lambda: not workbench.all(".findings-line"))


def test_the_network_is_changed_where_it_stands(workbench):
    workbench.open("/library/network")
    workbench.waits_for_text('[data-part="subnets"]', "lies in zone")
    workbench.named("button", "+ subnet").click()
    workbench.wait_for('[aria-label="Name of the new subnet"]').send_keys("quay-c", Keys.ENTER)
    workbench.wait_for('[data-path="subnets.quay-c.zone"]').click()
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("harbour", Keys.ENTER)
    workbench.waits_for_text('[data-name="quay-c"]', "lies in zone harbour")
    workbench.wait_for('[aria-label="take out quay-c"]').click()
    workbench.until(lambda: not workbench.all('[data-name="quay-c"]'))
    workbench.ask("/api/plans/1/network/changes", {"op": "add", "path": "firewall", "value": "by-another"})
    workbench.named("button", "+ firewall rule").click()
    workbench.wait_for('[aria-label="Name of the new firewall rule"]').send_keys("first-try", Keys.ENTER)
    workbench.until(lambda: "changed meanwhile" in workbench.wait_for('[role="alert"]').text)
    workbench.wait_for('[data-name="by-another"]')
    assert not workbench.all('[data-name="first-try"]')
    workbench.named("button", "+ firewall rule").click()
    workbench.wait_for('[aria-label="Name of the new firewall rule"]').send_keys("No Name", Keys.ENTER)
    workbench.waits_for_text("[role=alert]", "a name is lower-case letters")


def test_what_a_template_leaves_open_is_filled_in_and_emptied_again(workbench):
    workbench.open("/rehearse/booking-web")
    workbench.word("launch.start_up").click()
    workbench.wait_for(".word-editor input").send_keys("systemctl start quay", Keys.ENTER)
    workbench.until(lambda: workbench.word("launch.start_up").text == "start-up script systemctl start quay")
    workbench.word("launch.start_up").click()
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(Keys.DELETE, Keys.ENTER)
    workbench.until(lambda: workbench.word("launch.start_up").text == "no start-up script")
