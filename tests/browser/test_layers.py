"""An operator composes a demand from layers."""

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


@pytest.fixture
def layers(workbench):
    workbench.open("/library/demands/summer-week")
    workbench.wait_for('[data-layer="layers.5"] .chart canvas')
    return workbench


def says(workbench, key):
    return workbench.text(f'[data-layer="{key}"] .layer-says p')


def total(workbench):
    return workbench.text(".layer.total .layer-says p")


def act(workbench, key, text):
    row = workbench.wait_for(f'[data-layer="{key}"]')
    ActionChains(workbench.driver).move_to_element(row).perform()
    workbench.until(
        lambda: next((b for b in row.find_elements("css selector", ".layer-acts button") if b.text == text), None)
    ).click()


def test_a_layer_is_muted_and_laid_on_again_and_its_effect_is_said(layers):
    before = total(layers)
    act(layers, "layers.3", "mute")
    layers.until(lambda: total(layers) != before)
    layers.waits_for_text(".layer.muted .layer-says", "a rush to 5 times")
    layers.until(lambda: "broken" not in layers.text(".effect"))
    act(layers, "layers.3", "lay it on again")
    layers.until(lambda: total(layers) == before)


def test_a_rush_is_moved_on_the_chart_and_put_back_by_undo(layers):
    block = layers.wait_for('[data-layer="layers.3"] .time-block')
    ActionChains(layers.driver).click_and_hold(block).move_by_offset(30, 0).move_by_offset(38, 0).release().perform()
    layers.until(lambda: "From Fri 11 Jul" in says(layers, "layers.3"))
    layers.until(lambda: layers.named(".sheet-head button", "undo").is_enabled())
    layers.named(".sheet-head button", "undo").click()
    layers.until(lambda: "From Thu 10 Jul 12:00" in says(layers, "layers.3"))
    layers.until(lambda: layers.named(".sheet-head button", "redo").is_enabled())
    layers.named(".sheet-head button", "redo").click()
    layers.until(lambda: "From Fri 11 Jul" in says(layers, "layers.3"))


def test_a_rush_is_moved_and_lengthened_by_keys(layers):
    block = layers.wait_for('[data-layer="layers.3"] .time-block')
    block.send_keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    layers.until(lambda: "From Thu 10 Jul 12:10" in says(layers, "layers.3"))
    layers.wait_for('[data-layer="layers.3"] .time-block').send_keys(Keys.ENTER)
    layers.until(lambda: layers.named(".sheet-head button", "undo").is_enabled())
    layers.wait_for('[data-layer="layers.3"] .time-block').send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    layers.until(lambda: "held for 30 min" in says(layers, "layers.3"))
    layers.keys(Keys.ESCAPE)
    layers.until(lambda: "held for 25 min" in says(layers, "layers.3"))


def test_bursts_are_moved_added_and_taken_out_on_the_hours_of_a_day(workbench):
    workbench.open("/library/demands/sailings")
    first = workbench.wait_for('[aria-label="A burst at 05:50"]')
    first.send_keys(Keys.ARROW_RIGHT, Keys.ENTER)
    workbench.until(lambda: says(workbench, "layers.1").startswith("620 arrive at 05:55, 08:20,"))
    workbench.until(lambda: workbench.named(".sheet-head button", "undo").is_enabled())
    workbench.wait_for('[aria-label="A burst at 08:20"]').send_keys(Keys.DELETE)
    workbench.until(lambda: says(workbench, "layers.1").startswith("620 arrive at 05:55, 11:35,"))
    hours = workbench.wait_for('[data-layer="layers.1"] .blocks')
    ActionChains(workbench.driver).move_to_element_with_offset(hours, 0, 0).double_click().perform()
    workbench.until(lambda: "12:00" in says(workbench, "layers.1"))


def test_an_edit_that_is_refused_says_why_and_shows_what_stands(layers):
    plan = layers.ask("/api/plans")[0]["id"]
    rate = {"op": "set", "path": "layers.0.rate", "value": 150}
    path = f"/api/plans/{plan}/demands/summer-week/views"
    state = layers.ask(path, {})["state"]
    layers.ask(path, {"changes": [rate], "keep": True, "state": state})
    block = layers.wait_for('[data-layer="layers.3"] .time-block')
    block.send_keys(Keys.ARROW_RIGHT)
    layers.until(lambda: "From Thu 10 Jul 12:05" in says(layers, "layers.3"))
    layers.wait_for('[data-layer="layers.3"] .time-block').send_keys(Keys.ENTER)
    layers.waits_for_text(".notice", "was changed in another window")
    layers.until(lambda: "From Thu 10 Jul 12:00" in says(layers, "layers.3"))
    assert says(layers, "layers.0") == "A level of 150/s."
    assert layers.text(".notice")


def test_a_day_is_drawn_by_its_points(layers):
    peak = layers.wait_for('[aria-label="At 09:30: 1.62 times"]')
    ActionChains(layers.driver).click_and_hold(peak).move_by_offset(0, -10).move_by_offset(0, -12).release().perform()
    layers.until(lambda: not layers.all('[aria-label="At 09:30: 1.62 times"]'))
    layers.until(lambda: layers.named(".sheet-head button", "undo").is_enabled())
    night = layers.wait_for('[aria-label="At 03:30: 0.16 times"]')
    night.send_keys(Keys.ARROW_UP, Keys.ARROW_UP)
    layers.wait_for('[aria-label="At 03:30: 0.26 times"]').send_keys(Keys.ENTER)
    number = len(layers.all(".curve-point"))
    layers.wait_for('[aria-label="At 03:30: 0.26 times"]').send_keys(Keys.DELETE)
    layers.until(lambda: len(layers.all(".curve-point")) == number - 1)
    curve = layers.wait_for(".day-curve .blocks")
    ActionChains(layers.driver).move_to_element_with_offset(curve, -150, 10).double_click().perform()
    layers.until(lambda: len(layers.all(".curve-point")) == number)


def test_a_weekday_is_raised_by_keys(layers):
    layers.wait_for('[role="slider"][aria-label="sunday"]').send_keys(Keys.ARROW_UP, Keys.ARROW_UP, Keys.ENTER)
    layers.until(lambda: "Sun 0.96" in says(layers, "layers.2"))


def test_layers_and_incidents_are_added_and_taken_out(layers):
    before = total(layers)
    layers.named(".offers button", "+ load test").click()
    layers.until(lambda: "a load test: 100 clients that send at a rate of their own, 1/s each" in says(layers, "layers.6"))
    layers.until(lambda: total(layers) != before)
    layers.named(".offers button", "+ zone lost").click()
    layers.until(lambda: "zone north is lost for 30 min" in says(layers, "incidents.0"))
    act(layers, "layers.6", "take out")
    layers.until(lambda: not layers.all('[data-layer="layers.6"]') and total(layers) == before)


def test_the_demand_is_drawn_without_a_layer(layers):
    act(layers, "layers.4", "show without")
    layers.waits_for_text(".legend", "without: From Sat 12 Jul 14:20 a rush to 2.6 times")


def test_a_new_demand_is_composed_and_met_by_a_group(layers):
    layers.named(".new-one button", "a new demand").click()
    layers.wait_for('[aria-label="Name of the new demand"]').send_keys("quiet-week", Keys.ENTER)
    layers.until(lambda: layers.text(".demand-sheet h1") == "quiet-week")
    layers.until(lambda: "A level of 20/s" in says(layers, "layers.0"))
    layers.waits_for_text(".demand-sheet .sheet-head", "met by no group")
    layers.open("/rehearse/booking-web")
    layers.word("demand").click()
    layers.named(".choices button", "quiet-week").click()
    layers.waits_for_take("demand quiet-week, was summer-week")


def test_rows_are_pasted_and_their_columns_changed(layers):
    layers.driver.execute_script(
        """
        const carried = new DataTransfer();
        carried.setData("text/plain", arguments[0]);
        document.body.dispatchEvent(new ClipboardEvent("paste", { clipboardData: carried, bubbles: true }));
        """,
        "time,north requests per second,south requests per second\n2025-07-07T00:00,10,40\n2025-07-07T00:01,12,50\n",
    )
    layers.waits_for_text(".bring-form", "10/s to 12/s")
    layers.wait_for('[aria-label="Column of the values"] option:nth-child(3)').click()
    layers.waits_for_text(".bring-form", "40/s to 50/s")
    layers.named(".bring-form button", "Keep it as a demand").click()
    layers.until(lambda: layers.text(".demand-sheet h1") == "pasted")
    layers.until(lambda: "The series of pasted.csv" in says(layers, "layers.0"))


def test_openmetrics_text_becomes_a_layer(layers, tmp_path):
    file = tmp_path / "counted.txt"
    lines = [f"asked_total {100 * k} {1751846400 + 60 * k}" for k in range(6)]
    file.write_text("\n".join(["# TYPE asked counter", *lines, "# EOF"]) + "\n")
    layers.until(lambda: layers.all('.layers .bring input[type="file"]'))[0].send_keys(str(file))
    layers.waits_for_text(".bring-form", "1.67/s to 1.67/s")
    layers.named(".bring-form button", "Lay it on summer-week").click()
    layers.until(lambda: "The series of counted.txt" in says(layers, "layers.6"))
