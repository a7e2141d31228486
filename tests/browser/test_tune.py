"""The best settings are looked for on the page, judged, and made a take."""

from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select


def test_a_search_leads_to_a_take(workbench):
    workbench.open("/tune/booking-web")
    sets = workbench.wait_for('[aria-label="Sets"]')
    sets.send_keys(Keys.CONTROL, "a")
    sets.send_keys("24")
    seeds = workbench.wait_for('[aria-label="Seeds"]')
    seeds.send_keys(Keys.CONTROL, "a")
    seeds.send_keys("1")
    low = workbench.wait_for('[aria-label="Lowest threshold of add-on-cpu"]')
    low.send_keys(Keys.CONTROL, "a")
    low.send_keys("fifty")
    workbench.waits_for_text(".typed-line.refused", "write")
    assert not workbench.named("button", "Look for better settings").is_enabled()
    low.send_keys(Keys.CONTROL, "a")
    low.send_keys("60 %")
    workbench.until(lambda: workbench.named("button", "Look for better settings").is_enabled())
    workbench.waits_for_text('[aria-label="What is searched"]', "sets, 24 weeks.")
    workbench.named("button", "Look for better settings").click()
    workbench.waits_for_text("[role=status]", "24 of 24 looked at")
    workbench.waits_for_text('[aria-label="The chosen set"]', "promises kept in 1 of 1 and in")
    assert len(workbench.all("svg circle title")) >= 15
    up, across = (Select(workbench.wait_for(f'[aria-label="Map"] [aria-label="{axis}"]')) for axis in ("Up", "Across"))
    assert up.first_selected_option.text != across.first_selected_option.text
    across.select_by_visible_text("window of add-on-cpu")
    workbench.until(lambda: "across=policies.add-on-cpu.window" in workbench.driver.current_url)
    workbench.wait_for('[aria-label="Map"] svg[aria-label$="over window of add-on-cpu"]')
    chosen = workbench.text('[aria-label="The chosen set"] h2')
    workbench.named("button", "dearer on the front →").click()
    workbench.until(lambda: workbench.text('[aria-label="The chosen set"] h2') != chosen)
    workbench.driver.back()
    workbench.named("button", "Make it a take").click()
    workbench.until(lambda: "/rehearse/booking-web" in workbench.driver.current_url)
    workbench.until(lambda: workbench.current_take().startswith("search 1:"))
