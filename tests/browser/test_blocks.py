"""What lies on the strips and in the calendar is taken up and moved; instances are looked at one by one."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

pytestmark = [pytest.mark.browser, pytest.mark.usefixtures("opened")]


def seen(workbench, css):
    return workbench.in_view(workbench.wait_for(css))


def pressed(workbench, text):
    workbench.in_view(workbench.named(".offers button", text)).click()


def test_a_floor_is_dragged_in_the_week_of_the_calendar(workbench):
    block = seen(workbench, ".calendar-week .time-block")
    ActionChains(workbench.driver).click_and_hold(block).move_by_offset(20, 0).move_by_offset(16, 0).release().perform()
    workbench.until(lambda: workbench.current_take().startswith("from Fri 11 Jul"))
    workbench.waits_for_text('[data-key="calendar.release-day"]', "At least 16 from Fri 11 Jul")


def test_a_floor_is_dragged_on_the_count_strip(workbench):
    block = workbench.wait_for('[data-strip="Instances"] .time-block')
    ActionChains(workbench.driver).click_and_hold(block).move_by_offset(-60, 0).move_by_offset(-48, 0).release().perform()
    workbench.until(lambda: workbench.current_take().startswith("from Wed 9 Jul"))


def test_a_floor_is_moved_lengthened_and_taken_out_by_keys(workbench):
    css = ".calendar-week .time-block"
    seen(workbench, css).send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    workbench.waits_for_text(".take.trying", "from Thu 10 Jul 12:00, was Thu 10 Jul 11:30")
    workbench.wait_for(css).send_keys(Keys.ENTER)
    workbench.waits_for_take("from Thu 10 Jul 12:00, was Thu 10 Jul 11:30")
    workbench.wait_for(css).send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    workbench.waits_for_text(".take.trying", "for 3 h 15 min, was 3 h")
    workbench.keys(Keys.ESCAPE)
    workbench.until(lambda: not workbench.all(".take.trying"))
    workbench.wait_for(css).send_keys(Keys.DELETE)
    workbench.waits_for_take("without release-day")
    workbench.until(lambda: not workbench.all(css))


def test_one_day_of_a_daily_floor_is_left_out(workbench):
    pressed(workbench, "+ floor")
    workbench.waits_for_take("new calendar entry floor")
    workbench.until(lambda: len(workbench.all('.calendar-week [aria-label^="floor,"]')) == 7)
    workbench.all('.calendar-week [aria-label^="floor,"]')[1].send_keys(Keys.DELETE)
    workbench.waits_for_text('[data-key="calendar.floor"]', "every day, first on Mon 7 Jul, but for Tue 8 Jul.")
    workbench.until(lambda: len(workbench.all('.calendar-week [aria-label^="floor,"]')) == 6)


def test_a_hand_kills_an_instance_and_is_moved_on_the_strip(workbench):
    workbench.wait_for(".strips").send_keys(Keys.ENTER)
    workbench.until(lambda: "why" in workbench.text(".moment h2"))
    pressed(workbench, "+ kill an instance then")
    workbench.waits_for_take("a hand kills the oldest instance")
    mark = workbench.wait_for('[data-strip="Instances"] .tone-hand')
    mark.send_keys(Keys.PAGE_UP)
    workbench.waits_for_text(".take.trying", "was Thu 10 Jul 12:00")
    workbench.wait_for('[data-strip="Instances"] .tone-hand').send_keys(Keys.ENTER)
    workbench.waits_for_take("at Thu 10 Jul 12:12, was Thu 10 Jul 12:00")


def test_any_metric_is_shown_and_taken_away(workbench):
    workbench.wait_for('.add-strip option[value="latency_p95"]').click()
    workbench.wait_for('[data-strip="latency p95"]')
    workbench.wait_for('.add-strip option[value="cpu@north"]').click()
    workbench.wait_for('[data-strip="CPU in north"]')
    workbench.until(lambda: "strips=latency_p95%2Ccpu%40north" in workbench.driver.current_url)
    workbench.driver.refresh()
    workbench.wait_for('[data-strip="latency p95"] .title').send_keys(Keys.SHIFT)
    workbench.wait_for('[aria-label="Take latency p95 away"]').click()
    workbench.until(lambda: not workbench.all('[data-strip="latency p95"]'))


def test_instances_are_shaded_by_zone_and_one_is_looked_at(workbench):
    lanes = workbench.wait_for('[data-strip="Each instance"]')
    ActionChains(workbench.driver).move_to_element(lanes).perform()
    workbench.wait_for('[aria-label="Sort and shade instances by"] option:nth-child(4)').click()
    workbench.until(lambda: [one.text for one in workbench.all(".class-name")] == ["north", "skerry", "west"])
    touch = workbench.wait_for(".lanes-touch")
    ActionChains(workbench.driver).move_to_element_with_offset(touch, 0, -28).click().perform()
    workbench.until(lambda: workbench.text(".life h2").startswith("Instance "))
    workbench.waits_for_text(".life dl", "north")
    workbench.wait_for('.life svg[aria-label^="CPU, at most"]')
    workbench.wait_for('.life svg[aria-label^="requests/s, at most"]')
    first = workbench.text(".life h2")
    workbench.named(".life button", "instance after →").click()
    workbench.until(lambda: workbench.text(".life h2") != first)
    workbench.until(lambda: "instance=" in workbench.driver.current_url)
    workbench.driver.execute_script("localStorage.clear()")


def test_who_leaves_first_is_put_in_order(workbench):
    seen(workbench, '[data-path="leaving.criteria"]').click()
    second = workbench.wait_for(".order-editor li:nth-child(2) button")
    second.send_keys(Keys.ALT, Keys.ARROW_UP)
    workbench.waits_for_text(".take.trying", "the oldest then the oldest version, was the oldest version then the oldest")
    workbench.named(".order-editor .plain-button", "the dearest").click()
    workbench.waits_for_text(".take.trying", "then the dearest")
    workbench.wait_for('[data-path="leaving.criteria"]').send_keys(Keys.ENTER)
    workbench.until(lambda: "then the dearest" in workbench.current_take())


def test_a_band_and_a_brake_and_a_promise_are_offered(workbench):
    sentence = workbench.wait_for('[data-key="policies.add-on-cpu"]')
    ActionChains(workbench.driver).move_to_element(sentence).perform()
    next(b for b in sentence.find_elements("css selector", ".acts button") if b.text == "+ band").click()
    workbench.waits_for_text('[data-key="policies.add-on-cpu"]', "add 1, or 2 beyond 72.5 %")
    pressed(workbench, "+ owned instances")
    workbench.waits_for_text('[data-key="owned"]', "3 are owned")
    pressed(workbench, "− brake on removals")
    workbench.until(lambda: not workbench.all('[data-path="leaving.brake.at_most"]'))


def test_an_entry_is_given_another_time_zone(workbench):
    sentence = seen(workbench, '[data-key="calendar.release-day"]')
    ActionChains(workbench.driver).move_to_element(sentence).perform()
    next(b for b in sentence.find_elements("css selector", ".acts button") if b.text == "another time zone").click()
    workbench.waits_for_text('[data-key="calendar.release-day"]', "by the clock of UTC")
    seen(workbench, '[data-path="calendar.release-day.zone"]').click()
    field = workbench.wait_for(".wall-time")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Europe/Lisbon", Keys.ENTER)
    workbench.waits_for_take("zone Europe/Lisbon, was UTC")
