"""What is typed as people type it is what is meant."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser

ADD = "policies.add-on-cpu"


def typed(workbench, path, *keys):
    """Opens a word and types over what stands in its field."""
    workbench.word(path).send_keys(Keys.ENTER)
    field = workbench.wait_for(".word-editor input")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(*keys)
    return field


@pytest.mark.usefixtures("opened")
def test_numbers_take_the_unit_that_is_typed(workbench):
    for path, text, understood, word in (
        (f"{ADD}.cooldown", "90 s", "= 90 s", "90 s"),
        (f"{ADD}.cooldown", "1 h 30 min", "= 1 h 30 min", "1 h 30 min"),
        (f"{ADD}.cooldown", "7", "= 7 min", "7 min"),
        ("maximum", "1,000", "= 1,000", "1000"),
        ("work.cpu_seconds", "0,05 s", "= 50 ms", "50 ms"),
    ):
        field = typed(workbench, path, text)
        workbench.until(lambda said=understood: workbench.text(".typed-line") == said)
        field.send_keys(Keys.ENTER)
        workbench.until(lambda: not workbench.all(".word-editor") and not workbench.all(".take.trying"))
        workbench.until(lambda path=path, said=word: workbench.word(path).text == said)
    workbench.until(lambda: len(workbench.takes()) == 6)


@pytest.mark.usefixtures("opened")
def test_what_cannot_be_read_is_refused_and_kept(workbench):
    take = workbench.current_take()
    field = typed(workbench, f"{ADD}.cooldown", "abc", Keys.ENTER)
    workbench.waits_for_text(".typed-line.refused", "write a duration such as 90 s, 5 min or 400 ms; a number alone is min")
    assert field.get_attribute("value") == "abc"
    assert field.get_attribute("aria-invalid") == "true"
    assert workbench.current_take() == take
    field.send_keys(Keys.ESCAPE)
    workbench.until(lambda: not workbench.all(".word-editor"))
    assert workbench.word(f"{ADD}.cooldown").text == "6 min"


def test_a_time_is_typed_by_24_hours_and_leaves_its_date(workbench):
    workbench.open("/rehearse/booking-web")
    workbench.wait_for(".threshold")
    word = workbench.word("calendar.release-day.from")
    before = word.text
    field = typed(workbench, "calendar.release-day.from", "9:30")
    workbench.until(lambda: workbench.text(".typed-line").endswith("09:30"))
    field.send_keys(Keys.ENTER)
    workbench.until(lambda: workbench.word("calendar.release-day.from").text != before)
    assert workbench.word("calendar.release-day.from").text == f"{before[: -len('06:00')]}09:30"


def test_a_new_group_takes_what_is_typed(workbench):
    workbench.open("/groups")
    workbench.named("button", "New group").click()
    workbench.wait_for('[aria-label="Name"]').send_keys("berth-desk")
    size = workbench.wait_for('[aria-label="CPU of a request"]')
    size.send_keys(Keys.CONTROL, "a")
    size.send_keys("many")
    workbench.waits_for_text(".new-group .refused", "write a duration")
    assert not workbench.named("button", "Keep it").is_enabled()
    size.send_keys(Keys.CONTROL, "a")
    size.send_keys("0,12 s")
    workbench.waits_for_text(".new-group .typed-line", "= 120 ms")
    workbench.named("button", "Keep it").click()
    workbench.waits_for_text(".page h1", "berth-desk")
    assert workbench.word("work.cpu_seconds").text == "120 ms"
