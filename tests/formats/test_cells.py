"""Cells as a sheet copies them: between tabs, with the decimal sign of wherever it stands."""

from decimal import Decimal
from zoneinfo import ZoneInfo

import pytest

from jostle.formats.past_csv import read_past
from jostle.formats.series_csv import read_series
from jostle.formats.series_error import SeriesError

FAROE = ZoneInfo("Atlantic/Faroe")


def series(*values):
    rows = "".join(f"2025-07-07 00:0{k}\t{value}\n" for k, value in enumerate(values))
    return read_series(f"time\trequests per second\n{rows}".encode(), FAROE)


@pytest.mark.parametrize("values", [("26,5", "27,25", "28"), ("26.5", "27.25", "28"), ("26,500", "27,25", "28")])
def test_a_comma_before_a_fraction_is_decimal(values):
    assert list(series(*values).samples.rates) == [26.5, 27.25, 28.0]


def test_what_may_be_thousands_or_a_fraction_is_not_guessed():
    with pytest.raises(SeriesError, match="1,000"):
        series("1,000", "1,250", "2")


def test_the_past_is_read_between_tabs_too():
    text = "hour\tgroup\tcount\tamount\n2025-07-07 10:00\tbooking-web\t4\t0,125\n2025-07-07 11:00\tbooking-web\t4,5\t1,5\n"
    spans = read_past(text.encode(), FAROE)
    assert [(one.instances, one.amount) for one in spans] == [(4.0, Decimal("0.125")), (4.5, Decimal("1.5"))]
