"""Machines bought on the market: what may serve, what would be taken now, and prices from a file."""

import json

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.workbench import PLAIN

pytestmark = pytest.mark.browser

NIGHT = 1_751_932_800_000
HOUR = 3_600_000


def opened(workbench):
    workbench.open(f"/rehearse/tide-model?begin={NIGHT - HOUR}&end={NIGHT + 6 * HOUR}&at={NIGHT + HOUR}")
    workbench.wait_for(".moment li")


def test_the_moment_shows_what_the_market_has(workbench):
    opened(workbench)
    table = '[aria-label="The spot market now"]'
    workbench.waits_for_text(f"{table} caption", "The next launch is")
    rows = [row.text for row in workbench.all(f"{table} tr")]
    assert len(rows) == 6
    assert rows[0].startswith("now ")
    assert all(row.startswith("next ") for row in rows[1:])
    assert "of on demand" in rows[0]
    workbench.waits_for_text('[data-key="buying"]', "16 GiB or more: otter-4 and seal-4.")
    workbench.write_word("buying.caps.price", "10 %")
    workbench.until(lambda: all("dearer than 10 % of on demand" in row.text for row in workbench.all(f"{table} tr")))


def test_lanes_are_told_apart_by_machine(workbench):
    opened(workbench)
    order = next(one for one in workbench.all("select") if "purchase" in one.text)
    Select(order).select_by_visible_text("machine")
    workbench.until(lambda: {"otter-4, on demand", "otter-4, spot"} <= {one.text.strip() for one in workbench.all(".class-name")})


def test_prices_are_brought_from_a_file_and_drawn_again(workbench, tmp_path):
    rows = [f"2025-07-{day:02}T{hour:02}:00,seal-4,skerry,0.05" for day in range(7, 14) for hour in range(0, 24, 6)]
    file = tmp_path / "july.csv"
    workbench.open("/library/machines/tide-model")
    workbench.waits_for_text('[aria-label="Machine types"]', "Spot prices are drawn by chance")
    file.write_text("time,machine,zone,price\n2025-07-07T00:00,seal-9,skerry,0.05\n")
    workbench.driver.find_element("css selector", 'input[type="file"]').send_keys(str(file))
    workbench.waits_for_text('[role="alert"]', "no machine has this name; the nearest is seal-4")
    file.write_text("\n".join(["time,machine,zone,price", *rows]))
    workbench.driver.find_element("css selector", 'input[type="file"]').send_keys(str(file))
    workbench.waits_for_text('[aria-label="Machine types"]', "Spot prices are those of july.csv")
    workbench.named("button", "draw them by chance").click()
    workbench.waits_for_text('[aria-label="Machine types"]', "Spot prices are drawn by chance")


def test_the_library_shows_what_a_group_would_take_at_any_instant(workbench):
    workbench.open("/library/machines/tide-model")
    part = "[aria-label='What tide-model would take']"
    workbench.waits_for_text(f"{part} label", "Mon 7 Jul 12:00")
    assert len(workbench.all(f"{part} tr")) == 6
    slider = workbench.wait_for(f"{part} input")
    slider.send_keys(*[Keys.ARROW_RIGHT] * 6)
    workbench.waits_for_text(f"{part} label", "Mon 7 Jul 12:30")
    slider.send_keys(Keys.END)
    workbench.waits_for_text(f"{part} label", "Mon 14 Jul 00:00")
    Select(workbench.wait_for("[aria-label='Whose week']")).select_by_visible_text("fare-quote")
    workbench.until(lambda: not workbench.all(part))


def test_the_cap_is_moved_on_the_strip_of_prices(workbench):
    workbench.open("/rehearse/tide-model?strips=spot:price,spot:risk")
    workbench.wait_for('.strip[aria-label="spot risk"] canvas')
    workbench.waits_for_text('.strip[aria-label="spot price"]', "of the on-demand price; those that run")
    cap = workbench.wait_for('[aria-label="the cap: up to 60 %"]')
    cap.send_keys(Keys.ARROW_DOWN, Keys.ARROW_DOWN, Keys.ENTER)
    workbench.until(lambda: workbench.word("buying.caps.price").text == "58 %")


def test_a_group_counts_in_vcpus_and_in_units(workbench):
    workbench.open("/rehearse/tide-model")
    workbench.waits_for_text('[data-key="runs"]', "instances of ")
    workbench.in_view(workbench.named(".offers button", "+ count in vCPUs")).click()
    workbench.waits_for_text('[data-key="runs"]', "vCPUs of ")
    workbench.wait_for('[data-strip="vCPUs"] canvas')
    workbench.waits_for_text(".verdict", "vCPUs")
    workbench.word("buying.count_in").click()
    next(one for one in workbench.until(lambda: workbench.all('[role="option"]')) if one.text.startswith("units")).click()
    workbench.waits_for_text('[data-key="buying"]', "It counts units: otter-4 is 1; seal-4 is 1.")
    workbench.write_word("buying.weights.seal-4", "2")
    workbench.waits_for_text('[data-key="buying"]', "seal-4 is 2.")
    workbench.waits_for_text('[data-key="runs"]', "units of ")


def test_an_order_stands_in_the_place_of_policies(workbench):
    plan = workbench.ask("/api/plans/1/document")
    plan["groups"]["tide-model"].update(policies=[], calendar=[])
    answer = PLAIN.post(f"{workbench.address}/api/plans/1/import?keep=true", content=json.dumps(plan))
    assert answer.status_code == 200, answer.text
    workbench.open("/rehearse/tide-model")
    workbench.in_view(workbench.named(".offers button", "+ order")).click()
    workbench.waits_for_text('[data-key="order"]', "are ordered, asked for once, without end.")
    workbench.waits_for_text('[data-key="buying"]', "Where there is none, it stays asked for.")
    workbench.waits_for_text(".verdict", "ordered filled")
    workbench.write_word("order.until", "2025-07-08 06:00")
    workbench.waits_for_text('[data-key="order"]', "until Tue 8 Jul 06:00; what runs then stays.")
    workbench.write_word("order.until", Keys.DELETE)
    workbench.waits_for_text('[data-key="order"]', "asked for once, without end.")
