"""What was observed of a group, from a file with a column for each quantity: CSV, or OpenMetrics text."""

import math
import re
from typing import NamedTuple
from zoneinfo import ZoneInfo

from jostle.core.fitting.observed import QUANTITIES, Observed, Quantity, together
from jostle.core.plan.outside import Samples
from jostle.formats.series_csv import ENDINGS, Series, Unit
from jostle.formats.series_error import Fault, SeriesError
from jostle.formats.series_file import read_series_file

# Words in a heading by which a quantity is known, the surer ones first
_WORDS: dict[Quantity, tuple[str, ...]] = {
    "wanted": ("wanted", "desired", "target"),
    "cpu": ("cpu",),
    "memory": ("memory", "mem_used", "ram"),
    "latency": ("latency", "response_time", "duration"),
    "waiting": ("waiting", "backlog", "queue"),
    "done": ("done", "completed", "finished"),
    "sessions": ("open_sessions", "sessions_open", "concurrent", "seated"),
    "instances": ("instances", "hosts", "servers", "serving", "in_service", "workers"),
    "arrivals": ("requests", "arrivals", "rps", "rpm", "jobs", "sessions", "hits", "rate", "count"),
}
# What a column is taken as that is left out
NOTHING = "nothing"
# What a column may be taken as
TAKEN_AS = (*QUANTITIES, NOTHING)
NO_UNIT = "its heading names no unit"
# What an hour, a minute, a row are for what is counted
RATES = ("per_second", "per_minute", "per_hour", "a_row")
_AS_READ: dict[str, Unit] = {
    "per_second": "requests_per_second",
    "per_minute": "requests_per_minute",
    "per_hour": "requests_per_hour",
    "a_row": "requests",
}
UNITS: dict[Quantity, tuple[str, ...]] = {
    "arrivals": RATES,
    "done": RATES,
    "cpu": ("percent", "share"),
    "memory": ("percent", "share"),
    "latency": ("ms", "s"),
}
_FACTORS = {"percent": 0.01, "share": 1.0, "ms": 0.001, "s": 1.0}


class Note(NamedTuple):
    """How a column was taken, or a gap in it."""

    text: str
    of_gap: bool


def read_observed(
    content: bytes, zone: ZoneInfo, named: list[str] | None = None, per_instance: bool = False
) -> tuple[Observed, list[Note]]:
    """The columns of a file by quantity, and notes on how they were read. `named` has COLUMN=QUANTITY, or COLUMN=QUANTITY:UNIT;
    other columns are known by their headings. `per_instance` says that arrivals and what is done are told of one instance.
    Raises SeriesError, which asks for the unit of a column that does not name it."""
    columns = read_series_file(content, zone, guess=True).columns
    places = _places(columns, named or [])
    found: dict[Quantity, Samples] = {}
    notes: list[Note] = []
    unsure: list[Fault] = []
    for quantity, (column, unit) in places.items():
        unit = unit or _unit_of(column, quantity)
        rate = quantity in ("arrivals", "done")
        if rate and unit is None:
            unsure.append(Fault(None, column, "", _asks(column, quantity)))
            continue
        as_read = _AS_READ[unit] if rate and unit else "requests_per_second"
        series: Series = read_series_file(content, zone, as_read, "hold", None, column)
        # What fills a gap was not observed.
        unfilled = read_series_file(content, zone, as_read, "zero", None, column).samples.rates
        rates = series.samples.rates
        if not rate and quantity in UNITS:
            if unit is None and quantity in ("cpu", "memory") and max(rates) > 1.5:
                unit = "percent"
            if unit is None:
                unsure.append(Fault(None, column, "", _asks(column, quantity)))
                continue
            rates = [_FACTORS[unit] * one for one in rates]
        pairs = zip(rates, unfilled, strict=True)
        found[quantity] = series.samples.model_copy(
            update={"rates": [rate if there or not rate else math.nan for rate, there in pairs]}
        )
        notes.append(Note(f"{column} is taken as {quantity}{f', {unit}' if unit else ''}", False))
        gaps = [note.partition(", filled")[0] for note in series.notes if " gap" in note]
        notes += [Note(f"{column}: {gap}", True) for gap in gaps]
    if unsure:
        raise SeriesError(unsure)
    observed = together(found)
    if per_instance:
        if not observed.has("instances"):
            raise SeriesError([Fault(None, "instances", "", "is needed where values are told of one instance; name the column")])
        for one in ("arrivals", "done"):
            if observed.has(one):
                observed.values[one] = observed.values[one] * observed.values["instances"]
    return observed, notes


class Column(NamedTuple):
    """A column of a file, and what it is taken as: a quantity and the unit that its heading or somebody named, if any."""

    name: str
    quantity: Quantity | None
    unit: str | None
    units: tuple[str, ...]


def guessed(content: bytes, zone: ZoneInfo, named: list[str] | None = None) -> list[Column]:
    """All columns of a file. Raises SeriesError."""
    series = read_series_file(content, zone, guess=True)
    columns = [name for name in series.columns if name != series.time_column]
    taken = {column: (quantity, unit) for quantity, (column, unit) in _places(columns, named or []).items()}
    found = []
    for name in columns:
        quantity, unit = taken.get(name, (None, None))
        known = UNITS.get(quantity, ()) if quantity else ()
        found.append(Column(name, quantity, unit or (_unit_of(name, quantity) if quantity else None), known))
    return found


def _places(columns: list[str], named: list[str]) -> dict[Quantity, tuple[str, str | None]]:
    """The column and the unit, where it is named, of each quantity."""
    found: dict[Quantity, tuple[str, str | None]] = {}
    taken: set[str] = set()
    for one in named:
        column, _, rest = one.rpartition("=")
        quantity, _, unit = rest.partition(":")
        if quantity == NOTHING and column in columns:
            taken.add(column)
            continue
        if column not in columns:
            raise SeriesError([Fault(None, "column", column, f"is not in the file; there is: {', '.join(columns)}")])
        if quantity not in QUANTITIES:
            raise SeriesError([Fault(None, column, quantity, f"must be one of {', '.join(QUANTITIES)}")])
        known = UNITS.get(quantity, ())
        if unit and unit not in known:
            raise SeriesError([Fault(None, column, unit, f"must be one of {', '.join(known)}" if known else "has no unit")])
        found[quantity] = column, unit or None
        taken.add(column)
    for quantity, words in _WORDS.items():
        if quantity not in found:
            place = next((one for word in words for one in columns if one not in taken and word in _plain(one)), None)
            if place is not None:
                found[quantity] = place, None
                taken.add(place)
    if not found:
        raise SeriesError(
            [Fault(1, None, ", ".join(columns)[:80], "no column is known; name them with --column COLUMN=QUANTITY")]
        )
    return found


def _plain(column: str) -> str:
    text = column.lower().replace("/", " per ").replace("%", " percent ")
    return re.sub(r"[^a-z0-9]+", "_", text).strip("_")


def _unit_of(column: str, quantity: Quantity) -> str | None:
    """The unit that a heading names."""
    name = _plain(column)
    ends = {
        **{unit: ENDINGS[_AS_READ[unit]] for unit in ("per_second", "per_minute", "per_hour")},
        "a_row": ("requests", "jobs", "sessions", "arrivals", "hits", "done", "completed"),
        "percent": ("percent", "pct"),
        "share": ("share", "ratio", "fraction"),
        "ms": ("ms", "milliseconds"),
        "s": ("_s", "seconds", "sec"),
    }
    return next((unit for unit in UNITS.get(quantity, ()) if name.endswith(ends.get(unit, ("\0",)))), None)


def asked_units(error: SeriesError) -> list[str]:
    """The columns for which nothing is wanted but the unit; none where something else is wrong."""
    asked = [fault.column or "" for fault in error.faults if fault.message.startswith(NO_UNIT)]
    return asked if len(asked) == len(error.faults) else []


def _asks(column: str, quantity: Quantity) -> str:
    told = " or ".join(f"{column}={quantity}:{unit}" for unit in UNITS[quantity])
    return f"{NO_UNIT}; say which it is: --column {told}"
