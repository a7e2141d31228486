from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.plan.wall import known_zone, read_clock, read_moment, typed_moment

NOW = datetime(2025, 7, 10, 12, 15)


@pytest.mark.parametrize(
    ("typed", "clock"),
    [
        ("9:30", "09:30"),
        ("09:30", "09:30"),
        ("9.30", "09:30"),
        ("9h30", "09:30"),
        ("0930", "09:30"),
        ("930", "09:30"),
        ("9", "09:00"),
        ("21h", "21:00"),
        ("9:30 pm", "21:30"),
        ("12 am", "00:00"),
        ("06:30:15", "06:30:15"),
        (930, "09:30"),
    ],
)
def test_times_of_day_as_people_type_them(typed, clock):
    assert read_clock(typed) == clock


@pytest.mark.parametrize("typed", ["24:00", "9:75", "noon", "", "13 pm", "٩:30", None, "9:3"])
def test_what_is_no_time_of_day_is_refused(typed):
    with pytest.raises(ValueError, match="06:30"):
        read_clock(typed)


@pytest.mark.parametrize(
    ("typed", "moment"),
    [
        ("9:30", datetime(2025, 7, 10, 9, 30)),
        ("12 Jul", datetime(2025, 7, 12, 12, 15)),
        ("Sat 12 Jul 9:30", datetime(2025, 7, 12, 9, 30)),
        ("12 July 2026, 9:30", datetime(2026, 7, 12, 9, 30)),
        ("2025-07-12 9:30", datetime(2025, 7, 12, 9, 30)),
        ("2025-07-12T09:30", datetime(2025, 7, 12, 9, 30)),
        ("12.7. 9:30", datetime(2025, 7, 12, 9, 30)),
        ("12.7.2025 9:30", datetime(2025, 7, 12, 9, 30)),
    ],
)
def test_moments_as_people_type_them(typed, moment):
    assert typed_moment(typed, NOW) == moment


@pytest.mark.parametrize("typed", ["7/8 9:30", "32 Jul", "30 Feb", "Jul", "soon", "12 Jul 0001"])
def test_what_is_no_moment_is_refused(typed):
    with pytest.raises(ValueError, match="write a date"):
        typed_moment(typed, NOW)


@pytest.mark.parametrize("moment", ["0001-01-01T00:00", "9999-12-31T23:59+14:00", "1969-12-31T00:00"])
def test_years_out_of_reach_are_refused(moment):
    with pytest.raises(ValueError, match="between the years 1970 and 2199"):
        read_moment(moment)


@pytest.mark.parametrize("name", ["localtime", "posixrules", "Factory", "Nowhere/Else", "../etc/passwd", ""])
def test_zones_that_are_no_place_are_none(name):
    with pytest.raises(ValueError, match="IANA"):
        known_zone(name)


@given(st.text(max_size=70))
def test_any_text_is_a_moment_or_refused_in_words(text):
    try:
        moment = typed_moment(text, NOW)
    except ValueError as error:
        assert "write a" in str(error)  # noqa: PT017
    else:
        assert moment.year >= 1970
