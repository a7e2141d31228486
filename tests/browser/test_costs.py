"""What was spent: a day is chosen and looked into, a budget is typed, what is likely is drawn."""

from selenium.webdriver.common.keys import Keys

AT = {"at": "2025-07-07T00:00", "until": "2025-07-10T06:00", "days": 7}


def test_costs_lead_to_where_they_come_from_when_nothing_lives(workbench):
    workbench.open("/costs")
    workbench.waits_for_text("h1", "Nothing was spent yet.")
    workbench.named("a", "Keep them on the stand-in").click()
    workbench.waits_for_text("h1", "Nothing is kept yet.")


def test_a_day_is_chosen_and_a_budget_typed(workbench):
    workbench.ask("/api/plans/1/live", AT)
    workbench.open("/costs")
    workbench.waits_for_text("main header h1", "is likely by Sun 13 Jul")
    workbench.wait_for('[aria-label$="2025-07-08"]').click()
    workbench.waits_for_text("h2", "Tue 8 Jul")
    assert "begin=2025-07-08" in workbench.driver.current_url
    assert len(workbench.all('figure[aria-label^="The hours"] div > span')) == 24
    workbench.wait_for('[aria-label$="what booking-web paid it for"]').click()
    workbench.waits_for_text('[aria-label="What it is made of"]', "booking-web, Tue 8 Jul")
    workbench.wait_for('[aria-label="What it is made of"] li button').click()
    workbench.waits_for_text('[aria-label="What it is made of"] li', "Launched: ")
    assert "instance=booking-web" in workbench.driver.current_url
    workbench.wait_for('[aria-label="What it is made of"] h2 button').click()
    for group in ("live-track", "all groups"):
        workbench.wait_for(f'[aria-label^="Take out the budget of {group}"]').click()
        workbench.until(lambda group=group: f"Budget of {group}" not in workbench.text("main"))
    workbench.named("button", "+ budget").click()
    field = workbench.wait_for('[aria-label="Amount"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("€ 500", Keys.ENTER)
    workbench.waits_for_text("main", "Budget of all groups: at most € 500 a month:")
    workbench.waits_for_text("main", "That of all groups is likely to be reached on 2025-07-1")
    workbench.wait_for('[aria-label^="Take out the budget"]').click()
    workbench.until(lambda: "Budget of" not in workbench.text("main"))
    workbench.named("button", "all days").click()
    workbench.waits_for_text("h2", "Mon 7 Jul to Thu 10 Jul")
    workbench.driver.back()
    workbench.waits_for_text("h2", "Tue 8 Jul")


def test_a_day_is_compared_and_why_it_came_to_that_is_told(workbench):
    workbench.ask("/api/plans/1/live", AT)
    workbench.open("/costs?begin=2025-07-08&end=2025-07-08")
    workbench.waits_for_text('[aria-label="Rehearsed and lived"] table', "the demand that came")
    told = workbench.text('[aria-label="Rehearsed and lived"] table')
    assert "not explained nothing" in told
    assert "instances on average" in told
    workbench.waits_for_text("main dl", "needed or not")
    workbench.named("button", "the days before").click()
    workbench.waits_for_text("main", "from Mon 7 Jul:")
    assert "beside=2025-07-07" in workbench.driver.current_url
    assert "Then" in workbench.text("main thead")
    workbench.named("button", "alone").click()
    workbench.until(lambda: "Unit cost" in workbench.text("main thead"))


def test_the_past_is_brought_before_anything_lives(workbench, tmp_path):
    rows = [f"2025-06-30T{hour:02}:00,booking-web,4,0.5" for hour in range(24)]
    past = tmp_path / "past.csv"
    past.write_text("\n".join(["hour,group,count", *rows]))
    workbench.open("/costs")
    workbench.wait_for('input[type="file"]').send_keys(str(past))
    workbench.waits_for_text("[role=alert]", "amount: is missing in the heading")
    past.write_text("\n".join(["hour,group,count,amount", *rows]))
    workbench.wait_for('input[type="file"]').send_keys(str(past))
    workbench.waits_for_text("main header h1", "Spent € 12 in 1 day.")
    workbench.wait_for('[aria-label$="2025-06-30"]').click()
    workbench.until(lambda: len(workbench.all('figure[aria-label^="The hours"] div > span')) == 24)
    workbench.named("button", "take them out").click()
    workbench.waits_for_text("h1", "Nothing was spent yet.")
