"""Spot prices from a file: what is read, what is refused, and that the engine pays them."""

from decimal import Decimal
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from jostle.core.costs.price import bills
from jostle.core.engine.market import MARKET_STEP
from jostle.core.plan.spot_prices import PriceCourse
from jostle.core.rehearsal.rehearser import rehearse
from jostle.formats.plan_file import PlanFileError, read_plan_text, write_plan
from jostle.formats.prices_csv import read_prices
from jostle.formats.series_error import SeriesError
from tests.core.engine.test_spot import made

ZONE = ZoneInfo("Atlantic/Faroe")
GOOD = """time,machine,zone,price
2025-07-07T00:00,otter-2,north,0.041
2025-07-07T06:00,otter-2,north,0.052
2025-07-07T00:00,otter-2,west,0.039
2025-07-07T18:00,otter-2,north,0.2
"""


def read(text, currency="EUR"):
    return read_prices(text.encode(), ZONE, currency, ["otter-2", "seal-4"], ["north", "skerry", "west"])


def test_each_price_holds_until_the_next():
    north, west = read(GOOD)
    assert (north.machine, north.zone, north.prices) == ("otter-2", "north", [0.041, 0.052, 0.2])
    first = north.times[0]
    found = north.on(first, 3600, 24)
    assert found.tolist() == [0.041] * 6 + [0.052] * 12 + [0.2] * 6
    assert west.on(first, 3600, 24).tolist() == [0.039] * 24


def test_the_hour_in_which_the_clock_is_put_back_comes_twice():
    rows = [f"2025-10-26T0{hour}:{minute},otter-2,north,0.0{price}" for hour, minute, price in _AUTUMN]
    (course,) = read("time,machine,zone,price\n" + "\n".join(rows))
    assert np.diff(course.times).tolist() == [1800.0] * 6
    with pytest.raises(SeriesError, match="does not exist in Atlantic/Faroe, where the clock is put forward"):
        read("time,machine,zone,price\n2025-03-30T01:30,otter-2,north,0.04\n")


# From half past midnight by half hours, through one o'clock twice
_AUTUMN = [(0, "30", 41), (1, "00", 42), (1, "30", 43), (1, "00", 44), (1, "30", 45), (2, "00", 46), (2, "30", 47)]


def test_a_course_of_a_day_comes_again_the_next_day():
    course = PriceCourse(machine="otter-2", zone="north", times=[0, 28_800, 57_600], prices=[1, 2, 3])
    assert course.on(0, 28_800, 7).tolist() == [1, 2, 3, 1, 2, 3, 1]
    assert course.on(-28_800, 28_800, 3).tolist() == [3, 1, 2]


@pytest.mark.parametrize(
    ("was", "now", "said"),
    [
        ("time,machine,zone,price", "time,machine,price", "there is no column zone; there is: time, machine, price"),
        ("06:00,otter-2", "06:00,oter-2", '"oter-2": no machine has this name; the nearest is otter-2'),
        ("06:00,otter-2,north", "06:00,otter-2,nroth", '"nroth": no zone has this name; the nearest is north'),
        ("0.052", "-3", '"-3": is no price above 0'),
        ("0.052", "cheap", '"cheap": is no price above 0'),
        ("2025-07-07T06:00", "yesterday", '"yesterday": is no time such as'),
        ("2025-07-07T06:00", "2025-07-06T06:00", "comes no later than row 2; sort the rows"),
        ("2025-07-07T18:00", "2025-07-09T18:00", "nothing for 60 h before it; bring a price every 1 d at least"),
        ("0.052\n", "0.052,and more,of it\n", ""),
    ],
)
def test_what_is_amiss_is_named(was, now, said):
    if not said:
        assert len(read(GOOD.replace(was, now))) == 2
        return
    with pytest.raises(SeriesError) as refused:
        read(GOOD.replace(was, now, 1))
    assert said in str(refused.value)


def test_another_currency_is_refused_by_its_rows():
    text = "time;machine;zone;price;currency\n2025-07-07T00:00;otter-2;north;0,04;SEK\n"
    with pytest.raises(SeriesError, match='row 2: currency: "SEK": the plan reckons in EUR; bring prices in it'):
        read(text)
    assert read(text.replace("SEK", "EUR"))[0].prices == [0.04]


def with_prices(tmp_path, text=GOOD):
    (tmp_path / "spot.csv").write_text(text)
    plan = made()
    return read_plan_text(write_plan(plan).replace("machines:", "market: {file: spot.csv}\nmachines:", 1), "quay.yaml", tmp_path)


def test_a_plan_pays_the_prices_of_its_file(tmp_path):
    plan = with_prices(tmp_path)
    rehearsal = rehearse(plan, "web", 2)
    market = rehearsal.result.setup.market
    # Nothing is known of skerry, so nothing is sold there
    assert market.offered[0].any(axis=1).tolist() == [True, False, True]
    assert set(np.unique(market.units[0, 0])) == {410, 520, 2000}
    assert (market.chances[0, 0, :72] < market.chances[0, 0, 80]).all()
    west = [one for one in bills(rehearsal.result, rehearsal.crew) if one.spot and one.what == "machine" and one.zone == "west"]
    seconds = rehearsal.result.instance_seconds
    running = rehearsal.result.spells["instance"]
    for one in west:
        ran = Decimal(round(float(seconds[running == one.instance].sum()) * 1e6)) / 10**6
        assert one.amount == pytest.approx(ran * Decimal("0.039") / 3600, rel=Decimal("1e-12"))
    assert west
    assert MARKET_STEP == 300


def test_it_goes_with_the_plan_and_comes_back(tmp_path):
    plan = with_prices(tmp_path)
    assert read_plan_text(plan.model_dump_json()) == plan


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (GOOD.replace("north", "north-2"), "no zone has this name; the nearest is north"),
        ("", "a time and a value are needed"),
        ("time,machine,zone,price\n", "has no row"),
    ],
)
def test_a_plan_names_what_is_wrong_with_its_file(tmp_path, text, said):
    with pytest.raises(PlanFileError) as refused:
        with_prices(tmp_path, text)
    assert 'market.file: "spot.csv"' in str(refused.value)
    assert said in str(refused.value)
