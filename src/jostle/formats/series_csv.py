"""A demand from a CSV file: a time and a value in each row, read as operators' tools write them.

Times have an offset, are counted from 1970, or are on the wall clock of the plan's zone. Rows may be out of order, missing,
double or without a value; what was done about it is said. Rows become an even grid whose step is the commonest distance
between times.
"""

import csv
import io
import re
from collections import Counter
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from typing import Any, Literal, get_args
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from jostle.core.plan.outside import MOST_SAMPLES, Samples
from jostle.core.plan.quantity import say_duration
from jostle.core.plan.word import say_count
from jostle.formats.series_error import Fault, SeriesError
from jostle.formats.time_column import Reader, TwoWays, is_time, reader_of

Unit = Literal["requests_per_second", "requests_per_minute", "requests_per_hour", "requests"]
Gaps = Literal["line", "hold", "zero"]

UNIT_WORDS: dict[Unit, str] = {
    "requests_per_second": "so many a second",
    "requests_per_minute": "so many a minute",
    "requests_per_hour": "so many an hour",
    "requests": "so many since the row before",
}
# How a heading ends that names its unit
ENDINGS: dict[Unit, tuple[str, ...]] = {
    "requests_per_second": ("per_second", "per_s", "per_sec", "rps"),
    "requests_per_minute": ("per_minute", "per_min", "rpm"),
    "requests_per_hour": ("per_hour", "per_h"),
    "requests": ("requests", "jobs", "sessions", "arrivals", "count", "hits"),
}
SECONDS_PER = {"requests_per_second": 1.0, "requests_per_minute": 60.0, "requests_per_hour": 3600.0}
TIME_NAMES = ("time", "timestamp", "date", "datetime", "date_time", "at")
# So many rows are shown
SAMPLE_ROWS = 4
_WITH_COMMA = re.compile(r"-?\d+,\d+", re.ASCII)
NO_VALUE = ("", "-", "nan", "null", "none", "n/a")


@dataclass(frozen=True)
class Series:
    """A series on its grid, how its unit was read, and what had to be done to the rows."""

    samples: Samples
    unit: Unit
    rows: int
    notes: list[str]
    columns: list[str]
    time_column: str | None
    value_column: str
    sample: list[list[str]] = field(default_factory=list)


def read_series(
    content: bytes,
    zone: ZoneInfo,
    unit: str | None = None,
    gaps: str = "line",
    time_name: str | None = None,
    value_name: str | None = None,
    guess: bool = False,
) -> Series:
    """Read a CSV file. `unit` is that of the value column, where its heading does not name it; the columns are guessed
    where they are not named, and with `guess` the unit too: as a count for each row.

    Raises SeriesError with every fault by row and column.
    """
    known_ways(unit, gaps)
    rows, comma = rows_of(content)
    heading = None if any(map(is_time, rows[0])) else rows[0]
    names = heading or [f"column {n + 1}" for n in range(len(rows[0]))]
    try:
        time, value = _chosen(names, _guessed(rows, heading, comma), time_name, value_name)
        found = unit or _unit_of(heading[value] if heading else "")
        guessed = found is None and guess
        if guessed:
            found = "requests"
        if found is None:
            message = f"does not name its unit: choose one, or call the column one of {', '.join(get_args(Unit))}"
            raise SeriesError([Fault(1, f"column {value + 1}", heading[value] if heading else "", message)])
        epochs, values, notes = _read_rows(rows, 1 if heading else 0, time, value, names, zone, comma)
        samples, more = on_grid(epochs, values, found, gaps, zone)
    except SeriesError as error:
        error.columns = names
        raise
    if guessed:
        more = [f"its unit is not named: taken as a count for each row, {say_duration(samples.step)} apart", *more]
    told = Series(samples, found, len(epochs), notes + more, names, names[time], names[value])  # type: ignore[arg-type]
    return replace(told, sample=rows[:SAMPLE_ROWS])


def known_ways(unit: str | None, gaps: str) -> None:
    """Refuse a unit or a way of filling gaps that there is not. Raises SeriesError."""
    if unit is not None and unit not in get_args(Unit):
        raise SeriesError([Fault(None, "unit", unit, f"must be one of {', '.join(get_args(Unit))}")])
    if gaps not in get_args(Gaps):
        raise SeriesError([Fault(None, "gaps", gaps, f"must be one of {', '.join(get_args(Gaps))}")])


def on_grid(
    epochs: NDArray[np.float64], values: NDArray[np.float64], unit: str, gaps: str, zone: ZoneInfo
) -> tuple[Samples, list[str]]:
    """Rising times and their values as a series on an even grid, with notes on what was done. Raises SeriesError."""
    step, rates, notes = _grid(epochs, values, unit, gaps)
    first = datetime.fromtimestamp(float(epochs.min()), UTC).astimezone(zone)
    return Samples(first=first, step=step, rates=rates.tolist()), notes


def _chosen(names: list[str], guessed: tuple[int, int], time_name: str | None, value_name: str | None) -> tuple[int, int]:
    """Positions of time and value: as named, otherwise as guessed, another value where the guess is what was named the time."""
    time = guessed[0] if time_name is None else _column(names, "time column", time_name)
    if value_name is None:
        return time, next(n for n in (guessed[1], *range(len(names))) if n != time)
    value = _column(names, "value column", value_name)
    if value == time:
        raise SeriesError([Fault(None, "value column", value_name, "is the column of the times; choose another")])
    return time, value


def _column(names: list[str], what: str, name: str) -> int:
    if name not in names:
        raise SeriesError([Fault(None, what, name, f"is not in the file; there is: {', '.join(names)}")])
    return names.index(name)


def rows_of(content: bytes) -> tuple[list[list[str]], bool]:
    """The rows of the file, and whether a comma stands for the decimal point in it."""
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        raise SeriesError([Fault(line, None, "", "is not UTF-8 text; save the file as UTF-8")]) from None
    if "\0" in text:
        raise SeriesError([Fault(None, None, "", "holds zero bytes and is not text")])
    first = text.lstrip().split("\n", 1)[0]
    delimiter = max(";,\t", key=first.count)
    try:
        rows = [[cell.strip() for cell in row] for row in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)]
    except csv.Error as error:
        raise SeriesError([Fault(None, None, "", f"is not CSV: {error}")]) from None
    while rows and not any(rows[-1]):
        rows.pop()
    if not rows or len(rows[0]) < 2:
        raise SeriesError([Fault(1, None, first[:40], "a time and a value are needed, separated by a comma, semicolon or tab")])
    return rows, delimiter == ";" or (delimiter == "\t" and _decimal_commas(rows[1:]))


def _decimal_commas(rows: list[list[str]]) -> bool:
    """Whether commas between tabs, as cells are copied, are decimal: behind one that parts thousands stand three digits."""
    cells = [cell for row in rows for cell in row if _WITH_COMMA.fullmatch(cell)]
    return any(len(cell.partition(",")[2]) != 3 for cell in cells)


def _guessed(rows: list[list[str]], heading: list[str] | None, comma: bool) -> tuple[int, int]:
    """Positions of time and value: a column by its name before one by its contents, a value with a unit before any number."""
    sample = rows[0 if heading is None else 1] if len(rows) > 1 else []
    names = [name.lower() for name in heading or [""] * len(rows[0])]
    times = [n for n, name in enumerate(names) if name in TIME_NAMES]
    times += [n for n, cell in enumerate(sample[: len(names)]) if is_time(cell)]
    time = times[0] if times else 0
    values = [n for n, name in enumerate(names) if _unit_of(name)]
    values += [n for n, cell in enumerate(sample[: len(names)]) if number_in(cell, comma) is not None]
    return time, next(n for n in [*values, *range(len(names))] if n != time)


def _unit_of(heading: str) -> Unit | None:
    name = heading.lower().replace("/", " per ").replace("(", " ").replace(")", " ").replace("-", "_")
    name = "_".join(name.replace("_", " ").split())
    return next((unit for unit, endings in ENDINGS.items() if name.endswith(endings)), None)


def number_in(cell: str, comma: bool) -> float | None:
    try:
        number = float(cell.replace(",", ".") if comma else cell)
    except ValueError:
        return None
    return number if np.isfinite(number) else None


def _read_rows(
    rows: list[list[str]], first: int, time: int, value: int, names: list[str], zone: ZoneInfo, comma: bool
) -> tuple[NDArray[np.float64], NDArray[np.float64], list[str]]:
    read, said = column_reader(rows[first:], time, names)
    faults: list[Fault] = []
    seen_on_wall: set[datetime] = set()
    found: dict[float, float] = {}
    out_of_order = doubled = empty = 0
    latest = -np.inf
    for number, row in enumerate(rows[first:], first + 1):
        if not any(row):
            continue
        if len(row) <= max(time, value):
            faults.append(Fault(number, None, ",".join(row)[:40], f"has {len(row)} columns, {len(rows[0])} are expected"))
            continue
        if row[value].lower() in NO_VALUE:
            empty += 1
            continue
        at, amount = read(row[time]), number_in(row[value], comma)
        if at is None:
            faults.append(Fault(number, names[time], row[time], "write a time such as 2025-07-07T00:00 or 2025-07-07T00:00Z"))
        if amount is None:
            faults.append(Fault(number, names[value], row[value], "write a number such as 120.5"))
        elif amount < 0:
            faults.append(Fault(number, names[value], row[value], "demand cannot be negative"))
        if at is None or amount is None or amount < 0:
            continue
        if at.tzinfo is None:
            local = on_wall(at, zone, seen_on_wall)
            if local is None:
                faults.append(Fault(number, names[time], row[time], skipped_in(zone)))
                continue
            at = local
        epoch = at.timestamp()
        doubled += epoch in found
        out_of_order += epoch < latest
        latest = max(latest, epoch)
        found[epoch] = amount
    if faults:
        raise SeriesError(faults)
    if len(found) < 2:
        raise SeriesError([Fault(None, None, "", "two rows at different times are needed at least")])
    epochs = np.array(sorted(found))
    notes = [said] if said else []
    if empty:
        notes.append(f"{say_count(empty, 'row')} without a value left out")
    if out_of_order:
        notes.append(f"{say_count(out_of_order, 'row')} out of order, sorted")
    if doubled:
        notes.append(f"{say_count(doubled, 'row')} at a time that came before; the later row counts")
    return epochs, np.array([found[epoch] for epoch in epochs]), notes


def column_reader(rows: list[list[str]], time: int, names: list[str]) -> tuple[Reader, str | None]:
    try:
        return reader_of([row[time] for row in rows if len(row) > time])
    except TwoWays:
        message = "may have the day or the month first; write a time such as 2025-07-07T00:00"
        raise SeriesError([Fault(1, names[time], rows[0][time], message)]) from None


def skipped_in(zone: ZoneInfo) -> str:
    """What is wrong with a time that no clock ever showed."""
    return f"does not exist in {zone.key}, where the clock is put forward then; write the time with its offset"


def on_wall(at: datetime, zone: ZoneInfo, seen: set[datetime]) -> datetime | None:
    """A wall-clock time in its zone. When the clock is put back, the second row of the same time is the later pass."""
    early = at.replace(tzinfo=zone)
    late = early.replace(fold=1)
    if early.utcoffset() == late.utcoffset():
        return early
    if early.astimezone(UTC).astimezone(zone).replace(tzinfo=None, fold=0) != at:
        return None
    if at in seen:
        return late
    seen.add(at)
    return early


def _grid(epochs: NDArray[np.float64], values: NDArray[np.float64], unit: str, gaps: str) -> tuple[float, Any, list[str]]:
    """Step (s), rates on the even grid (1/s), and notes."""
    steps = np.diff(epochs)
    step = float(Counter(steps.tolist()).most_common(1)[0][0])
    cells = int(round((epochs[-1] - epochs[0]) / step)) + 1
    if cells > MOST_SAMPLES:
        raise SeriesError([Fault(None, None, "", f"rows {say_duration(step)} apart over this span are too many to hold")])
    where = np.floor((epochs - epochs[0]) / step + 1e-6).astype(np.int64)
    number = np.bincount(where, minlength=cells)
    total = np.bincount(where, values, minlength=cells)
    notes = []
    uneven = int(np.sum(np.abs((epochs - epochs[0]) / step - where) > 1e-6))
    if uneven:
        notes.append(f"{uneven} rows stood between the steps of {say_duration(step)} and were moved to them")
    rates = np.divide(total, number, out=np.full(cells, np.nan), where=number > 0)
    if unit == "requests":
        rates = np.where(number > 0, total, np.nan)
    rates = rates / (step if unit == "requests" else SECONDS_PER[unit])
    missing = np.isnan(rates)
    if missing.any():
        runs = int(np.sum(np.diff(np.concatenate([[0], missing.astype(np.int8)])) == 1))
        there = np.flatnonzero(~missing)
        if gaps == "line":
            rates = np.interp(np.arange(cells), there, rates[there])
        elif gaps == "hold":
            rates = rates[there[np.searchsorted(there, np.arange(cells), side="right") - 1]]
        else:
            rates = np.where(missing, 0.0, rates)
        how = {"line": "a straight line", "hold": "the last value held", "zero": "zero"}[gaps]
        noun = "gap" if runs == 1 else "gaps"
        notes.append(f"{runs} {noun}, {say_duration(float(missing.sum()) * step)} in all, filled by {how}")
    return step, rates, notes
