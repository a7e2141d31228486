"""What happens to the records when something is wrong with them, and how they are copied and put back."""

import re
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import pytest
from fastapi.testclient import TestClient
from peewee import OperationalError
from typer.testing import CliRunner

from jostle.api.app import create_app
from jostle.api.server import keep_safe, open_records
from jostle.cli.main import app
from jostle.core.today import today
from jostle.provider.stream import ServeError
from jostle.records.backups import KEPT, back_up_today, copies_of, is_sound
from jostle.records.store import VERSION, NameTaken, RecordsError, Store
from jostle.records.table import SEALED, Damaged
from tests.plans import data, plan


@pytest.fixture
def path(tmp_path):
    return tmp_path / "jostle.sqlite"


@pytest.fixture
def store(path):
    made = Store(path)
    made.add_plan(plan())
    return made


def group(**settings):
    return {**plan().groups["web"].model_dump(mode="json"), **settings}


def test_records_of_a_newer_form_are_refused_by_their_number(store, path):
    with sqlite3.connect(path) as raw:
        raw.execute(f"PRAGMA user_version = {VERSION + 3}")
    with pytest.raises(RecordsError, match=rf"newer Jostle \(records {VERSION + 3}, this one knows {VERSION}\)"):
        Store(path)


def test_what_is_no_file_of_records_is_told_with_what_to_do(tmp_path):
    (tmp_path / "garbage").write_bytes(b"not a database " * 500)
    (tmp_path / "folder").mkdir()
    for name, said in (("garbage", "restore a backup with jostle restore FILE"), ("folder", "is a folder; move it away")):
        with pytest.raises(RecordsError, match=said):
            Store(tmp_path / name)


def test_a_damaged_page_is_found_by_a_restore_and_by_a_start(store, path, tmp_path):
    for _ in range(30):
        store.add_plan(plan())
    store.backup(tmp_path / "good.sqlite")
    whole = (tmp_path / "good.sqlite").read_bytes()
    (tmp_path / "bad.sqlite").write_bytes(whole[:4096] + b"\xff" * 8192 + whole[12288:])
    with pytest.raises(RecordsError, match=r"bad\.sqlite"):
        store.restore(tmp_path / "bad.sqlite")
    assert len(store.plans()) == 31


def flipped(file, text, number=30):
    """Have so many bytes of a file otherwise, from the first place on where a text stands."""
    whole = bytearray(file.read_bytes())
    place = whole.index(text)
    whole[place : place + number] = bytes(byte ^ 1 for byte in whole[place : place + number])
    file.write_bytes(whole)


def closed(path):
    """The file of records as it is when nobody has it open."""
    with sqlite3.connect(path) as raw:
        raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    return path


def many(store):
    for number in range(40):
        store.save_arrangement(1, "web", group(minimum=1 + number % 3), f"number {number}")


def test_records_that_were_cut_are_refused_and_their_newest_sound_copy_is_put_in_place(store, path, tmp_path):
    many(store)
    assert back_up_today(store).name == f"{today(UTC)}.sqlite"
    (tmp_path / "backups" / "9999-12-31.sqlite").write_bytes(b"no copy at all")
    store._database.close()
    whole = closed(path).read_bytes()
    path.write_bytes(whole[:-100])
    with pytest.raises(ServeError) as refused:
        open_records(tmp_path)
    copy = tmp_path / "backups" / f"{today(UTC)}.sqlite"
    assert str(refused.value).endswith(f"the newest sound copy comes back with: jostle restore {copy}")
    done = CliRunner().invoke(app, ["restore", str(copy), "--data", str(tmp_path)])
    assert (done.exit_code, "1 plans were restored" in done.stdout) == (0, True)
    assert len(open_records(tmp_path).arrangements(1, "web")) == 41
    assert next(tmp_path.glob("damaged-*.sqlite")).read_bytes() == whole[:-100]


def test_a_document_that_is_not_as_it_was_written_is_named_and_all_else_is_shown(store, path, tmp_path):
    many(store)
    back_up_today(store)
    store._database.close()
    flipped(closed(path), b'"minimum": 2', 10)
    records = open_records(tmp_path)
    (damaged,) = records.damage()
    assert re.fullmatch(r"arrangement \d+ of web of plan 1 is damaged", damaged)
    with TestClient(create_app(records), base_url="http://127.0.0.1") as client:
        assert client.get("/api/plans/1").status_code == 200
        refused = client.get("/api/plans/1/groups/web/arrangements")
    assert refused.status_code == 503
    assert damaged in refused.json()["detail"]
    assert f"jostle restore {tmp_path / 'backups' / f'{today(UTC)}.sqlite'}" in refused.json()["detail"]
    with pytest.raises(RecordsError, match="is not as it was written"):
        records.backup(tmp_path / "copy.sqlite")
    done = CliRunner().invoke(app, ["restore", str(copies_of(path)[0]), "--data", str(tmp_path)])
    assert done.exit_code == 0
    assert open_records(tmp_path).damage() == []


def test_a_copy_is_made_on_each_day_of_running_and_the_oldest_go(store, path, monkeypatch):
    for day in range(KEPT + 3):
        monkeypatch.setattr("jostle.core.today.clock", lambda day=day: 1.8e9 + 86_400 * day)
        keep_safe(store)
        keep_safe(store)
    assert [copy.name for copy in copies_of(path)] == [
        f"{datetime.fromtimestamp(1.8e9 + 86_400 * day, UTC).date()}.sqlite" for day in range(KEPT + 2, 2, -1)
    ]
    assert all(is_sound(copy) for copy in copies_of(path))


def test_a_clock_that_was_set_back_neither_hides_nor_loses_a_copy(store, path, monkeypatch):
    names = []
    for day in (9, 10, 2, 2, 3, 4, 11):
        monkeypatch.setattr("jostle.core.today.clock", lambda day=day: 1.8e9 + 86_400 * day)
        keep_safe(store)
        names.append(copies_of(path)[0].stem)
    days = {day: f"{datetime.fromtimestamp(1.8e9 + 86_400 * day, UTC).date()}" for day in range(12)}
    back = [f"{days[10]}-then-{days[day]}" for day in (2, 2, 3, 4)]
    assert names == [days[9], days[10], *back, days[11]]
    for day in range(20, 20 + KEPT):
        monkeypatch.setattr("jostle.core.today.clock", lambda day=day: 1.8e9 + 86_400 * day)
        keep_safe(store)
    monkeypatch.setattr("jostle.core.today.clock", lambda: 1.8e9)
    keep_safe(store)
    assert copies_of(path)[0].stem.endswith(f"-then-{days[0]}")
    assert len(copies_of(path)) == KEPT


def test_damaged_records_are_not_copied_over_sound_ones(store, path, tmp_path, monkeypatch):
    keep_safe(store)
    with sqlite3.connect(path) as raw:
        raw.execute("UPDATE plan SET document = replace(document, 'web', 'wep')")
    monkeypatch.setattr("jostle.core.today.clock", lambda: 4e9)
    keep_safe(store)
    assert len(copies_of(path)) == 1
    assert store.damage() == ["plan 1, Quay, is damaged"]


def test_records_from_before_there_were_seals_are_sealed_once(store, path):
    with sqlite3.connect(path) as raw:
        raw.execute("DELETE FROM migratehistory WHERE name = '012_seals'")
        for table in SEALED:
            raw.execute(f'ALTER TABLE "{table._meta.table_name}" DROP COLUMN seal')
    assert Store(path).damage() == []
    with sqlite3.connect(path) as raw:
        assert raw.execute("SELECT count(*) FROM plan WHERE seal IS NULL").fetchone() == (0,)
        raw.execute("UPDATE plan SET document = document || ' '")
    with pytest.raises(Damaged, match="plan 1, Quay, is damaged"):
        Store(path).plan(1)


def test_a_backup_is_restored_while_the_records_are_open(store, path, tmp_path):
    store.backup(tmp_path / "copy.sqlite")
    store.add_plan(plan())
    store.save_arrangement(1, "web", group(minimum=2), "wider")
    other = Store(path)
    assert len(other.plans()) == 2
    store.restore(tmp_path / "copy.sqlite")
    for one in (store, other, Store(path)):
        assert [name for _, name in one.plans()] == ["Quay"]
        assert len(one.arrangements(1, "web")) == 1


@pytest.mark.parametrize("content", [None, b"", b"garbage" * 100])
def test_nothing_is_replaced_by_what_is_no_backup(store, tmp_path, content):
    if content is not None:
        (tmp_path / "file").write_bytes(content)
    with pytest.raises(RecordsError):
        store.restore(tmp_path / "file")
    assert len(store.plans()) == 1


def test_backup_and_restore_from_the_command_line(store, tmp_path):
    run = CliRunner().invoke
    folder = ["--data", str(tmp_path)]
    assert "1 plans are in" in run(app, ["backup", str(tmp_path / "b.sqlite"), *folder]).stdout
    store.add_plan(plan())
    done = run(app, ["restore", str(tmp_path / "b.sqlite"), *folder])
    assert (done.exit_code, "1 plans were restored" in done.stdout) == (0, True)
    assert len(Store(tmp_path / "before-restore.sqlite").plans()) == 2
    missing = run(app, ["restore", str(tmp_path / "none.sqlite"), *folder])
    assert (missing.exit_code, "is not a file" in missing.stderr) == (2, True)


def test_saves_to_different_groups_do_not_collide(path):
    document = data()
    document["groups"] |= {f"web{n}": document["groups"]["web"] for n in range(6)}
    store = Store(path)
    number = store.add_plan(plan(**document))
    with ThreadPoolExecutor(6) as pool:
        made = list(pool.map(lambda n: store.save_arrangement(number, f"web{n}", group(minimum=2), "wider", after=1), range(6)))
    assert made == [2] * 6
    assert [store.plan(number).plan.groups[f"web{n}"].minimum for n in range(6)] == [2] * 6
    with pytest.raises(NameTaken, match="saved in another window since"):
        store.save_arrangement(number, "web1", group(minimum=3), "mine", after=1)


def test_a_full_disk_is_told_and_is_got_over(store):
    client = TestClient(create_app(store), base_url="http://127.0.0.1")
    full = OperationalError("database or disk is full")

    def fails(*_):
        raise full

    adds, store.add_plan = store.add_plan, fails
    answer = client.post("/api/plans", json=data())
    assert (answer.status_code, answer.json()["title"]) == (507, "No room")
    store.add_plan = adds
    assert client.post("/api/plans", json=data()).status_code == 201


def test_a_write_that_finds_no_room_leaves_nothing_half_written(store):
    database = store._database
    pages = database.execute_sql("PRAGMA page_count").fetchone()[0]
    database.execute_sql(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(OperationalError, match="full"):
        store.add_plan(plan(groups__web__hands=[{"kind": "set", "at": "2025-07-07T01:00", "count": n} for n in range(99)]))
    assert len(store.plans()) == 1
    assert store.add_plan(plan()) == 2
