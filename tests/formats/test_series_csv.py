from zoneinfo import ZoneInfo

import numpy as np
import pytest

from jostle.core.rehearsal.rehearser import rehearse
from jostle.core.rehearsal.verdict import verdict
from jostle.demo import PLAN
from jostle.formats.plan_file import read_plan_file
from jostle.formats.series_csv import read_series
from jostle.formats.series_error import SeriesError
from jostle.formats.series_out import write_series
from tests.plans import plan

FAROE = ZoneInfo("Atlantic/Faroe")
JUNE = PLAN.parent / "june-week.csv"


def read(text, **more):
    return read_series(text.encode(), FAROE, **more)


def faults(text, **more):
    with pytest.raises(SeriesError) as caught:
        read(text, **more)
    return [str(fault) for fault in caught.value.faults]


HEAD = "time,requests_per_second\n"


def test_plain_rows():
    series = read(HEAD + "2025-07-07T00:00,5\n2025-07-07T00:01,6\n2025-07-07T00:02,7\n")
    assert series.samples.rates == [5, 6, 7]
    assert series.samples.step == 60
    assert series.samples.first.isoformat() == "2025-07-07T00:00:00+01:00"
    assert series.notes == []


@pytest.mark.parametrize(
    ("heading", "factor"),
    [
        ("requests_per_second", 1),
        ("Requests per minute", 1 / 60),
        ("rpm", 1 / 60),
        ("requests/s", 1),
        ("requests_per_hour", 1 / 3600),
        ("requests", 1 / 60),
        ("count", 1 / 60),
    ],
)
def test_the_unit_is_named_by_the_heading(heading, factor):
    series = read(f"time,{heading}\n2025-07-07T00:00Z,60\n2025-07-07T00:01Z,120\n")
    assert series.samples.rates == pytest.approx([60 * factor, 120 * factor])


def test_a_heading_without_unit_asks_for_one_and_takes_it():
    text = "time,load\n2025-07-07T00:00Z,60\n2025-07-07T00:01Z,120\n"
    assert "does not name its unit" in faults(text)[0]
    assert read(text, unit="requests_per_minute").samples.rates == [1, 2]
    assert "must be one of" in faults(text, unit="furlongs")[0]


def test_semicolons_decimal_commas_a_byte_order_mark_and_no_heading():
    series = read_series("\ufeff2025-07-07T00:00;1,5\r\n2025-07-07T00:01;2,5\r\n".encode(), FAROE, "requests_per_second")
    assert series.samples.rates == [1.5, 2.5]


def test_columns_are_found_by_their_names_and_contents():
    series = read("host,requests_per_second,when\na,4,2025-07-07T00:00Z\nb,5,2025-07-07T00:01Z\n")
    assert series.samples.rates == [4, 5]


@pytest.mark.parametrize(("gaps", "filled"), [("line", [1, 2, 3, 4]), ("hold", [1, 1, 1, 4]), ("zero", [1, 0, 0, 4])])
def test_gaps_are_filled_by_the_rule_and_counted(gaps, filled):
    rows = "".join(f"2025-07-07T00:{m:02}Z,{v}\n" for m, v in [(0, 1), (3, 4), (4, 5), (5, 6), (6, 7)])
    series = read(HEAD + rows, gaps=gaps)
    assert series.samples.rates[:4] == filled
    assert series.notes[0].startswith("1 gap, 2 min in all, filled by")


def test_rows_out_of_order_and_doubled():
    series = read(HEAD + "2025-07-07T00:01Z,6\n2025-07-07T00:00Z,5\n2025-07-07T00:02Z,1\n2025-07-07T00:02Z,7\n")
    assert series.samples.rates == [5, 6, 7]
    assert series.notes == ["1 row out of order, sorted", "1 row at a time that came before; the later row counts"]


def test_rows_off_the_grid_are_moved_and_counts_kept():
    series = read("time,requests\n2025-07-07T00:00Z,60\n2025-07-07T00:01Z,60\n2025-07-07T00:02Z,60\n2025-07-07T00:02:20Z,30\n")
    assert series.samples.rates == [1, 1, 1.5]
    assert "moved" in series.notes[0]


def test_the_hour_that_comes_twice_is_read_in_the_order_of_the_file():
    hours = ["00:30", "01:00", "01:30", "01:00", "01:30", "02:00"]
    series = read(HEAD + "".join(f"2025-10-26T{hour},{n}\n" for n, hour in enumerate(hours)))
    assert series.samples.rates == [0, 1, 2, 3, 4, 5]
    assert series.notes == []


def test_the_hour_that_is_left_out_is_an_error_by_row():
    found = faults(HEAD + "2025-03-30T00:30,1\n2025-03-30T01:30,2\n2025-03-30T02:00,3\n")
    assert found == [
        'row 3: time: "2025-03-30T01:30": does not exist in Atlantic/Faroe, '
        "where the clock is put forward then; write the time with its offset"
    ]
    assert len(read(HEAD + "2025-03-30T00:30,1\n2025-03-30T02:00,2\n2025-03-30T02:30,3\n").samples.rates) == 3


def test_errors_name_row_column_and_value():
    found = faults(HEAD + "2025-07-07T00:00Z,many\nyesterday,4\n2025-07-07T00:02Z,-1\n2025-07-07T00:03Z\n")
    assert found[0] == 'row 2: requests_per_second: "many": write a number such as 120.5'
    assert found[1].startswith('row 3: time: "yesterday": write a time such as')
    assert found[2] == 'row 4: requests_per_second: "-1": demand cannot be negative'
    assert found[3].startswith("row 5: ")


def test_a_thousand_errors_are_told_as_twenty_and_a_count():
    found = faults(HEAD + "x,y\n" * 1000)
    assert len(found) == 21
    assert "and 1980 more" in found[-1]


@pytest.mark.parametrize(
    "content",
    [b"", b"\n\n", b"time\n2025-07-07\n", b"\xff\xfe\x00", b"time,requests\n2025-07-07T00:00Z,1\n", b"a,b\n\x00,1\n"],
)
def test_what_is_no_series_is_refused(content):
    with pytest.raises(SeriesError):
        read_series(content, FAROE)


def test_a_span_too_long_for_its_step_is_refused():
    assert "too many" in faults(HEAD + "1990-01-01T00:00:00Z,1\n1990-01-01T00:00:01Z,1\n2025-01-01T00:00:00Z,1\n")[0]


def test_a_week_by_the_minute_with_gaps_and_disorder_is_read_and_rehearsed():
    content = JUNE.read_bytes()
    series = read_series(content, FAROE)
    assert series.rows >= 10_080
    assert series.notes[0].endswith("rows out of order, sorted")
    assert series.notes[1] == "2 gaps, 1 h 4 min in all, filled by a straight line"
    counted = sum(int(row.split(",")[1]) for row in content.decode().splitlines()[1:])
    minutes = np.array(series.samples.rates) * 60
    assert len(minutes) == series.rows + 64
    assert minutes.sum() > counted
    assert minutes.sum() == pytest.approx(counted, rel=0.01)
    plan = read_plan_file(PLAN, {"groups.booking-web.demand": "june-week"})
    figures = verdict(rehearse(plan, "booking-web")).figures
    assert figures.arrived == pytest.approx(minutes[: 7 * 1440].sum(), rel=0.02)
    assert figures.arrived == pytest.approx(figures.served + figures.failed + figures.waiting)


def test_exported_demand_of_sessions_comes_back_as_it_was():
    sessions = {"kind": "sessions", "seats": 20, "length": "10 min"}
    rehearsal = rehearse(plan(groups__web__work=sessions, demands__even__layers=[{"kind": "level", "rate": "0.2/s"}]), "web")
    lines = [line.split(",")[:2] for line in write_series(rehearsal).splitlines()]
    back = read_series("\n".join(map(",".join, lines)).encode(), FAROE)
    assert np.array(back.samples.rates) == pytest.approx(0.2)


@pytest.mark.parametrize(
    ("times", "note"),
    [
        (("1751846400", "1751846460"), "since 1970"),
        (("1751846400000", "1751846460000"), "since 1970"),
        (("07.07.2025 01:00", "07.07.2025 01:01"), ""),
        (("31/07/2025 01:00:00", "31/07/2025 01:01:00"), "the day first"),
        (("7/31/2025 1:00 AM", "7/31/2025 1:01 AM"), "the month first"),
    ],
)
def test_times_are_read_as_tools_write_them(times, note):
    series = read("at,host,rpm\n" + "".join(f"{at},lb,60\n" for at in times))
    assert (series.time_column, series.value_column) == ("at", "rpm")
    assert (series.samples.first.hour, series.samples.step, series.samples.rates) == (1, 60, [1, 1])
    assert note in " ".join(series.notes)
    assert bool(series.notes) == bool(note)


def test_the_order_of_day_and_month_follows_from_times_that_lie_together():
    series = read("at,rps\n" + "".join(f"{day:02}/07/2025 00:00,{day}\n" for day in range(3, 9)))
    assert (series.samples.first.day, series.samples.first.month) == (3, 7)
    assert series.samples.rates == [3, 4, 5, 6, 7, 8]


def test_a_day_that_may_be_a_month_is_refused():
    found = faults("at,rps\n03/10/2025 00:00,1\n03/10/2025 00:05,2\n")
    assert "may have the day or the month first" in found[0]


def test_rows_without_a_value_leave_a_gap():
    rows = "".join(f"2025-07-07T00:0{n}Z,{value}\n" for n, value in enumerate(("1", "", "NaN", "4", "5", "6")))
    series = read(HEAD + rows)
    assert series.samples.rates == [1, 2, 3, 4, 5, 6]
    assert series.notes[0] == "2 rows without a value left out"


def test_a_refusal_says_which_columns_there_are():
    with pytest.raises(SeriesError) as caught:
        read("at,host,load\n2025-07-07T00:00Z,lb,6\n2025-07-07T00:01Z,lb,6\n")
    assert caught.value.columns == ["at", "host", "load"]
    assert '"load": does not name its unit' in str(caught.value)
