import time
from datetime import datetime, timedelta
from itertools import takewhile

import pytest
from dateutil.rrule import rrulestr
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.plan.repeat import comings, ever_comes, read_rule

DAYS = ("MO", "TU", "WE", "TH", "FR", "SA", "SU")
BEGIN = datetime(2025, 7, 1, 8, 30)


@pytest.mark.parametrize(
    ("rule", "said"),
    [
        ("FREQ=DAILY;INTERVAL=0", "INTERVAL lies between 1 and 1,000"),
        ("FREQ=DAILY\nEXRULE:FREQ=SECONDLY", "one line"),
        ("FREQ=DAILY\r\nRRULE:FREQ=SECONDLY", "one line"),
        ("FREQ=SECONDLY", "too often"),
        ("FREQ=DAILY;BYMINUTE=0,1,2", "too often"),
        ("FREQ=DAILY;COUNT=999999", "COUNT="),
        ("FREQ=DAILY;COUNT=3;UNTIL=20250801", "not by both"),
        ("FREQ=DAILY;FREQ=DAILY", "there twice"),
        ("INTERVAL=2", "FREQ is missing"),
        ("FREQ=WEEKLY;BYDAY=MONDAY", "not written as the standard has it"),
        ("FREQ=DAILY;BYEASTER=1", "not a part of it"),
        ("FREQ=DAILY;INTERVAL=٣", "not written"),
        ("FREQ=YEARLY;BYMONTH=13", "BYMONTH"),
        ("", "RFC 5545"),
        ("FREQ=DAILY;" * 500, "2,000 characters"),
    ],
)
def test_a_rule_that_cannot_be_walked_is_refused_in_words(rule, said):
    if said == "BYMONTH":
        assert not ever_comes(read_rule(rule), BEGIN)
        return
    with pytest.raises(ValueError, match=said):
        read_rule(rule)


@pytest.mark.parametrize(
    "rule", ["FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=30", "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=31", "FREQ=DAILY;UNTIL=20240101"]
)
def test_a_rule_that_can_never_come_true_is_known_soon(rule):
    began = time.process_time()
    assert not ever_comes(read_rule(rule), BEGIN)
    assert comings(rule, BEGIN, BEGIN, BEGIN + timedelta(days=400)) == []
    assert time.process_time() - began < 5


def test_the_29_of_february_comes_though_years_lie_between():
    assert ever_comes("FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=29", datetime(2097, 1, 1))
    assert comings("FREQ=HOURLY;BYMONTH=2;BYMONTHDAY=29;BYHOUR=3", BEGIN, datetime(2028, 1, 1), datetime(2028, 12, 1)) == [
        datetime(2028, 2, 29, 3, 30)
    ]


def test_steps_are_those_of_the_window_however_far_the_beginning_lies():
    window = datetime(2199, 6, 1), datetime(2199, 6, 2)
    began = time.process_time()
    found = comings("FREQ=HOURLY;INTERVAL=7", datetime(1970, 1, 1), *window)
    assert time.process_time() - began < 0.05
    assert {(one - datetime(1970, 1, 1)) % timedelta(hours=7) for one in found} == {timedelta()}
    assert len(found) in (3, 4)


def test_a_count_is_counted_from_the_beginning():
    all_of_it = comings("FREQ=WEEKLY;BYDAY=MO,TH;COUNT=5", BEGIN, BEGIN, BEGIN + timedelta(days=300))
    assert [f"{one:%a %d %b}" for one in all_of_it] == ["Thu 03 Jul", "Mon 07 Jul", "Thu 10 Jul", "Mon 14 Jul", "Thu 17 Jul"]
    assert comings("FREQ=WEEKLY;BYDAY=MO,TH;COUNT=5", BEGIN, datetime(2025, 7, 12), datetime(2026, 1, 1)) == all_of_it[3:]


def _subset(values, most=3):
    return st.lists(st.sampled_from(values), min_size=1, max_size=most, unique=True).map(lambda some: ",".join(map(str, some)))


@st.composite
def rules(draw):
    frequency = draw(st.sampled_from(["YEARLY", "MONTHLY", "WEEKLY", "DAILY", "HOURLY"]))
    parts = [f"FREQ={frequency}", f"INTERVAL={draw(st.integers(1, 5))}"]
    nth = st.builds(lambda n, day: f"{n}{day}", st.sampled_from([1, 2, -1]), st.sampled_from(DAYS))
    choices = {
        "BYMONTH": _subset(range(1, 13)),
        "BYMONTHDAY": _subset([1, 2, 15, 28, 29, 30, 31, -1, -3]),
        "BYDAY": nth if frequency in ("YEARLY", "MONTHLY") and draw(st.booleans()) else _subset(DAYS),
        "BYHOUR": _subset(range(24)),
        "WKST": st.sampled_from(DAYS),
    }
    if frequency == "YEARLY":
        choices |= {"BYYEARDAY": _subset([1, 60, 200, 365, 366, -1]), "BYWEEKNO": _subset([1, 2, 20, 51, 52, 53])}
    for name in draw(st.lists(st.sampled_from(sorted(choices)), max_size=3, unique=True)):
        parts.append(f"{name}={draw(choices[name])}")
    if frequency in ("MONTHLY", "WEEKLY") and draw(st.booleans()):
        parts.append(f"BYSETPOS={draw(st.sampled_from([1, 2, -1]))}")
    return ";".join(parts)


@given(rules(), st.datetimes(datetime(2019, 1, 1), datetime(2026, 1, 1)), st.integers(0, 1200))
def test_it_agrees_with_a_walk_from_the_beginning(rule, begin, later):
    """The reference walks the whole way, with a library that is made for it."""
    begin = begin.replace(microsecond=0)
    first = begin + timedelta(days=later)
    last = first + timedelta(days=200)
    try:
        walk = rrulestr(rule, dtstart=begin)
    except ValueError:
        return
    never = rrulestr(f"{rule};COUNT=1", dtstart=begin)
    if not ever_comes(rule, begin):
        return
    expected = [one for one in takewhile(lambda one: one <= last, walk) if one >= first] if list(never) else []
    assert comings(read_rule(rule), begin, first, last) == expected
