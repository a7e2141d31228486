"""Spot prices from a CSV file: a time, a machine, a zone and a price in each row, and its currency where that is said."""

from collections import defaultdict
from datetime import datetime
from difflib import get_close_matches
from itertools import pairwise
from typing import NamedTuple
from zoneinfo import ZoneInfo

from jostle.core.plan.quantity import say_duration
from jostle.core.plan.spot_prices import LONGEST_HELD, MOST_PRICES, PriceCourse
from jostle.core.plan.wall import LAST_YEAR
from jostle.formats.series_csv import TIME_NAMES, column_reader, number_in, on_wall, rows_of, skipped_in
from jostle.formats.series_error import Fault, SeriesError

COLUMNS = {
    "time": TIME_NAMES,
    "machine": ("machine", "type", "machine_type", "instance_type"),
    "zone": ("zone", "availability_zone"),
    "price": ("price", "price_per_hour", "spot_price"),
}
CURRENCY = ("currency", "price_currency")


class _Row(NamedTuple):
    number: int
    at: float
    price: float


def read_prices(content: bytes, zone: ZoneInfo, currency: str, machines: list[str], zones: list[str]) -> list[PriceCourse]:
    """The courses of a file, by machine and zone in the order of their first rows. Raises SeriesError with every fault."""
    rows, comma = rows_of(content)
    heading = [name.lower().replace(" ", "_") for name in rows[0]]
    places = {name: _place(rows[0], heading, name) for name in COLUMNS}
    money = next((heading.index(name) for name in CURRENCY if name in heading), None)
    if len(rows) - 1 > MOST_PRICES:
        raise SeriesError([Fault(None, None, "", f"has {len(rows) - 1:,} rows, at most {MOST_PRICES:,} are read")])
    read, _ = column_reader([row for row in rows[1:] if len(row) >= len(heading)], places["time"], rows[0])
    faults: list[Fault] = []
    found: dict[tuple[str, str], list[_Row]] = defaultdict(list)
    seen: dict[tuple[str, str], set[datetime]] = defaultdict(set)
    for number, row in enumerate(rows[1:], 2):
        if not any(row):
            continue
        if len(row) < len(heading):
            faults.append(Fault(number, None, ",".join(row)[:40], f"has {len(row)} columns, {len(heading)} are expected"))
            continue
        told = {name: row[place] for name, place in places.items()}
        written, price = read(told["time"]), _price(told["price"], comma)
        at = None if written is None else _epoch(written, zone, seen[told["machine"], told["zone"]])
        no_time = "is no time such as 2025-07-07T10:00" if written is None or not _told(written) else skipped_in(zone)
        wrong = [
            ("time", at is None, no_time),
            ("price", price is None, "is no price above 0"),
            ("machine", told["machine"] not in machines, _nearest("machine", told["machine"], machines)),
            ("zone", told["zone"] not in zones, _nearest("zone", told["zone"], zones)),
        ]
        faults += [Fault(number, name, told[name], message) for name, amiss, message in wrong if amiss]
        if money is not None and row[money] != currency:
            faults.append(Fault(number, "currency", row[money], f"the plan reckons in {currency}; bring prices in it"))
        if at is not None and price is not None:
            found[told["machine"], told["zone"]].append(_Row(number, at, price))
    for (machine, where), course in found.items():
        faults += _out_of_step(f"{machine} in {where}", course)
    if faults:
        raise SeriesError(sorted(faults, key=lambda fault: fault.row or 0))
    if not found:
        raise SeriesError([Fault(None, None, "", "has no row; write a time, a machine, a zone and a price in each")])
    return [
        PriceCourse(machine=machine, zone=where, times=[one.at for one in course], prices=[one.price for one in course])
        for (machine, where), course in found.items()
    ]


def _place(names: list[str], heading: list[str], wanted: str) -> int:
    place = next((heading.index(name) for name in COLUMNS[wanted] if name in heading), None)
    if place is None:
        message = f"there is no column {wanted}; there is: {', '.join(names)}"
        raise SeriesError([Fault(1, None, "", message)])
    return place


def _told(at: datetime) -> bool:
    """Whether prices may be of that year."""
    return 1970 < at.year < LAST_YEAR


def _epoch(at: datetime, zone: ZoneInfo, seen: set[datetime]) -> float | None:
    """Seconds since 1970, of a time on the wall the second time that of the later pass; None for what is no time since then."""
    if not _told(at):
        return None
    there = on_wall(at, zone, seen) if at.tzinfo is None else at
    return None if there is None else there.timestamp()


def _price(cell: str, comma: bool) -> float | None:
    price = number_in(cell, comma)
    return price if price is not None and 0 < price < 1e6 else None


def _nearest(what: str, name: str, known: list[str]) -> str:
    close = get_close_matches(name, known, 1)
    there = f"the nearest is {close[0]}" if close else f"there is: {', '.join(known) or 'none'}"
    return f"no {what} has this name; {there}"


def _out_of_step(where: str, course: list[_Row]) -> list[Fault]:
    """Rows that go back in time, and prices that hold too long."""
    faults = []
    for before, after in pairwise(course):
        if after.at <= before.at:
            message = f"comes no later than row {before.number}; sort the rows of a machine and zone by time"
            faults.append(Fault(after.number, "time", where, message))
        elif after.at - before.at > LONGEST_HELD:
            gap, most = say_duration(after.at - before.at), say_duration(LONGEST_HELD)
            faults.append(Fault(after.number, "time", where, f"nothing for {gap} before it; bring a price every {most} at least"))
    return faults
