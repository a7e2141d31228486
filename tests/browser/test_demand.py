"""An operator brings a CSV of demand."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = [pytest.mark.browser, pytest.mark.usefixtures("opened")]


def rows(*values, start=0):
    return "".join(f"2025-07-07T00:{start + k:02},{value}\n" for k, value in enumerate(values))


def choose(workbench, path):
    workbench.driver.find_element("css selector", '.bring input[type="file"]').send_keys(str(path))


def test_a_csv_is_chosen_looked_at_and_rehearsed_against(workbench, tmp_path):
    file = tmp_path / "Harbour Fair.csv"
    file.write_text("time,requests_per_second\n" + rows(60, 80) + rows(90, 70, start=4))
    choose(workbench, file)
    workbench.waits_for_text(".bring-form", "4 rows, each so many a second, 1 min apart")
    workbench.waits_for_text(".bring-form", "1 gap, 2 min in all, filled by a straight line.")
    assert workbench.wait_for('[aria-label="Name of the demand"]').get_attribute("value") == "harbour-fair"
    workbench.named(".bring-form button", "Rehearse against it").click()
    workbench.waits_for_take("demand harbour-fair, was summer-week")
    assert workbench.word("demand").text == "harbour-fair"
    workbench.until(lambda: workbench.figure("Short of capacity").startswith("0 min"))


def test_its_unit_is_asked_for_where_the_heading_does_not_name_it(workbench, tmp_path):
    file = tmp_path / "load.csv"
    file.write_text("time;load\n" + rows(600, 900).replace(",", ";"))
    choose(workbench, file)
    workbench.waits_for_text(".bring-form", "ts unit is not named: taken as a count for each row, 1 min apart")
    assert [one.text for one in workbench.all(".bring-form .sample .value")] == ["load", "600", "900"]
    workbench.wait_for('[aria-label="Unit"] option[value="requests_per_minute"]').click()
    workbench.waits_for_text(".bring-form", "10/s to 15/s")
    workbench.named(".bring-form button", "Leave it").click()
    workbench.until(lambda: not workbench.all(".bring-form"))


def test_its_columns_are_chosen_though_it_cannot_be_read_as_guessed(workbench, tmp_path):
    file = tmp_path / "week.csv"
    lines = [f"{1751842800 + 60 * k},{k},{60 * (k + 1)}" for k in range(4)]
    file.write_text("\n".join(["timestamp,sequence,hits a minute", *lines]) + "\n")
    choose(workbench, file)
    workbench.waits_for_text(".bring-form", "ts unit is not named")
    columns = workbench.wait_for('[aria-label="Column of the values"]')
    columns.find_element("xpath", "option[text()='hits a minute']").click()
    workbench.waits_for_text(".bring-form", "1/s to 4/s")
    workbench.waits_for_text(".bring-form", "from Mon 7 Jul 2025 00:00 (Atlantic/Faroe)")
    workbench.waits_for_text(".bring-form", "imes are read as seconds or milliseconds since 1970.")


def test_errors_stand_there_by_row_and_column(workbench, tmp_path):
    file = tmp_path / "odd.csv"
    file.write_text("time,requests_per_second\n" + rows(60, "many", -3))
    choose(workbench, file)
    workbench.waits_for_text(".bring-form li", 'row 3: requests_per_second: "many": write a number such as 120.5')
    workbench.waits_for_text(".bring-form li", 'row 4: requests_per_second: "-3": demand cannot be negative')


def test_a_csv_is_dropped_on_the_screen(workbench):
    workbench.driver.execute_script(
        """
        const carried = new DataTransfer();
        carried.items.add(new File([arguments[0]], "dropped.csv", { type: "text/csv" }));
        const screen = document.querySelector("main");
        for (const kind of ["dragover", "drop"])
          screen.dispatchEvent(new DragEvent(kind, { dataTransfer: carried, bubbles: true, cancelable: true }));
        """,
        "time,requests_per_second\n" + rows(60, 80, 70),
    )
    workbench.waits_for_text(".bring-form", "3 rows, each so many a second")
    workbench.named(".bring-form button", "Rehearse against it").click()
    workbench.waits_for_take("demand dropped, was summer-week")


def test_the_demand_of_the_demo_can_be_changed_for_the_recorded_one(workbench):
    workbench.word("demand").click()
    workbench.named(".choices button", "june-week").click()
    workbench.waits_for_take("demand june-week, was summer-week")
    workbench.until(lambda: workbench.figure("Short of capacity").startswith("0 min"))


def test_a_demand_is_composed_from_a_brought_one_and_edited(workbench):
    workbench.open("/library/demands/june-week")
    workbench.waits_for_text("[data-layer='layers.0']", "The series of june-week.csv")
    workbench.named("button", "compose one like it").click()
    workbench.waits_for_text("h1", "june-week-composed")
    workbench.waits_for_text("[data-layer='layers.0']", "A level of ")
    workbench.waits_for_text("[data-layer='layers.2']", "A factor for each weekday")
    assert "/library/demands/june-week-composed" in workbench.driver.current_url


def test_the_plan_is_rehearsed_on_the_clock_of_a_file_where_its_frame_does_not_stand(workbench, tmp_path):
    file = tmp_path / "lisbon.csv"
    file.write_text("time,requests_per_second\n" + rows(60, 80, 70))
    choose(workbench, file)
    workbench.waits_for_text(".bring-form", "3 rows")
    clock = workbench.wait_for('[aria-label="Clock of times without an offset"]')
    clock.send_keys(Keys.CONTROL, "a")
    clock.send_keys("Lisbon", Keys.TAB)
    workbench.named(".bring-form button", "rehearse the plan on Europe/Lisbon").click()
    workbench.waits_for_text(".rail", "Europe/Lisbon")
    assert not workbench.all('.bring-form [role="alert"]')
