"""What was paid for before, read from a CSV as people export it, with every fault by its row."""

from decimal import Decimal
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.costs.books import PastSpan, past_alone
from jostle.formats.past_csv import read_past
from jostle.formats.series_error import SeriesError

FAROE = ZoneInfo("Atlantic/Faroe")
# 30 June 2025, 12:00 in the Faroes, an hour ahead of UTC
NOON = 1_751_281_200.0


def test_hours_are_read_on_the_clock_of_the_plan():
    text = b"hour,group,count,amount\n2025-06-30T12:00,web,3,1.08\n2025-06-30T12:00Z,web,2.5,0.9\n"
    assert read_past(text, FAROE) == [
        PastSpan(NOON, 1, "web", 3.0, Decimal("1.08")),
        PastSpan(NOON + 3600, 1, "web", 2.5, Decimal("0.9")),
    ]


def test_other_names_semicolons_and_decimal_commas_are_read():
    text = b"Cost (EUR);Instances;Service;Time\n1.234,56;12;web;30.06.2025 12:00\n\n0,5;1;web;30.06.2025 13:00\n"
    assert [(one.begin, one.amount) for one in read_past(text, FAROE)] == [
        (NOON, Decimal("1234.56")),
        (NOON + 3600, Decimal("0.5")),
    ]


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("noon,web,3,1", 'row 2: hour: "noon": write a time'),
        ("2025-06-30T12:30,web,3,1", "with 00 minutes"),
        ("2025-06-30T12:00,The Web,3,1", 'row 2: group: "The Web": write the name of a group'),
        ("2025-06-30T12:00,web,-3,1", 'row 2: count: "-3": write a number of instances'),
        ("2025-06-30T12:00,web,3,free", 'row 2: amount: "free": write an amount'),
        ("2025-06-30T12:00,web,3", "row 2: amount: write an amount"),
        ("2025-06-30T12:00,web,3,1\n2025-06-30T12:00,web,4,2", 'row 3: hour: "2025-06-30T12:00": stands twice for web'),
        ("", "has no row"),
    ],
)
def test_what_cannot_be_read_is_named_by_its_row(row, said):
    with pytest.raises(SeriesError) as refused:
        read_past(f"hour,group,count,amount\n{row}\n".encode(), FAROE)
    assert said in str(refused.value)


def test_a_heading_without_a_column_says_which():
    with pytest.raises(SeriesError, match="amount: is missing in the heading; call a column amount"):
        read_past(b"hour,group,count\n2025-06-30T12:00,web,3\n", FAROE)


@given(st.binary(max_size=300))
def test_drawn_bytes_are_read_or_refused(content):
    try:
        found = read_past(content, FAROE)
    except SeriesError:
        return
    assert all(one.amount >= 0 for one in found)


@given(
    st.lists(
        st.tuples(st.integers(0, 400), st.sampled_from(["web", "jobs"]), st.decimals(0, 1000, places=4)),
        min_size=1,
        unique_by=lambda row: row[:2],
    )
)
def test_books_of_the_past_add_up(rows):
    past = [PastSpan(NOON + 3600 * hour, 1, group, 2.0, amount) for hour, group, amount in rows]
    books = past_alone(past, FAROE, "EUR")
    assert sum(entry.amount for book in books.of.values() for entry in book.entries) == sum(one.amount for one in past)
    assert books.first == min(one.begin for one in past)
    assert all(
        book.hours[entry.hour].begin in {one.begin for one in past} for book in books.of.values() for entry in book.entries
    )
