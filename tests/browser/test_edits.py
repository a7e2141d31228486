"""No edit is lost: clicks as fast as a person's, a service that is slow, values that are refused."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.workbench import connect

# ms until an answer, as over a bad line
SLOW = 400


@pytest.fixture(params=[0, SLOW], ids=["at once", "slow"])
def line(request, workbench):
    """A line to the service that is fast, and one that is slow."""
    workbench.latency = request.param
    yield
    connect(workbench.driver)


def act(workbench, key, text):
    """What can be done with a sentence, which shows it while the pointer is there."""

    def shown():
        ActionChains(workbench.driver).move_to_element(workbench.wait_for(f'[data-key="{key}"] > p')).perform()
        buttons = workbench.all(f'[data-key="{key}"] .acts > button')
        return next((one for one in buttons if one.text.strip() == text), None)

    return workbench.until(shown)


def bands(workbench):
    return len(workbench.all('[data-path^="policies.pile.bands."][data-path$=".amount"]'))


def days(workbench):
    return [one.text for one in workbench.all('.word-editor button[aria-pressed="true"]')]


def test_a_button_pressed_twice_acts_twice(workbench, line):
    workbench.open("/rehearse/manifest-worker")
    less = act(workbench, "policies.pile", "− band")
    assert bands(workbench) == 2
    ActionChains(workbench.driver).double_click(less).perform()
    workbench.until(lambda: bands(workbench) == 0)
    more = act(workbench, "policies.pile", "+ band")
    for _ in range(3):
        more.click()
    workbench.until(lambda: bands(workbench) == 3)
    assert not workbench.all('[role="alert"]')


def test_what_is_taken_out_is_taken_out_once(workbench, line):
    workbench.open("/rehearse/manifest-worker")
    gone = act(workbench, "policies.waiting", "take out")
    ActionChains(workbench.driver).double_click(gone).perform()
    act(workbench, "policies.pile", "pause").click()
    act(workbench, "policies.pile", "resume")
    workbench.until(lambda: not workbench.all('[data-key="policies.waiting"]'))
    assert workbench.all('[data-key="policies.idle"]')
    assert not workbench.all('[role="alert"]')


def test_enter_keeps_the_days_that_are_shown_and_what_comes_after_puts_none_back(workbench, line):
    workbench.open("/rehearse/tryout")
    workbench.word("calendar.nights.repeat").click()
    workbench.until(lambda: days(workbench) == ["Mon", "Tue", "Wed", "Thu"])
    workbench.named(".word-editor button", "Thu").click()
    workbench.keys(Keys.ENTER)
    act(workbench, "calendar.nights", "pause").click()
    act(workbench, "calendar.nights", "resume").click()
    act(workbench, "policies.remove-on-cpu", "pause").click()
    act(workbench, "policies.remove-on-cpu", "resume")
    workbench.until(lambda: not workbench.all(".word-editor"))
    workbench.word("calendar.nights.repeat").click()
    workbench.until(lambda: days(workbench) == ["Mon", "Tue", "Wed"])


def test_what_is_left_open_is_kept_with_the_act_that_is_pressed_next(workbench, line):
    workbench.open("/rehearse/tryout")
    workbench.word("calendar.nights.repeat").click()
    workbench.named(".word-editor button", "Tue").click()
    act(workbench, "policies.remove-on-cpu", "pause").click()
    act(workbench, "policies.remove-on-cpu", "resume")
    workbench.until(lambda: not workbench.all(".word-editor"))
    workbench.word("calendar.nights.repeat").click()
    workbench.until(lambda: days(workbench) == ["Mon", "Wed", "Thu"])


def test_what_is_refused_stays_in_its_editor_and_is_told_where_it_is_saved(workbench, line):
    workbench.open("/rehearse/live-track")
    workbench.write_word("minimum", "4")
    workbench.until(lambda: "minimum" in workbench.current_take())
    workbench.write_word("promises.0.share", "120 %")
    workbench.wait_for('[data-path="promises.0.share"][aria-invalid="true"]')
    field = workbench.wait_for(".word-editor input")
    assert field.get_attribute("value") == "120 %"
    workbench.named("button", "save as arrangement 2").click()
    workbench.waits_for_text("form [role=alert]", "Not saved with it, since it was refused: ")
    workbench.named("form button", "Save 2 without it")
    field = workbench.wait_for(".word-editor input")
    assert field.get_attribute("value") == "120 %"
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("98 %", Keys.ENTER)
    workbench.until(lambda: not workbench.all(".word-editor"))
    workbench.named("form button", "Save 2").click()
    workbench.until(lambda: not workbench.all("form button"))
    plan = workbench.ask("/api/plans")[0]["id"]
    group = workbench.ask(f"/api/plans/{plan}/document")["groups"]["live-track"]
    assert (group["minimum"], group["promises"][0]["share"]) == (4, 0.98)


def test_the_starting_count_goes_with_the_minimum(workbench, line):
    workbench.open("/rehearse/tide-model")
    workbench.write_word("minimum", "1")
    workbench.until(lambda: "minimum" in workbench.current_take())
    assert not workbench.all('[role="alert"]')


def test_what_is_saved_at_once_has_what_was_typed_last(workbench, line):
    """Typed, and saved before the answer is there."""
    workbench.open("/rehearse/live-track")
    workbench.write_word("drain", "20 min")
    workbench.until(lambda: "20 min" in workbench.current_take())
    workbench.named("button", "save as arrangement 2").click()
    note = workbench.wait_for("form input")
    workbench.word("maximum").click()
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("15")
    note.click()
    note.send_keys("fewer", Keys.ENTER)
    workbench.until(lambda: not workbench.all("form button"))
    plan = workbench.ask("/api/plans")[0]["id"]
    group = workbench.ask(f"/api/plans/{plan}/document")["groups"]["live-track"]
    assert (group["drain"], group["maximum"]) == (1200, 15)


def test_what_would_be_refused_is_grey_and_says_why(workbench):
    workbench.open("/rehearse/tryout")
    spot = workbench.named("button", "+ spot")
    workbench.until(lambda: spot.get_attribute("aria-disabled") == "true")
    spot.click()
    workbench.waits_for_text("output", "walrus-2 is not sold as spot; sold are: otter-2")
    assert not workbench.all('[role="alert"]')
    spot.click()
    workbench.until(lambda: not any("not sold" in one.text for one in workbench.all("output")))
