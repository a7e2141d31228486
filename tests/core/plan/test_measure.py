from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.plan.measure import CHANGE, DURATION, MONEY, NUMBER, PERCENT, RATE, SHARE


@pytest.mark.parametrize(
    ("typed", "number"),
    [
        ("1,000", "1000"),
        ("12,345,678", "12345678"),
        ("1,234.5", "1234.5"),
        ("1.234,5", "1234.5"),
        ("1.234.567", "1234567"),
        ("1 000", "1000"),
        ("1'000", "1000"),
        ("1\u202f000,5", "1000.5"),
        ("0,5", "0.5"),
        ("0,500", "0.5"),
        ("1,5", "1.5"),
        ("12,50", "12.5"),
        ("1.000", "1"),
        (".5", "0.5"),
        ("1e3", "1000"),
        ("2k", "2000"),
        ("3 x", "3"),
        (" 7 ", "7"),
    ],
)
def test_numbers_as_people_group_them(typed, number):
    assert NUMBER.read(typed) == Decimal(number)


@pytest.mark.parametrize(
    "typed", ["", "abc", "1,00,000", "1,2,3", "1.2.3", "1 2", "--1", "1 000 00", "٣", "９", "0x10", "1" * 61, "7 bananas"]
)
def test_what_is_no_number_is_refused_with_an_example(typed):
    with pytest.raises(ValueError, match=r"200 or 1,000"):
        NUMBER.read(typed)


@pytest.mark.parametrize(
    ("typed", "seconds"),
    [
        ("90 s", 90),
        ("2 h", 7200),
        ("1 h 30 min", 5400),
        ("1h30m", 5400),
        ("1 h 30", 5400),
        ("7", 420),
        ("1,5", 90),
        ("90sec", 90),
    ],
)
def test_a_number_alone_takes_the_unit_of_its_field(typed, seconds):
    assert DURATION.read(typed, bare="min") == seconds


def test_a_word_that_the_field_is_about_may_stand_as_its_unit():
    assert NUMBER.read("3 instances", also="instances") == NUMBER.read("3 instance", also="instances") == 3
    assert MONEY.read("€ 1,250.50", also="€") == MONEY.read("1250.50 €", also="€") == Decimal("1250.50")
    with pytest.raises(ValueError, match=r"\$ is no unit of an amount"):
        MONEY.read("$ 4", also="€")


def test_signs():
    assert CHANGE.read("-3 %") == CHANGE.read("−3%") == Decimal("-0.03")
    assert SHARE.read("-0 %") == 0
    with pytest.raises(ValueError, match="negative"):
        SHARE.read("-3 %")
    assert PERCENT.read("20") == PERCENT.read("20 %") == 20


def test_a_rate_by_any_time():
    assert RATE.read("600/min") == RATE.read("600 a minute") == RATE.read("600 rpm") == RATE.read("600", bare="/min")
    assert float(RATE.read("600/min")) == 10.0


@given(st.text(max_size=80))
def test_any_text_is_read_or_refused_in_words(text):
    for measure in (DURATION, NUMBER, SHARE, RATE, MONEY):
        try:
            amount = measure.read(text)
        except ValueError as error:
            said = str(error)
            assert measure.right in said
        else:
            assert amount >= 0


@given(st.integers(0, 10**9))
def test_a_number_with_its_thousands_grouped_is_the_number(number):
    assert NUMBER.read(f"{number:,}") == number


def test_a_unit_that_the_measure_has_not_is_refused_too():
    with pytest.raises(ValueError, match="write a duration"):
        DURATION.read("5", bare="furlongs")
