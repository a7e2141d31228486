"""A series from whichever file it came in: CSV, or OpenMetrics text."""

from zoneinfo import ZoneInfo

from jostle.formats.openmetrics_text import is_openmetrics, read_openmetrics
from jostle.formats.series_csv import Series, read_series


def read_series_file(
    content: bytes,
    zone: ZoneInfo,
    unit: str | None = None,
    gaps: str = "line",
    time_column: str | None = None,
    value_column: str | None = None,
    guess: bool = False,
) -> Series:
    """A series on its grid. `value_column` names the series of an OpenMetrics file; with `guess` a unit that nobody names is
    taken for a count a row. Raises SeriesError."""
    if is_openmetrics(content):
        return read_openmetrics(content, zone, unit, gaps, value_column)
    return read_series(content, zone, unit, gaps, time_column, value_column, guess)
