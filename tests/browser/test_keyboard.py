"""An operator's task without a mouse: find a group, change it, understand it, save it."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def focused(workbench, attribute):
    return workbench.driver.switch_to.active_element.get_attribute(attribute)


def tab_to(workbench, reached, back=False):
    """Press Tab until the focus is where it should be; it must come there within two hundred steps."""
    for _ in range(200):
        if reached():
            return
        workbench.keys(*([Keys.SHIFT, Keys.TAB] if back else [Keys.TAB]))
    raise AssertionError("Tab does not lead there")


def test_a_group_is_found_changed_understood_and_saved(workbench):
    workbench.open("/groups")
    workbench.wait_for(".group-row")
    ActionChains(workbench.driver).key_down(Keys.CONTROL).send_keys("k").key_up(Keys.CONTROL).perform()
    workbench.wait_for('.finder [aria-label="Find or do"]')
    workbench.keys("booking")
    workbench.until(lambda: "booking-web" in workbench.text(".finder"))
    workbench.keys(Keys.ARROW_DOWN, Keys.ENTER)
    workbench.waits_for_text(".page h1", "booking-web")
    workbench.wait_for(".threshold")
    tab_to(workbench, lambda: focused(workbench, "data-path") == "policies.add-on-cpu.amount")
    workbench.keys(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 3, was 1")
    workbench.until(lambda: not workbench.all(".verdict .broken"))
    tab_to(workbench, lambda: "threshold" in (focused(workbench, "class") or ""))
    workbench.keys(Keys.ARROW_UP, Keys.ARROW_UP)
    workbench.waits_for_text(".take.trying", "above 60 %")
    workbench.keys(Keys.ESCAPE)
    workbench.until(lambda: not workbench.all(".take.trying"))
    tab_to(workbench, lambda: (focused(workbench, "class") or "").startswith("strips"), back=True)
    workbench.keys(Keys.ENTER)
    workbench.until(lambda: "why" in workbench.text(".moment h2"))
    first = workbench.text(".moment h2")
    workbench.keys(Keys.ARROW_RIGHT)
    workbench.until(lambda: workbench.text(".moment h2") != first)
    tab_to(workbench, lambda: workbench.driver.switch_to.active_element.text == "save as arrangement 2", back=True)
    workbench.keys(Keys.ENTER)
    workbench.until(lambda: focused(workbench, "aria-label") == "Note on arrangement 2")
    workbench.keys("Adds three at once", Keys.ENTER)
    workbench.until(lambda: "arrangement 2" in workbench.text(".where"))
