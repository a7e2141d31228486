import os
import random

import pytest
from peewee import OperationalError, SqliteDatabase

from jostle.records.store import Store
from tests.plans import plan
from tests.records.kills import WRITES, Records, begun, half, killed, trial

TIMES = int(os.environ.get("JOSTLE_KILLS", "14"))


def test_what_was_acknowledged_is_there_and_nothing_is_half(tmp_path):
    kept, lost = trial(tmp_path / "jostle.sqlite", TIMES, random.Random(1))
    assert lost == []
    assert all(kept[kind] > 0 for kind in WRITES), kept


@pytest.mark.parametrize("after", [0.01, 0.02, 0.05])
def test_a_restore_that_is_killed_leaves_the_one_or_the_other(tmp_path, after):
    path, copy = tmp_path / "jostle.sqlite", tmp_path / "copy.sqlite"
    store = Store(path)
    store.add_plan(plan(name="Harbour"))
    store.backup(copy)
    for number in range(40):
        store.add_plan(plan(name=f"Quay {number}"))

    def restore(telling):
        records = Store(path)
        while True:
            os.write(telling, b"1\n")
            records.restore(copy)

    killed(restore, after)
    names = [name for _, name in Store(path).plans()]
    assert names == ["Harbour"] or len(names) == 41
    assert Store(path).damage() == []


@pytest.mark.parametrize("after", [0.0, 0.01, 0.03])
def test_a_migration_that_is_killed_is_done_the_next_time(tmp_path, after):
    path = tmp_path / "jostle.sqlite"
    Store(path).add_plan(plan(name="Harbour"))
    database = SqliteDatabase(str(path))
    database.execute_sql("DELETE FROM migratehistory WHERE name = '011_words'")
    database.close()

    def open_it(telling):
        while True:
            Store(path)

    killed(open_it, after)
    assert Store(path).plan(1).plan.name == "Harbour"
    assert Store(path).damage() == []


# A budget is written over, and a copy lies beside the records
@pytest.mark.parametrize("kind", [kind for kind in WRITES if kind not in ("budget", "backup")])
def test_a_disk_that_is_full_refuses_a_write_and_keeps_all_before_it(tmp_path, kind):
    begun(tmp_path / "jostle.sqlite")
    records = Records(tmp_path / "jostle.sqlite")
    told, write = [], WRITES[kind]
    room = records.store.asked("PRAGMA page_count")[0][0] + 2
    records.store.asked(f"PRAGMA max_page_count = {room}")
    with pytest.raises(OperationalError, match="full"):
        told.extend((number, write.act(records, number)) for number in range(1, 4000))
    assert half(records) == []
    records.store.asked("PRAGMA max_page_count = 1000000")
    number = len(told) + 1
    told.append((number, write.act(records, number)))
    assert all(write.there(records, *one) for one in told)
    assert half(records) == []
