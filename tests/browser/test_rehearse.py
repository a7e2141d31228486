"""An operator changes settings and sees the week that follows."""

import itertools

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.workbench import connected

pytestmark = [pytest.mark.browser, pytest.mark.usefixtures("opened")]
ADD = "policies.add-on-cpu"


def test_the_week_stands_there_with_its_verdict(workbench):
    assert workbench.text(".page h1") == "booking-web"
    assert workbench.figure("Cost of 7 d").startswith("€ 225")
    broken = workbench.wait_for(".verdict .broken").text
    assert "broken: 97 % of answers within 400 ms" in broken
    strips = [one.get_attribute("aria-label") for one in workbench.all(".strip")]
    assert strips == ["Demand and capacity", "CPU", "Instances", "Each instance", "Spend"]
    assert "Demand between" in workbench.text('[data-strip="Demand and capacity"] .says')
    drawn = workbench.driver.execute_script(
        "return [...document.querySelectorAll('[data-strip] canvas')].map(c => "
        "new Set(c.getContext('2d').getImageData(0, 0, c.width, c.height).data).size)"
    )
    assert len(drawn) == 5
    assert min(drawn) > 20


def test_nothing_is_wider_than_the_window(workbench):
    widths = workbench.driver.execute_script("return [document.documentElement.scrollWidth, innerWidth]")
    assert widths[0] <= widths[1] == 1280


def test_a_threshold_is_changed_by_typing(workbench):
    before = workbench.figure("Changes of count")
    workbench.word(f"{ADD}.threshold").click()
    field = workbench.wait_for(".word-editor input")
    assert workbench.wait_for(".word-editor .distribution figcaption").text.startswith("above it")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("70")
    workbench.waits_for_text(".take.trying", "add above 70 %, was 58 %")
    assert workbench.word(f"{ADD}.threshold").text == "70 %"
    field.send_keys(Keys.ENTER)
    workbench.waits_for_take("add above 70 %, was 58 %")
    assert workbench.figure("Changes of count") != before
    assert "above 70 %" in workbench.threshold("add-on-cpu").text
    assert workbench.all(".verdict .better, .verdict .worse")


def test_escape_puts_a_word_back(workbench):
    cost = workbench.figure("Cost of 7 d")
    workbench.word(f"{ADD}.amount").click()
    workbench.wait_for(".word-editor")
    workbench.keys(Keys.ARROW_UP, Keys.ARROW_UP)
    workbench.waits_for_text(".take.trying", "add 3, was 1")
    workbench.keys(Keys.ESCAPE)
    workbench.until(lambda: not workbench.all(".take.trying") and workbench.word(f"{ADD}.amount").text == "1")
    assert workbench.figure("Cost of 7 d") == cost
    assert workbench.takes() == ["arrangement 1"]


def test_a_threshold_is_moved_by_keyboard(workbench):
    line = workbench.threshold("add-on-cpu")
    line.send_keys(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ARROW_UP)
    workbench.waits_for_text(".take.trying", "add above 61 %")
    assert workbench.threshold("add-on-cpu").get_attribute("aria-valuenow") == "61"
    assert workbench.word(f"{ADD}.threshold").text == "61 %"
    workbench.threshold("add-on-cpu").send_keys(Keys.ENTER)
    workbench.waits_for_take("add above 61 %, was 58 %")


def test_a_threshold_is_dragged(workbench):
    cost = workbench.figure("Cost of 7 d")
    line = workbench.threshold("add-on-cpu")
    ActionChains(workbench.driver).click_and_hold(line).move_by_offset(0, -8).move_by_offset(0, -8).perform()
    workbench.wait_for(".take.trying")
    ActionChains(workbench.driver).release().perform()
    workbench.until(lambda: workbench.current_take().startswith("add above"))
    raised = float(workbench.threshold("add-on-cpu").get_attribute("aria-valuenow"))
    assert 62 <= raised <= 85
    assert workbench.word(f"{ADD}.threshold").text == f"{raised:.0f} %"
    workbench.until(lambda: workbench.figure("Cost of 7 d") != cost)


def test_a_threshold_goes_as_far_as_the_pointer_though_the_page_above_moves(workbench):
    def value():
        return round(float(workbench.threshold("add-on-cpu").get_attribute("aria-valuenow")))

    move = workbench.take_hold('.threshold[aria-label^="add-on-cpu:"]')
    seen = [value()]
    for _ in range(8):
        move(-3)
        workbench.until(lambda: value() > seen[-1])
        seen.append(value())
        workbench.waits_for_text(".take.trying", f"add above {seen[-1]} %")
    steps = {after - before for before, after in itertools.pairwise(seen)}
    assert max(steps) - min(steps) <= 1


def test_a_closed_word_is_stepped_by_the_arrow_keys(workbench):
    workbench.word(f"{ADD}.cooldown").send_keys(Keys.ARROW_DOWN)
    workbench.waits_for_text(".take.trying", "wait 5 min 30 s, was 6 min")
    workbench.keys(Keys.ENTER)
    workbench.waits_for_take("wait 5 min 30 s, was 6 min")


def test_a_refused_edit_is_said_and_the_week_stays(workbench):
    cost = workbench.figure("Cost of 7 d")
    workbench.write_word("maximum", "2")
    workbench.waits_for_text(".notice", "the maximum cannot be below the minimum of 3")
    assert workbench.figure("Cost of 7 d") == cost


def test_an_edit_waits_for_a_lost_server_and_is_sent_when_it_is_back(workbench):
    with connected(workbench.driver, offline=True):
        workbench.word("maximum").send_keys(Keys.ARROW_UP, Keys.ENTER)
        workbench.waits_for_text(".notice", "The server does not answer. Your edit is kept here")
        assert workbench.word("maximum").text == "40"
    workbench.waits_for_take("maximum 41, was 40")
    workbench.until(lambda: not workbench.all(".notice"))
    workbench.driver.get_log("browser")


def test_long_work_says_so_and_can_be_given_up(workbench):
    cost = workbench.figure("Cost of 7 d")
    with connected(workbench.driver, latency=3000):
        workbench.word("minimum").send_keys(*[Keys.ARROW_UP] * 4)
        workbench.waits_for_text(".made [role=status]", "rehearsing")
        workbench.named(".made [role=status] button", "cancel").click()
    workbench.until(lambda: not workbench.all(".made [role=status]"))
    workbench.until(lambda: workbench.word("minimum").text == "3")
    assert workbench.figure("Cost of 7 d") == cost
    assert workbench.takes() == ["arrangement 1"]


def test_two_minutes_of_playing_find_something_better(workbench):
    workbench.word(f"{ADD}.amount").send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    workbench.keys(Keys.ENTER)
    workbench.waits_for_take("add 3, was 1")
    workbench.until(lambda: not workbench.all(".verdict .broken"))
    assert "kept: 97 % of answers" in workbench.text(".verdict")


def test_a_moment_is_opened_and_walked(workbench):
    touch = workbench.wait_for(".touch")
    ActionChains(workbench.driver).move_to_element_with_offset(touch, 20, 40).click().perform()
    workbench.until(lambda: workbench.text(".moment h2").startswith("Thu 10 Jul 1"))
    title = workbench.text(".moment h2")
    assert "why" in title
    reasons = [one.text for one in workbench.all(".moment li")]
    assert any("average CPU" in reason for reason in reasons)
    assert any("serving" in reason for reason in reasons)
    workbench.named(".moment button", "decision after →").click()
    workbench.until(lambda: workbench.text(".moment h2") != title)
    assert workbench.text(".moment .decision").startswith(("add-on-cpu", "remove-on-cpu"))
    following = workbench.text(".moment h2")
    workbench.wait_for(".strips").send_keys(Keys.ARROW_RIGHT)
    workbench.until(lambda: workbench.text(".moment h2") != following)
    workbench.wait_for(".moment .reason").click()
    assert workbench.driver.switch_to.active_element.get_attribute("data-path").startswith("policies.")


def test_zoom_by_wheel_drag_and_keys(workbench):
    def axis():
        return [one.text for one in workbench.all(".axis span")]

    week = axis()
    assert week[0] == "Mon 7 Jul"
    strips = workbench.wait_for(".strips")
    strips.send_keys("+")
    workbench.until(lambda: axis() != week)
    closer = axis()
    touch = workbench.wait_for(".touch")
    ActionChains(workbench.driver).move_to_element(touch).click_and_hold().move_by_offset(120, 0).release().perform()
    workbench.until(lambda: axis() != closer)
    dragged = axis()
    ActionChains(workbench.driver).scroll_from_origin(origin(touch), 0, -300).perform()
    workbench.until(lambda: axis() != dragged)
    assert not workbench.all(".moment")
    strips.send_keys(Keys.HOME)
    workbench.until(lambda: axis() == week)


def origin(element):
    from selenium.webdriver.common.actions.wheel_input import ScrollOrigin

    return ScrollOrigin.from_element(element)


def test_the_minimap_moves_the_window(workbench):
    workbench.wait_for(".strips").send_keys("+", "+")
    window = workbench.wait_for(".minimap .window")
    workbench.until(lambda: window.size["width"] < 400)
    before = window.location["x"]
    workbench.wait_for(".minimap").send_keys(Keys.ARROW_LEFT, Keys.ARROW_LEFT)
    workbench.until(lambda: workbench.wait_for(".minimap .window").location["x"] < before)


def test_strips_fold_move_and_show_their_table(workbench):
    def order():
        return [one.get_attribute("data-strip") for one in workbench.all(".strip")]

    workbench.wait_for('[data-strip="Spend"] .title').click()
    workbench.until(lambda: "folded" in workbench.wait_for('[data-strip="Spend"]').get_attribute("class"))
    workbench.wait_for('[data-strip="Spend"] .title').send_keys(Keys.ALT, Keys.ARROW_UP)
    workbench.until(lambda: order()[-1] == "Each instance")
    ActionChains(workbench.driver).move_to_element(workbench.wait_for('[data-strip="CPU"]')).perform()
    workbench.wait_for('[aria-label="CPU as a table"]').click()
    workbench.waits_for_text(".strip-table tbody tr:first-child", "Mon 7 Jul 00:00")
    assert 20 < len(workbench.all(".strip-table tbody tr")) <= 60
    lowest, highest = (
        [float(cell.text) for cell in workbench.all(f".strip-table tbody td:nth-child({column})")] for column in (2, 4)
    )
    said = workbench.text('[data-strip="CPU"] .says')
    assert said == f"CPU between {min(lowest):.1f} % and {max(highest):.0f} %."
    workbench.keys(Keys.ESCAPE)
    workbench.driver.execute_script("localStorage.clear()")


def test_policies_are_added_paused_and_taken_out(workbench):
    workbench.named(".offers button", "+ policy that holds a level").click()
    workbench.waits_for_take("new policy hold-cpu")
    workbench.waits_for_text(".sentence", "Hold average CPU over 3 min at 55 %")
    assert len(workbench.all(".threshold")) == 3
    for act, take in (("pause", "hold-cpu paused"), ("take out", "without hold-cpu")):
        sentence = workbench.wait_for('[data-key="policies.hold-cpu"]')
        ActionChains(workbench.driver).move_to_element(sentence).perform()
        next(one for one in sentence.find_elements("css selector", ".acts button") if one.text == act).click()
        workbench.waits_for_take(take)
    workbench.until(lambda: len(workbench.all(".threshold")) == 2)


def test_a_finding_stands_under_its_sentence_and_is_mended(workbench):
    workbench.word(f"{ADD}.amount").send_keys(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 3, was 1")
    swing = workbench.wait_for('[data-key="policies.remove-on-cpu"] [data-code="swing"]')
    assert "At 3 instances, adding 3 lowers CPU from 58 % to 30.5 %" in swing.text
    swing.find_element("css selector", "button").click()
    workbench.waits_for_take("remove below 30 %, was 42 %")
    workbench.until(lambda: not workbench.all('[data-code="swing"]'))


def test_takes_are_gone_back_to_starred_and_shown_as_a_ghost(workbench):
    first = workbench.figure("Cost of 7 d")
    workbench.word("minimum").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("minimum 4, was 3")
    workbench.word(f"{ADD}.amount").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 2, was 1")
    assert workbench.takes() == ["arrangement 1", "minimum 4, was 3", "add 2, was 1"]
    workbench.wait_for('[aria-label="Star take 2"]').click()
    workbench.wait_for('[aria-label="Take 2 is starred"]')
    workbench.mark(2, "Show take 2 as a ghost").click()
    workbench.until(lambda: "ghost=2" in workbench.driver.current_url)
    workbench.wait_for('[data-take="1"] .name').click()
    workbench.waits_for_take("arrangement 1")
    workbench.until(lambda: workbench.figure("Cost of 7 d").startswith(first))
    assert workbench.word("minimum").text == "3"


def test_a_take_is_saved_as_the_next_arrangement(workbench):
    workbench.word("minimum").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("minimum 4, was 3")
    workbench.named(".page-head button", "save as arrangement 2").click()
    workbench.wait_for('[aria-label="Note on arrangement 2"]').send_keys("four at night", Keys.ENTER)
    workbench.waits_for_text(".where", "arrangement 2")
    workbench.named(".where button", "arrangement 2").click()
    workbench.until(lambda: [one.text for one in workbench.all(".arrangements li b")] == ["2", "1"])
    workbench.waits_for_text(".arrangements li", "2 four at night")
    workbench.named(".arrangements button", "restore").click()
    workbench.waits_for_take("arrangement 3")
    workbench.until(lambda: workbench.word("minimum").text == "3")


def test_saving_over_another_window_is_refused(workbench):
    workbench.word("minimum").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("minimum 4, was 3")
    workbench.named(".page-head button", "save as arrangement 2").click()
    note = workbench.wait_for('[aria-label="Note on arrangement 2"]')
    workbench.ask("/api/plans/1/groups/booking-web/arrangements", {"take": 1, "note": "by another"})
    note.send_keys(Keys.ENTER)
    workbench.waits_for_text(
        ".save-as [role=alert]", "arrangement 2 of booking-web was saved in another window since (by another)"
    )
    workbench.until(lambda: workbench.wait_for(".save-as input").get_attribute("aria-label") == "Note on arrangement 3")


def test_two_takes_are_laid_side_by_side(workbench):
    workbench.word(f"{ADD}.amount").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 2, was 1")
    workbench.mark(1, "Lay take 1 beside the current one").click()
    workbench.until(lambda: workbench.text(".compare h2") == "Take 1 and take 2")
    workbench.waits_for_text(".compare .before", "add 1, then wait 6 min")
    workbench.waits_for_text(".compare .after", "add 2, then wait 6 min")
    workbench.until(lambda: len(workbench.all(".compare tbody tr")) == 5)
    workbench.until(lambda: "ghost=1" in workbench.driver.current_url)


def test_many_seeds_become_a_band(workbench):
    workbench.named(".made button", "over 20").click()
    workbench.waits_for_text(".band-line", "97 % of answers within 400 ms: kept under")
    workbench.waits_for_text(".band-line", "Over 20 seeds: cost €")
    workbench.named(".made button", "one seed").click()
    workbench.until(lambda: not workbench.all(".band-line"))


def test_what_is_tried_is_kept_or_put_back_by_its_chip(workbench):
    workbench.word("minimum").send_keys(Keys.ARROW_UP)
    workbench.wait_for('[aria-label="Put it back"]').click()
    workbench.until(lambda: not workbench.all(".take.trying"))


def test_a_calendar_is_tried_from_a_file(workbench, tmp_path):
    file = tmp_path / "night.ics"
    file.write_text(
        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:test\r\nBEGIN:VEVENT\r\nUID:night\r\nSUMMARY:night\r\n"
        "DTSTART;TZID=Atlantic/Faroe:20250708T220000\r\nDTEND;TZID=Atlantic/Faroe:20250709T060000\r\n"
        "RRULE:FREQ=DAILY\r\nX-JOSTLE-KIND:floor\r\nX-JOSTLE-COUNT:5\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
    )
    workbench.until(lambda: workbench.all('.bring input[type="file"]'))[0].send_keys(str(file))
    workbench.until(lambda: workbench.all(".take.trying, .notice"))
    workbench.waits_for_text(".take.trying", "new calendar entry night")


def test_another_seed_is_another_week(workbench):
    changes = workbench.figure("Changes of count")
    workbench.named(".made button", "seed 1").click()
    workbench.wait_for(".seed").send_keys(Keys.CONTROL, "a")
    workbench.wait_for(".seed").send_keys("7", Keys.ENTER)
    workbench.waits_for_take("seed 7")
    assert workbench.figure("Changes of count") != changes


def test_all_is_found_again_after_a_reload(workbench):
    workbench.word(f"{ADD}.amount").send_keys(Keys.ARROW_UP, Keys.ENTER)
    workbench.waits_for_take("add 2, was 1")
    workbench.wait_for(".strips").send_keys("+")
    workbench.wait_for(".strips").send_keys(Keys.ENTER)
    workbench.until(lambda: "why" in workbench.text(".moment h2"))
    title = workbench.text(".moment h2")
    workbench.until(lambda: "begin=" in workbench.driver.current_url and "at=" in workbench.driver.current_url)
    cost, axis = workbench.figure("Cost of 7 d"), workbench.text(".axis")
    workbench.driver.refresh()
    workbench.waits_for_take("add 2, was 1")
    workbench.until(lambda: workbench.text(".moment h2") == title)
    assert workbench.figure("Cost of 7 d") == cost
    assert workbench.text(".axis") == axis


def test_no_other_host_is_asked(workbench):
    asked = "return performance.getEntriesByType('resource').map(entry => entry.name)"
    urls = [url for url in workbench.driver.execute_script(asked) if url.startswith("http")]
    assert any("/assets/" in url for url in urls)
    assert any("/api/" in url for url in urls)
    assert [url for url in urls if not url.startswith(workbench.address)] == []


def test_what_was_short_is_listed_explained_and_mended(workbench):
    workbench.wait_for(".verdict button.figure").click()
    workbench.until(lambda: workbench.text(".short h2") == "Short once")
    said = workbench.text(".short li")
    assert "18 instances served and 33 were needed" in said
    assert "waiting after a change 42.67 min" in said
    workbench.wait_for(".short .reason").click()
    workbench.until(lambda: "at=" in workbench.driver.current_url)
    workbench.wait_for(".stack .here")
    workbench.named(".short .plain-button", "try wait 3 min").click()
    workbench.waits_for_take("wait 3 min, was 6 min")
    workbench.until(lambda: "42.67" not in workbench.text(".short"))


def test_instances_have_names_that_are_kept(workbench):
    workbench.open("/rehearse/live-track")
    workbench.waits_for_text('[data-key="identity"]', "one in the place of another keeps its name, zone and disk")
    lanes = workbench.wait_for(".lanes-touch")
    ActionChains(workbench.driver).move_to_element_with_offset(lanes, 0, 0).perform()
    workbench.until(lambda: "live-track-" in str(lanes.get_attribute("title")))
    lanes.click()
    workbench.waits_for_text("aside h2", "live-track-")
    workbench.write_word("identity.names", "{group}")
    workbench.waits_for_text('[role="alert"]', "such names cannot be told apart; write {number} or {tail} in them")
