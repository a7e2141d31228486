"""A year of hours of fifty groups in the ledger: how large it is, and how long it takes to read it."""

import json
import tempfile
from datetime import date, datetime, timedelta
from pathlib import Path

from jostle.api.costs_view import costs_view
from jostle.core.costs.account import Account
from jostle.core.costs.part import WAYS
from jostle.formats.shipped import demo_plan
from jostle.records.ledger_store import LedgerStore
from jostle.records.store import Store
from tests.bench.measuring import Size, median_ms, say

FIRST = date(2025, 1, 1)
# Machine, disk and address in each of three zones, a load balancer and two kinds of traffic
KINDS = [(what, zone) for what in ("machine", "disk", "address") for zone in ("north", "south", "skerry")]
OWN = ("load balancer", "load balancer data", "data out")


def filled(store: Store, size: Size) -> tuple[LedgerStore, int]:
    """A ledger with every hour of so many days."""
    plan = demo_plan()
    number, zone = store.add_plan(plan), plan.zone
    groups = json.dumps([f"group-{n}" for n in range(size.groups)])
    begin = int(datetime(2025, 1, 1, tzinfo=zone).timestamp())
    parts = json.dumps([[what, "otter-2", place] for what, place in KINDS] + [[what, "", ""] for what in OWN])
    hours = f"WITH RECURSIVE hour(n) AS (SELECT 0 UNION ALL SELECT n + 1 FROM hour WHERE n < {24 * size.ledger_days - 1})"
    fill = [
        f"""INSERT INTO ledger_group SELECT {number}, value, 'front', 'requests' FROM json_each('{groups}')""",
        f"""INSERT INTO ledger_part SELECT NULL, {number}, one.value, part.value ->> 0, part.value ->> 1, part.value ->> 2,
            1, 0, 0 FROM json_each('{groups}') AS one, json_each('{parts}') AS part""",
        f"""{hours} INSERT INTO ledger_hour (plan_id, begin, group_name, ends, serving_low, serving, serving_high,
            billed_low, billed, billed_high, stopped_low, stopped, stopped_high, demand, served, failed,
            short_minutes, late, seen_late)
            SELECT {number}, {begin} + 3600 * n, value, {begin} + 3600 * (n + 1), 8, 10.25, 12, 8, 10.5, 12, 0, 0.0, 0,
            40000.5, 39990.25, 10.25, 0.5, 12.5, 0 FROM hour, json_each('{groups}')""",
        f"""{hours} INSERT INTO ledger_amount SELECT {number}, {begin} + 3600 * n, id, 0, 12600000000,
            0, 413000000 + (n * 7919 + id * 104729) % 1000000, (n * 15485863 + id) % 1000000000 FROM hour, ledger_part""",
        f"""INSERT INTO ledger_day SELECT {number}, part_id, {FIRST.toordinal()} + (begin - {begin}) / 86400,
            SUM(micros), SUM(whole), SUM(billionths), SUM(rest) FROM ledger_amount GROUP BY 2, 3""",
        f"""INSERT INTO ledger_whole_day (plan_id, day, group_name, serving_low, serving_high, served, demand, late, seen_late,
            corrected, whole, billionths, rest) SELECT {number}, day, group_name, 8, 12, 959766.0, 960012.0, 288.0, 0, 0,
            SUM(whole), SUM(billionths), SUM(rest) FROM ledger_day JOIN ledger_part ON id = part_id GROUP BY day, group_name""",
        f"INSERT INTO ledger_course SELECT {number}, begin, SUM(billed) FROM ledger_hour GROUP BY begin",
    ]
    with store.transaction():
        for statement in fill:
            store.put_many(statement, [()])
    return LedgerStore(store), number


def account(ledger: LedgerStore, number: int, begin: date, end: date) -> Account:
    zone = ledger.store.plan(number).plan.zone
    span = ledger.span(number)
    assert span is not None
    made = Account(zone, "EUR", span[0], span[1], span[1], begin, end, about=ledger.about(number))
    ledger.add_to(made, number)
    return made


def by_any(ledger: LedgerStore, number: int, begin: date, end: date) -> int:
    """How many parts there are in all ways of parting what was spent."""
    sums = ledger.sums(number, begin, end)
    return sum(len({part.named(by) for _, part in sums}) for by in WAYS) + len({group for group, _ in sums})


def measure(size: Size) -> None:
    last, some = FIRST + timedelta(days=size.ledger_days - 1), min(9, size.times)
    month = date(last.year, last.month, 1)
    with tempfile.TemporaryDirectory() as folder:
        ledger, number = filled(Store(Path(folder) / "jostle.sqlite"), size)
        with ledger.store.reading():
            ledger.store.asked("PRAGMA wal_checkpoint(TRUNCATE)")
        taken = (Path(folder) / "jostle.sqlite").stat().st_size / 2**20
        say(
            f"A ledger of {size.groups} groups over {size.ledger_days} days, a group",
            f"{taken / size.groups:8.1f} MiB   ({taken:.0f} in all)",
        )
        say("Read by every dimension, all of it", median_ms(lambda: by_any(ledger, number, FIRST, last), some))
        say("Read by every dimension, a month", median_ms(lambda: by_any(ledger, number, month, last), some))
        say("All of Costs, all of it", median_ms(lambda: costs_view(account(ledger, number, FIRST, last), []), min(5, some)))
        say("All of Costs, a day", median_ms(lambda: costs_view(account(ledger, number, last, last), []), min(5, some)))


PARTS = (measure,)
