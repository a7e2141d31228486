from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jostle.core.plan.quantity import (
    read_duration,
    read_money,
    read_rate,
    read_share,
    say_duration,
    say_money,
    say_number,
    say_share,
)


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("90 s", 90),
        ("5 min", 300),
        ("1 h 30 min", 5400),
        ("1h30", 5400),
        ("2 weeks", 1209600),
        ("1,500 ms", 1.5),
        ("1.5 h", 5400),
        ("1,5 h", 5400),
        ("400 ms", 0.4),
        ("7d", 604800),
        (12, 12),
        (0, 0),
    ],
)
def test_durations_are_read_with_their_unit(text, seconds):
    assert read_duration(text) == seconds


@pytest.mark.parametrize("text", ["5", "five minutes", "-3 s", -1, None, True, float("nan"), "3 fortnights", "1 min 2 h", "٣ s"])
def test_a_duration_without_sense_says_what_would_be_right(text):
    with pytest.raises(ValueError, match=r"90 s, 5 min or 400 ms|negative"):
        read_duration(text)


def test_a_share_of_66_is_met_with_the_question_whether_66_percent_was_meant():
    with pytest.raises(ValueError, match="did you mean 66 %"):
        read_share(66)


@pytest.mark.parametrize(("given_", "share"), [("66 %", 0.66), ("0.5%", 0.005), (0.66, 0.66), (1, 1.0)])
def test_shares(given_, share):
    assert read_share(given_) == share


@pytest.mark.parametrize(
    ("text", "per_second"),
    [("250/s", 250), ("1500/min", 25), ("3600 / h", 1), (4, 4), ("600 per minute", 10), ("1,200 requests/min", 20)],
)
def test_rates(text, per_second):
    assert read_rate(text) == per_second


def test_money_is_exact_whether_text_or_number():
    assert read_money("0.094") == read_money(0.094) == Decimal("0.094")


@pytest.mark.parametrize("wrong", ["€ 4", "-1", "inf", None, True, [3], "9" * 5000])
def test_money_refuses_signs_and_nonsense(wrong):
    with pytest.raises(ValueError, match=r"amount"):
        read_money(wrong)


@given(st.integers(0, 10**7))
def test_a_duration_said_and_read_again_is_the_same(seconds):
    assert read_duration(say_duration(seconds)) == seconds


@pytest.mark.parametrize(
    ("seconds", "said"),
    [(0.4, "400 ms"), (90, "90 s"), (60, "1 min"), (300, "5 min"), (5400, "1 h 30 min"), (604800, "7 d"), (0, "0 s")],
)
def test_durations_are_said_shortly(seconds, said):
    assert say_duration(seconds) == said


def test_figures_for_reading():
    assert [say_number(x) for x in (0, 0.04567, 12.3456, 1234.5, 7.0)] == ["0", "0.0457", "12.3", "1,234", "7"]
    assert say_share(0.0804) == "8.04 %"
    assert say_money(Decimal("411.62"), "EUR") == "€ 412"
    assert say_money(Decimal("19.854"), "EUR") == "€ 19.85"
    assert say_money(3, "CHF") == "CHF 3"
