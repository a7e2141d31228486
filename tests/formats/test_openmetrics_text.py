"""A demand out of OpenMetrics text."""

from zoneinfo import ZoneInfo

import pytest

from jostle.formats.series_error import SeriesError
from jostle.formats.series_file import read_series_file

UTC = ZoneInfo("UTC")
FIRST = 1751846400


def text(kind, name, values, step=60, end="# EOF\n"):
    lines = [f"{name} {value} {FIRST + step * k}" for k, value in enumerate(values)]
    return ("\n".join([f"# TYPE {name.partition('_total')[0]} {kind}", *lines]) + "\n" + end).encode()


def test_a_gauge_is_read_as_it_stands():
    series = read_series_file(text("gauge", "asked_per_second", [5, 7, 9]), UTC)
    assert series.samples.rates == [5, 7, 9]
    assert series.samples.step == 60
    assert series.samples.first.timestamp() == FIRST
    assert (series.columns, series.time_column, series.value_column) == (["asked_per_second"], None, "asked_per_second")


def test_a_counter_becomes_its_rate_and_a_restart_is_said():
    series = read_series_file(text("counter", "asked_total", [0, 600, 1800, 300, 900]), UTC)
    assert series.samples.rates == [10, 20, 5, 10]
    assert series.notes == ["the counter began anew 1 time; counted from zero there"]


def test_the_older_text_format_has_times_in_ms():
    lines = "".join(f'asked{{zone="north"}} {k} {(FIRST + 30 * k) * 1000}\n' for k in range(4))
    series = read_series_file(b"# HELP asked how many\n# TYPE asked gauge\n" + lines.encode(), UTC)
    assert series.samples.step == 30
    assert series.value_column == 'asked{zone="north"}'


def test_one_of_several_series_is_chosen():
    both = text("gauge", "a", [1, 2, 3], end="") + text("gauge", "b", [4, 5])
    assert read_series_file(both, UTC).value_column == "a"
    assert read_series_file(both, UTC, value_column="b").samples.rates == [4, 5]
    with pytest.raises(SeriesError, match='"c": is not in the file; there is: a, b'):
        read_series_file(both, UTC, value_column="c")


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"# TYPE a gauge\na 5\n# EOF\n", "no series with samples at two times"),
        (b"# TYPE a gauge\na five\n# EOF\n", "is not OpenMetrics text"),
        (b"# TYPE a gauge\n\xff\n", "is not UTF-8"),
        (text("gauge", "a", [1, -2]), "cannot be negative"),
        (text("counter", "a_total", [1, 2]), "samples at three times"),
    ],
)
def test_what_cannot_be_read_is_said(content, words):
    with pytest.raises(SeriesError, match=words):
        read_series_file(content, UTC)
