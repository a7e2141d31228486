"""Groups that live: begun, watched, steered by hand, asked why, and there again when the service comes back."""

from pathlib import Path

import pytest
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.select import Select

from jostle.formats.shipped import demo_plan
from jostle.standin.server import create_standin
from jostle.standin.world import World
from tests.browser.conftest import leave
from tests.browser.workbench import Workbench, served
from tests.plans import only
from tests.provider.serving import free_port, serving

AT = {"at": "2025-07-10T00:00", "until": "2025-07-10T11:55", "days": 2, "left_alone": ["tryout"]}


@pytest.fixture
def lived(workbench):
    workbench.ask("/api/plans/1/live", AT)
    workbench.open("/live")
    workbench.wait_for("[data-instance]")
    return workbench


def clock(workbench):
    return workbench.text('[aria-label="Clock"] time')


def wanted(workbench):
    return int(workbench.text('[aria-label="Groups"] li b'))


def row(workbench, name):
    return next(one for one in workbench.all('[aria-label="Groups"] li button') if name in one.text)


def test_it_begins_with_one_button(workbench):
    workbench.open("/live")
    workbench.named("button", "Keep the groups on the stand-in").click()
    workbench.until(lambda: clock(workbench) == "Mon 7 Jul 00:00:00")
    assert len(workbench.all('[aria-label="Groups"] > li')) == 10
    workbench.named("button", "an hour on").click()
    workbench.until(lambda: clock(workbench) == "Mon 7 Jul 01:00:00")
    workbench.named("button", "end all of it").click()
    workbench.named("button", "end it").click()
    workbench.waits_for_text("h1", "Nothing is kept yet.")


def test_an_address_that_names_what_is_not_there_shows_what_is(lived):
    for odd in ("instance=0", "instance=-1.5&before=-5", "group=nobody&of=nobody&instance=99999", "before=1e9&instance=x"):
        lived.open(f"/live?{odd}")
        lived.waits_for_text("[aria-label='Clock'] time", "Thu 10 Jul 11:55:00")
        lived.wait_for("[data-instance]")


def test_the_release_is_watched_and_asked_why(lived):
    began = clock(lived)
    lived.named("button", "60×").click()
    lived.until(lambda: clock(lived) != began)
    lived.named("button", "pause").click()
    lived.named("button", "an hour on").click()
    lived.until(lambda: wanted(lived) >= 20)
    lived.until(lambda: "booking-web 1" in lived.text('[aria-label="Journal"]'))
    lived.named("button", "only changes").click()
    lived.until(lambda: "only=changes" in lived.driver.current_url)
    Select(lived.wait_for('[aria-label="Of which groups"]')).select_by_visible_text("booking-web")
    lived.until(lambda: "of=booking-web" in lived.driver.current_url)
    lived.until(lambda: all("booking-web" in one.text for one in lived.all('[aria-label="Journal"] li')))
    lived.wait_for('[aria-label="Journal"] li button').click()
    lived.waits_for_text('[aria-label="The moment"]', "booking-web, Thu 10 Jul")
    assert "why=" in lived.driver.current_url


def test_what_stands_behind_the_balancer_is_seen_and_a_member_leads_to_its_life(lived):
    behind = "[aria-label='Behind the load balancer']"
    lived.waits_for_text(behind, "takes https on 443 from anywhere and hands it on to 8080")
    assert "healthy" in lived.text(f"{behind} b")
    members = lived.all(f"{behind} li button")
    assert len(members) == len(lived.all("[data-instance]"))
    members[0].click()
    lived.until(lambda: "instance=" in lived.driver.current_url)
    assert lived.all(f"{behind} li button")[0].get_attribute("aria-pressed") == "true"
    lived.waits_for_text(behind, "of what comes in")


def test_hands_set_the_count_and_take_it_back(lived):
    before = wanted(lived)
    lived.named("button", "set the count").click()
    lived.wait_for('[aria-label="Count"]')
    lived.waits_for_text('[aria-label="By hand"]', "Policies stay at work and may undo it.")
    # What is typed goes into the field, whose number is chosen
    lived.keys(f"{before + 5}", Keys.ENTER)
    lived.waits_for_text('[aria-label="By hand"]', f"Done: count set to {before + 5}.")
    lived.until(lambda: wanted(lived) == before + 5)
    assert "5 on their way" in row(lived, "booking-web").text
    lived.named("button", "undo").click()
    lived.until(lambda: wanted(lived) == before)
    lived.named("button", "set the count").click()
    lived.keys(f"{before + 2}")
    lived.waits_for_text('[aria-label="By hand"]', f"= {before + 2}")
    lived.named("button", "set it, and pause policies for 30 min").click()
    lived.until(lambda: wanted(lived) == before + 2)
    lived.named("button", "resume policies")


def test_an_instance_is_killed_and_another_comes(lived):
    tile = lived.wait_for("[data-instance]")
    number = tile.get_attribute("data-instance")
    tile.click()
    lived.waits_for_text(f'[aria-label="The life of booking-web {number}"]', "Launched: ")
    lived.waits_for_text('[aria-label="By hand"]', "passes its checks")
    Select(lived.wait_for('[aria-label="Bays by"]')).select_by_visible_text("age")
    lived.waits_for_text('[aria-label="booking-web"] h3', "6 to 24 h")
    Select(lived.wait_for('[aria-label="Bays by"]')).select_by_visible_text("load")
    lived.waits_for_text('[aria-label="booking-web"] h3', " %")
    lived.named("button", "kill").click()
    lived.waits_for_text("[role=alert]", f"Instance {number} ends at once, with what it has under way. Another will come.")
    next(one for one in lived.all("[role=alert] button") if one.text == "kill").click()
    lived.until(lambda: not lived.all(f'[data-instance="{number}"]'))
    lived.waits_for_text('[aria-label="Journal"]', f"by hand: instance {number} killed")
    lived.named("button", "an hour on").click()
    lived.until(lambda: clock(lived).endswith("12:55:00"))


def test_a_held_group_stays_as_it_is_through_the_release(lived):
    before = wanted(lived)
    lived.named("button", "hold the group").click()
    lived.waits_for_text('[aria-label="Groups"]', "held by hand")
    lived.named("button", "an hour on").click()
    lived.until(lambda: clock(lived).endswith("12:55:00"))
    assert wanted(lived) == before
    lived.waits_for_text('[aria-label="Journal"]', "the group is held by hand")
    lived.named("button", "let it change again").click()
    lived.named("button", "to the next change").click()
    lived.until(lambda: wanted(lived) > before)


def test_a_load_is_begun_watched_and_stopped(lived):
    lived.named("button", "load the service").click()
    field = lived.wait_for('[aria-label="Clients"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("1,200")
    lived.waits_for_text('[aria-label="Load the service"]', "= 1,200")
    lived.named("button", "Begin it").click()
    lived.waits_for_text("[role=status]", "the load of 1,200 clients for 25 min")
    lived.named("button", "an hour on").click()
    lived.until(lambda: not lived.all(".never") and "stop the load" not in lived.text('[aria-label="By hand"]'))
    lived.named("button", "have something go wrong").click()
    Select(lived.wait_for('[aria-label="What goes wrong"]')).select_by_value("no_capacity")
    lived.named("button", "Have it happen").click()
    lived.waits_for_text("[role=status]", "launches refused for 15 min, to try it")


def test_an_arrangement_says_what_it_will_bring_before_it_is_put_to_work(lived):
    changes = {"changes": [{"path": "minimum", "value": 22}], "keep": True, "buckets": 10}
    take = lived.ask("/api/plans/1/groups/booking-web/rehearsals", changes)
    lived.ask("/api/plans/1/groups/booking-web/arrangements", {"take": take["take"]["number"], "note": "more"})
    lived.open("/live")
    lived.named("button", "put arrangement 2 to work").click()
    lived.waits_for_text('[aria-label="What arrangement 2 will bring"]', "minimum 22, was 3")
    lived.waits_for_text('[aria-label="What arrangement 2 will bring"]', "likely to cost €")
    assert wanted(lived) < 22
    lived.named("button", "Put it to work").click()
    lived.waits_for_text("[role=status]", "arrangement 2 put to work")
    lived.named("button", "an hour on").click()
    lived.until(lambda: wanted(lived) >= 22)


def test_when_to_tell_is_written_and_what_was_told_leads_to_its_moment(lived):
    lived.named("button", "notices").click()
    lived.waits_for_text('[aria-label="Notices"]', "When to tell")
    rules = len(lived.until(lambda: lived.all('[aria-label^="take out rule"]')))
    lived.named("button", "+ when at its maximum").click()
    lived.until(lambda: len(lived.all('[aria-label^="take out rule"]')) == rules + 1)
    lived.word(f"watches.{rules}.for").click()
    field = lived.wait_for('input[aria-label="For"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("12m", Keys.ENTER)
    lived.waits_for_text('[aria-label="Notices"]', "is at its maximum for 12 min")
    lived.named("button", "an hour on").click()
    lived.waits_for_text('[aria-label="Notices"] ol', "booking-web has been short of capacity for 2 min")
    lived.wait_for('[aria-label="Notices"] ol button').click()
    lived.waits_for_text('[aria-label="The moment"]', "Thu 10 Jul")
    lived.named("button", "+ address").click()
    lived.wait_for('[aria-label="Address"]').send_keys("ftp://quay.example/", Keys.ENTER)
    lived.waits_for_text('[aria-label="Notices"] [role=alert]', "only http and https are sent to")
    field = lived.wait_for('[aria-label="Address"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("http://127.0.0.1:9/", Keys.ENTER)
    lived.named("button", "try it").click()
    lived.waits_for_text('[aria-label="Notices"]', "JOSTLE_PRIVATE_TARGETS=1")


def test_single_instances_start_apart_with_a_field_of_their_own_and_one_becomes_a_template(lived):
    lived.named("button", "start single instances").click()
    field = lived.wait_for('[aria-label="How many"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2")
    lived.until(lambda: lived.all('[aria-label="Template"] option'))
    Select(lived.wait_for('[aria-label="Template"]')).select_by_visible_text("web-front")
    Select(lived.wait_for('[aria-label="Field"]')).select_by_visible_text("Boot time")
    lived.wait_for('[aria-label="Value"]').send_keys("40 s")
    lived.named("button", "Start").click()
    lived.waits_for_text('[aria-label="Single instances"]', "Boot time 40 s")
    lived.waits_for_text('[aria-label="Journal"]', "2 single instances started from web-front")
    lived.named("button", "an hour on").click()
    lived.waits_for_text('[aria-label="Single instances"]', "2 of 2 serve")
    lived.wait_for('[aria-label="Groups"] li button').click()
    lived.wait_for("[data-instance]").click()
    lived.named("button", "make a template of it").click()
    lived.wait_for('[aria-label="Name of the image"]').send_keys("quay-today")
    lived.named("button", "Make it").click()
    lived.waits_for_text('[aria-label="Make a template"]', "has version 1 now")


def test_a_dry_run_is_said_and_a_group_ends_only_when_what_is_lost_was_told(lived):
    before = wanted(lived)
    lived.named("button", "dry run").click()
    lived.waits_for_text('[aria-label="Groups"]', "a dry run")
    lived.named("button", "an hour on").click()
    lived.waits_for_text('[aria-label="Journal"]', f"would go from {before} to ")
    assert wanted(lived) == before
    lived.named("button", "let the keeper act again").click()
    lived.named("button", "end the group").click()
    lived.waits_for_text("[role=alert]", f"{before} instances of booking-web will drain and end")
    next(one for one in lived.all("[role=alert] button") if one.text == "end the group").click()
    lived.waits_for_text('[aria-label="Groups"]', "ended by hand")
    lived.named("button", "an hour on").click()
    lived.until(lambda: not lived.all("[data-instance]"))
    lived.named("button", "begin it again").click()
    lived.until(lambda: wanted(lived) == before)


def test_an_instance_is_loaded_until_another_is_added_and_why_is_read(workbench):
    workbench.ask("/api/plans/1/live", AT | {"at": "2025-07-10T06:00", "left_alone": []})
    workbench.open("/live?group=tryout&of=tryout")
    workbench.wait_for("[data-instance]").click()
    assert len(workbench.all("[data-instance]")) == 1
    workbench.named("button", "load its CPU").click()
    field = workbench.wait_for('input[aria-label="For"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("1h", Keys.ENTER)
    workbench.waits_for_text("[role=status]", "loaded with 90 % of CPU for 1 h")
    workbench.named("button", "to the next change").click()
    workbench.until(lambda: len(workbench.all("[data-instance]")) == 2)
    workbench.waits_for_text('[aria-label="Journal"]', "tryout 1 → 2: average CPU")
    workbench.wait_for('[aria-label="Journal"] li button').click()
    workbench.waits_for_text('[aria-label="The moment"]', "add-on-cpu")
    workbench.named("button", "what was before").click()
    workbench.until(lambda: "before=" in workbench.driver.current_url)
    workbench.named("button", "back to now").click()
    workbench.waits_for_text('[aria-label="Journal"]', "tryout 1 → 2")


def test_a_service_that_comes_back_goes_on_where_it_stood_and_the_page_with_it(tmp_path, browser):
    with served(Path(tmp_path), with_demo=True) as address:
        workbench = Workbench(browser, address)
        workbench.ask("/api/plans/1/live", AT)
        workbench.open("/live")
        workbench.wait_for("[data-instance]")
        before = wanted(workbench) + 1
        workbench.named("button", "one more").click()
        workbench.until(lambda: wanted(workbench) == before)
    workbench.waits_for_text("main", "The stream is lost")
    workbench.waits_for_text("[aria-label='Clock']", "as of Thu 10 Jul 11:55:00, ")
    workbench.named("button", "one more").click()
    asked = "[aria-label='By hand'] [role=alert]"
    workbench.waits_for_text(asked, "What you see is as of Thu 10 Jul 11:55:00, ")
    workbench.named("button", "leave it").click()
    workbench.until(lambda: not workbench.all(asked))
    browser.get_log("browser")
    with served(Path(tmp_path), with_demo=False, port=int(address.rpartition(":")[2])):
        workbench.until(lambda: "The stream is lost" not in workbench.text("main"))
        assert wanted(workbench) == before
        workbench.named("button", "an hour on").click()
        workbench.until(lambda: clock(workbench).endswith("12:55:00"))
        leave(browser)
    browser.get_log("browser")


def test_a_group_is_kept_elsewhere_and_the_page_says_when_its_provider_is_away(workbench, tmp_path):
    port, name = free_port(), "tryout"
    alone = only(demo_plan(), name)

    def world():
        return World(alone, 1, tmp_path / "world")

    workbench.open("/live")
    workbench.named("button", "keep a group elsewhere").click()
    Select(workbench.wait_for('[aria-label="Keep a group elsewhere"] [aria-label="Group"]')).select_by_visible_text(name)
    field = workbench.wait_for('[aria-label="Address of the provider"]')
    field.send_keys(f"http://127.0.0.1:{port}", Keys.ENTER)
    workbench.waits_for_text('[aria-label="Keep a group elsewhere"] [role=alert]', "cannot be reached")
    told = f'[aria-label="{name} elsewhere"]'
    with serving(create_standin(first := world()), port):
        field.send_keys(Keys.ENTER)
        workbench.waits_for_text(told, f"at http://127.0.0.1:{port}")
        first.set_clock(10 * 3600.0, None)
        workbench.waits_for_text(told, "Mon 7 Jul 10:00")
    workbench.waits_for_text(f"{told} [role=alert]", "cannot be reached")
    assert workbench.text(f"{told} [role=alert]").startswith("Since ")
    with serving(create_standin(second := world()), port):
        second.set_clock(11 * 3600.0, None)
        workbench.waits_for_text(told, "Mon 7 Jul 11:00")
        assert not workbench.all(f"{told} [role=alert]")
        workbench.named("button", "hold it").click()
        workbench.waits_for_text(told, "held by hand")
        workbench.named("button", "let it go: its instances stay").click()
        workbench.until(lambda: not workbench.all(told))
