"""The best settings are looked for on the page, judged, and made a take."""

from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

from jostle.demo import PLAN


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
    workbench.named("button", "look at 24 more").click()
    workbench.waits_for_text("[role=status]", "48 of 48 looked at")
    workbench.waits_for_text('[aria-label="The chosen set"]', "promises kept in 1 of 1 and in")
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


def test_words_of_the_page_are_let_vary(workbench):
    """From Rehearse by the keyboard, with a range that makes sense for each, and back to all that the policies have."""
    workbench.open("/rehearse/booking-web")
    for path in ("policies.add-on-cpu.threshold", "minimum"):
        workbench.wait_for(f'[data-path="{path}"]').send_keys(Keys.ENTER)
        workbench.named(".word-editor button", "let this vary").send_keys(Keys.ENTER)
        workbench.wait_for(".word-editor input").send_keys(Keys.ESCAPE)
    workbench.waits_for_text('[aria-label="What may vary"]', "May vary: minimum, CPU of add-on-cpu.")
    assert "vary=policies.add-on-cpu.threshold%2Cminimum" in workbench.driver.current_url
    workbench.driver.refresh()
    workbench.waits_for_text('[aria-label="What may vary"]', "CPU of add-on-cpu")
    workbench.named('[aria-label="What may vary"] a', "look for the best").click()
    workbench.wait_for('[aria-label="Lowest minimum"]')
    assert len(workbench.all('[aria-label="What is searched"] li input[type=checkbox]')) == 2
    workbench.named("button", "all that the policies have instead").click()
    workbench.until(lambda: len(workbench.all('[aria-label="What is searched"] li input[type=checkbox]')) > 5)


def test_a_group_with_a_ladder_is_tuned_and_what_was_asked_is_remembered(workbench):
    """Its threshold ends before the first band. What may not vary, and the numbers typed, are there again after other screens."""
    workbench.open("/tune/manifest-worker")
    workbench.wait_for('[aria-label="Highest threshold of pile"]')
    assert not workbench.all(".wrong")
    sets = workbench.wait_for('[aria-label="Sets"]')
    sets.send_keys(Keys.CONTROL, "a")
    sets.send_keys("6")
    workbench.waits_for_text('[aria-label="What is searched"]', "sets, 18 weeks.")
    box = next(one for one in workbench.all('[aria-label="What is searched"] label') if "threshold of idle" in one.text)
    box.find_element("css selector", "input").click()
    workbench.until(lambda: not workbench.all('[aria-label="Highest threshold of idle"]'))
    workbench.named("nav a", "Groups").click()
    workbench.wait_for("h1")
    workbench.driver.back()
    workbench.until(lambda: workbench.wait_for('[aria-label="Sets"]').get_attribute("value") == "6")
    assert not workbench.all('[aria-label="Highest threshold of idle"]')
    workbench.named("button", "Look for better settings").click()
    workbench.waits_for_text("[role=status]", "6 of 6 looked at")


def test_the_model_is_held_against_what_was_observed(workbench):
    """A file, a column that is something else, what it tells drawn over its rows, and these taken."""
    workbench.open("/tune/booking-web")
    workbench.named("button", "is the model right?").click()
    workbench.waits_for_text("h2", "Is the model right?")
    chooser = workbench.driver.find_element("css selector", '[aria-label="What was observed"] input[type=file]')
    chooser.send_keys(str(PLAN.parent / "observed-days.csv"))
    workbench.waits_for_text('[aria-label="Estimates"]', "CPU of a request 60.9 ms")
    workbench.waits_for_text('[aria-label="Estimates"]', "; the plan has 55 ms")
    assert len(workbench.all('[aria-label="Estimates"] svg circle')) > 500
    workbench.waits_for_text('[aria-label="The past rehearsed"]', "count within")
    Select(workbench.wait_for('[aria-label="What servers desired is"]')).select_by_visible_text("nothing")
    workbench.waits_for_text('[aria-label="Estimates"]', "Not told: time to serve")
    workbench.wait_for('[aria-label="Take idle CPU"]').click()
    workbench.named("button", "Take these").click()
    workbench.until(lambda: "/rehearse/booking-web?take=2" in workbench.driver.current_url)
    workbench.waits_for_text('[data-key="work"]', "Each takes 60.9 ms of CPU")
    workbench.waits_for_text('[data-key="work"]', "burns 3 %")
