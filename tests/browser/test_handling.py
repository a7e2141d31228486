"""Finding and doing by keyboard, undo and redo, and the library."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

pytestmark = [pytest.mark.browser, pytest.mark.usefixtures("opened")]
ADD = "policies.add-on-cpu"


def press(workbench, *keys):
    chain = ActionChains(workbench.driver)
    for held in keys[:-1]:
        chain.key_down(held)
    chain.send_keys(keys[-1])
    for held in keys[:-1]:
        chain.key_up(held)
    chain.perform()


def find(workbench, text):
    press(workbench, Keys.CONTROL, "k")
    field = workbench.wait_for('[aria-label="Find or do"]')
    field.send_keys(text)
    workbench.until(lambda: workbench.all("[data-action]"))
    field.send_keys(Keys.ARROW_DOWN, Keys.ENTER)


def test_control_k_finds_a_setting_and_a_group(workbench):
    find(workbench, "maximum: 40")
    workbench.until(lambda: workbench.driver.switch_to.active_element.get_attribute("data-path") == "maximum")
    find(workbench, "add on cpu cooldown")
    active = workbench.driver.switch_to
    workbench.until(lambda: active.active_element.get_attribute("data-path") == "policies.add-on-cpu.cooldown")
    find(workbench, "live-track")
    workbench.waits_for_text(".page h1", "live-track")


def test_control_k_shows_a_metric_and_acts_on_the_screen(workbench):
    find(workbench, "latency p95")
    workbench.wait_for('[data-strip="latency p95"]')
    find(workbench, "holds a level")
    workbench.waits_for_take("new policy hold-cpu")
    find(workbench, "sailings")
    workbench.waits_for_text(".demand-sheet h1", "sailings")


def test_control_k_does_things(workbench):
    find(workbench, "light or dark")
    workbench.until(
        lambda: workbench.driver.execute_script("return document.documentElement.dataset.mantineColorScheme") == "dark"
    )
    workbench.driver.execute_script("localStorage.clear()")


def test_the_question_mark_lists_the_keys(workbench):
    press(workbench, Keys.SHIFT, "?")
    workbench.waits_for_text(".keys", "find a group, a setting or a strip")
    press(workbench, Keys.ESCAPE)
    workbench.until(lambda: not workbench.all(".keys"))


def test_undo_and_redo_walk_between_takes(workbench):
    workbench.word(f"{ADD}.amount").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 2, was 1")
    after = workbench.figure("Cost of 7 d")
    workbench.driver.execute_script("document.activeElement.blur()")
    press(workbench, Keys.CONTROL, "z")
    workbench.waits_for_take("arrangement 1")
    workbench.until(lambda: workbench.figure("Cost of 7 d") != after)
    press(workbench, Keys.CONTROL, Keys.SHIFT, "z")
    workbench.waits_for_take("add 2, was 1")
    workbench.until(lambda: workbench.figure("Cost of 7 d") == after)


def test_a_version_of_a_template_is_written_with_a_note(workbench):
    workbench.open("/library")
    workbench.waits_for_text(".sheet h1", "web-front")
    assert [one.text.split()[0] for one in workbench.all(".sheet td.differs")] == ["brindle-web-43", "1"]
    workbench.named("button", "write version 3").click()
    disk = workbench.wait_for('[aria-label="Disk, GiB"]')
    disk.send_keys(Keys.CONTROL, "a")
    disk.send_keys("much")
    workbench.wait_for('[aria-label="Note"]').send_keys("A larger machine")
    workbench.named("button", "Save version 3").click()
    workbench.waits_for_text(".sheet .notice", "disk_gib")
    disk.send_keys(Keys.CONTROL, "a")
    disk.send_keys("20")
    workbench.wait_for('[aria-label="Machine type"] option:nth-child(3)').click()
    workbench.named("button", "Save version 3").click()
    workbench.waits_for_text(".sheet thead", "version 3\nruns in booking-web")
    workbench.open("/rehearse/booking-web")
    workbench.waits_for_text('[data-key="runs"]', "web-front, version 3")
