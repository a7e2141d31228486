"""A writer that is killed at a drawn instant, whatever it writes: what it acknowledged is there then, and nothing is half."""

import json
import os
import random
import signal
import time
from collections.abc import Callable
from datetime import datetime
from decimal import Decimal
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from jostle.api.desk import Desk
from jostle.api.live_desk import LiveDesk
from jostle.api.watch_desk import WatchDesk
from jostle.core.costs.books import PastSpan
from jostle.core.plan.budget import Budget
from jostle.live.live import Begun
from jostle.live.watching import Notice
from jostle.records.ledger_store import LedgerStore
from jostle.records.live_store import LiveStore
from jostle.records.past_store import PastStore
from jostle.records.search_store import SearchStore
from jostle.records.store import Store, check_file
from jostle.records.watch_store import WatchStore
from tests.plans import ADD, REMOVE, plan

HOUR = 3600.0
MADE = plan(days=1, groups__web__policies=[ADD, REMOVE], groups__web__owned=None)
WEB = MADE.groups["web"].model_dump(mode="json")
# s that a writer lives at the most
LONGEST = 0.5


class Records:
    """What a writer writes to, with what lives in it."""

    def __init__(self, path: Path) -> None:
        self.path, self.store = path, Store(path)
        self.desk = LiveDesk(Desk(self.store), WatchDesk(self.store, True))
        self.copy = path.with_name("copy.sqlite")

    @property
    def live_id(self) -> int:
        kept = LiveStore(self.store).of(1)
        assert kept is not None
        return kept.id


class Write(NamedTuple):
    """A kind of write: done for a number, which gives what is told of it; and whether what was told is there."""

    act: Callable[[Records, int], Any]
    there: Callable[[Records, int, Any], bool]


def _budget(records: Records, number: int) -> None:
    kept = records.store.plan(1)
    budgets = [Budget(at_most=Decimal(number))]
    records.store.change_plan(kept, kept.plan.model_copy(update={"budgets": budgets}))


def _take(records: Records, number: int) -> int:
    told = f"kept {number}"
    return records.store.add_take(
        1, "web", arrangement=1, came_from=None, document=WEB, seed=1, change=told, figures={"cost": number}
    ).number


def _search(records: Records, number: int) -> int:
    searches = SearchStore(records.store)
    added = searches.add(1, "web", "{}", "{}")
    searches.keep(1, "web", added, json.dumps({"found": number}))
    return added


def _notice(records: Records, number: int) -> None:
    told = Notice(float(number), float(number), "web", "short", False, f"kept {number}")
    WatchStore(records.store).tell(
        1, records.live_id, [told], told=float(number), since=WatchStore(records.store).told(records.live_id)
    )


def _step(records: Records, number: int) -> float:
    running = records.desk.required(1)
    records.desk.step(running, min(running.live.ends, running.live.now + HOUR))
    return running.live.now


def _hand(records: Records, number: int) -> int:
    running = records.desk.required(1)
    records.desk.lay(running, "web", {"act": "pin" if number % 2 else "unpin", "instance": 1, "one_fewer": False})
    return len(running.live.log)


def _past(records: Records, number: int) -> None:
    PastStore(records.store).bring(1, [PastSpan(HOUR * number, 1, "web", 1.0, Decimal(1))])


def _clock(records: Records) -> float:
    kept = LiveStore(records.store).of(1)
    return 0.0 if kept is None else kept.clock


def _acts(records: Records) -> int:
    kept = LiveStore(records.store).of(1)
    return 0 if kept is None else len(kept.log)


WRITES: dict[str, Write] = {
    "plan": Write(
        lambda records, number: records.store.add_plan(MADE.model_copy(update={"name": f"kept {number}"})),
        lambda records, number, told: (told, f"kept {number}") in records.store.plans(),
    ),
    "budget": Write(_budget, lambda records, number, told: records.store.plan(1).plan.budgets[0].at_most >= number),
    "take": Write(_take, lambda records, number, told: records.store.take(1, "web", told).change == f"kept {number}"),
    "arrangement": Write(
        lambda records, number: records.store.save_arrangement(1, "web", WEB, f"kept {number}"),
        lambda records, number, told: records.store.arrangement(1, "web", told).note == f"kept {number}",
    ),
    "search": Write(
        _search, lambda records, number, told: json.loads(SearchStore(records.store).one(1, "web", told).found)["found"] == number
    ),
    "target": Write(
        lambda records, number: WatchStore(records.store).add_target(1, f"https://ferries.example/{number}").id,
        lambda records, number, told: WatchStore(records.store).target(1, told).url.endswith(f"/{number}"),
    ),
    "notice": Write(
        _notice,
        lambda records, number, told: any(one.text == f"kept {number}" for _, one in WatchStore(records.store).notices(1, 10**6)),
    ),
    "ledger": Write(_step, lambda records, number, told: _clock(records) >= told),
    "hand": Write(_hand, lambda records, number, told: _acts(records) >= told),
    "past": Write(
        _past,
        lambda records, number, told: bool(
            records.store.asked("SELECT 1 FROM past_hour WHERE plan_id = 1 AND begin = ?", HOUR * number)
        ),
    ),
    "backup": Write(
        lambda records, number: records.store.backup(records.copy), lambda records, number, told: records.copy.exists()
    ),
}


def begun(path: Path) -> None:
    """Records of a plan that lives."""
    records = Records(path)
    records.store.add_plan(MADE)
    records.desk.begin(records.store.plan(1), Begun(at=datetime(2025, 7, 7), days=31, seed=1), None)


def killed(act: Callable[[int], None], after: float) -> list[Any]:
    """What a process of its own has told, which is killed after so many seconds; it is given where to tell it."""
    told, telling = os.pipe()
    writer = os.fork()
    if writer == 0:
        os.close(told)
        try:
            act(telling)
        finally:
            os._exit(1)
    os.close(telling)
    time.sleep(after)
    os.kill(writer, signal.SIGKILL)
    os.waitpid(writer, 0)
    with os.fdopen(told) as lines:
        return [json.loads(line) for line in lines if line.endswith("\n")]


def write_on(path: Path, first: int, kinds: list[str], telling: int) -> None:
    """Write one kind after the other, for ever, and tell of each once it is acknowledged."""
    records, number = Records(path), first
    while True:
        kind = kinds[number % len(kinds)]
        told = WRITES[kind].act(records, number)
        os.write(telling, f"{json.dumps([kind, number, told])}\n".encode())
        number += 1


def trial(path: Path, times: int, chance: random.Random) -> tuple[dict[str, int], list[str]]:
    """Writers killed so many times: how many writes of each kind they acknowledged, and what was lost or half."""
    begun(path)
    kept: dict[str, int] = dict.fromkeys(WRITES, 0)
    lost, number = [], 1
    for _ in range(times):
        kinds = chance.sample(list(WRITES), len(WRITES))
        told = killed(partial(write_on, path, number, kinds), chance.uniform(0.05, LONGEST))
        # What was under way may have been written too, and is not written again
        number += len(told) + 1
        records = Records(path)
        for kind, one, said in told:
            kept[kind] += 1
            if not WRITES[kind].there(records, one, said):
                lost.append(f"{kind} {one}")
        lost += half(records)
    return kept, lost


def half(records: Records) -> list[str]:
    """What is not whole."""
    found = [*records.store.damage(), *(str(row) for row in records.store.asked("PRAGMA foreign_key_check"))]
    live = records.desk.required(1).live
    if LedgerStore(records.store).correct(1, live):
        found.append("the ledger is not what was lived")
    if records.copy.exists():
        check_file(records.copy)
    return found
