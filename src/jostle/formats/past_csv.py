"""What was paid for before, from a CSV file: an hour, a group, a count of instances and an amount in each row."""

import re
from datetime import datetime
from decimal import Decimal, InvalidOperation
from zoneinfo import ZoneInfo

from jostle.core.costs.books import PastSpan
from jostle.core.plan.wall import FIRST_YEAR, LAST_YEAR
from jostle.formats.series_csv import TIME_NAMES, rows_of
from jostle.formats.series_error import Fault, SeriesError
from jostle.formats.time_column import Reader, TwoWays, reader_of

NAMES = {
    "hour": ("hour", *TIME_NAMES, "begin"),
    "group": ("group", "service"),
    "count": ("count", "instances"),
    "amount": ("amount", "cost", "price"),
}
# Three years of hours of ten groups, or one of fifty
MOST_ROWS = 500_000
_GROUP = re.compile(r"[a-z0-9](?:[a-z0-9_-]{0,62}[a-z0-9])?")
_NUMBER = re.compile(r"-?\d{1,9}(?:\.\d{1,9})?", re.ASCII)


def read_past(content: bytes, zone: ZoneInfo) -> list[PastSpan]:
    """The hours of a file. Times without an offset are on the clock of the zone. Raises SeriesError with every fault by row."""
    rows, comma = rows_of(content)
    if len(rows) - 1 > MOST_ROWS:
        raise SeriesError([Fault(None, None, "", f"has {max(0, len(rows) - 1):,} rows; write 1 to {MOST_ROWS:,} and a heading")])
    places = _places(rows[0])
    told = [row for row in rows[1:] if any(cell.strip() for cell in row)]
    try:
        read, _ = reader_of([row[places["hour"]].strip() for row in told if len(row) > places["hour"]])
    except TwoWays:
        raise SeriesError(
            [Fault(2, "hour", "", "has dates of which the day might be the month; write 2025-06-30T13:00")]
        ) from None
    faults: list[Fault] = []
    found: dict[tuple[str, float], PastSpan] = {}
    for number, row in enumerate(rows[1:], 2):
        if any(cell.strip() for cell in row):
            one = _hour(number, row, places, read, zone, comma, faults)
            if one is not None and (one.group, one.begin) in found:
                faults.append(Fault(number, "hour", row[places["hour"]], f"stands twice for {one.group}"))
            elif one is not None:
                found[one.group, one.begin] = one
    if faults:
        raise SeriesError(faults)
    if not found:
        raise SeriesError([Fault(None, None, "", "has no row with an hour, a group, a count and an amount")])
    return list(found.values())


def _places(heading: list[str]) -> dict[str, int]:
    names = [re.sub(r"[^a-z]+", "_", cell.strip().lower()).strip("_") for cell in heading]
    places, missing = {}, []
    for wanted, known in NAMES.items():
        place = next((k for k, name in enumerate(names) if name in known or name.partition("_")[0] in known), None)
        if place is None:
            missing.append(Fault(1, wanted, "", f"is missing in the heading; call a column {wanted}"))
        else:
            places[wanted] = place
    if missing:
        raise SeriesError(missing)
    return places


def _hour(
    number: int, row: list[str], places: dict[str, int], read: Reader, zone: ZoneInfo, comma: bool, faults: list[Fault]
) -> PastSpan | None:
    cells = {name: row[place].strip() if place < len(row) else "" for name, place in places.items()}
    before = len(faults)
    at = read(cells["hour"])
    if at is None or not FIRST_YEAR <= at.year <= LAST_YEAR:
        faults.append(Fault(number, "hour", cells["hour"], "write a time such as 2025-06-30T13:00"))
    elif at.minute or at.second or at.microsecond:
        faults.append(Fault(number, "hour", cells["hour"], "write the hour at which it begins, with 00 minutes"))
    if not _GROUP.fullmatch(cells["group"]):
        faults.append(Fault(number, "group", cells["group"], "write the name of a group, such as booking-web"))
    count, amount = (_number(cells[name], comma) for name in ("count", "amount"))
    if count is None or count < 0 or count > 100_000:
        faults.append(Fault(number, "count", cells["count"], "write a number of instances from 0 to 100,000"))
    if amount is None or amount < 0:
        faults.append(Fault(number, "amount", cells["amount"], "write an amount of 0 or more, such as 1.25"))
    if len(faults) > before or at is None or count is None or amount is None:
        return None
    return PastSpan(int(_epoch(at, zone)), 1, cells["group"], float(count), amount)


def _number(cell: str, comma: bool) -> Decimal | None:
    """A number as written; with a comma before its fraction, or between thousands."""
    plain = cell.replace(".", "").replace(",", ".") if comma and "," in cell else cell.replace(",", "")
    try:
        return Decimal(plain) if _NUMBER.fullmatch(plain) else None
    except InvalidOperation:
        return None


def _epoch(at: datetime, zone: ZoneInfo) -> float:
    return (at if at.tzinfo else at.replace(tzinfo=zone)).timestamp()
