import json
import sqlite3
from concurrent.futures import ThreadPoolExecutor

import pytest
from peewee import IntegrityError, SqliteDatabase
from peewee_migrate import Router

from jostle.records.store import MIGRATIONS, NameTaken, NotKept, Store
from jostle.records.table import PlanRow
from tests.plans import plan

TAKE = {"arrangement": 1, "came_from": None, "document": {"minimum": 1}, "seed": 1, "change": "as saved", "figures": {"cost": 1}}


def document(**settings):
    """The group of the small plan as plain data."""
    named = {f"groups__web__{name}": value for name, value in settings.items()}
    return plan(**named).groups["web"].model_dump(mode="json")


@pytest.fixture
def store(tmp_path):
    return Store(tmp_path / "kept" / "jostle.sqlite")


def test_a_plan_is_kept_with_the_first_arrangement_of_each_group(store):
    number = store.add_plan(plan())
    assert store.plans() == [(number, "Quay")]
    assert store.plan(number).plan == plan()
    first = store.arrangements(number, "web")
    assert [(a.number, a.note) for a in first] == [(1, "as imported")]
    assert first[0].document["maximum"] == 10


def test_it_is_all_there_when_the_file_is_opened_again(store, tmp_path):
    number = store.add_plan(plan())
    store.add_take(number, "web", **TAKE)
    again = Store(tmp_path / "kept" / "jostle.sqlite")
    assert again.plan(number).plan == plan()
    assert again.take(number, "web", 1).change == "as saved"


def test_arrangements_are_numbered_and_never_change(store, tmp_path):
    number = store.add_plan(plan())
    assert store.save_arrangement(number, "web", document(minimum=2), "wider") == 2
    assert store.plan(number).plan.groups["web"].minimum == 2
    assert [a.number for a in store.arrangements(number, "web")] == [2, 1]
    with sqlite3.connect(tmp_path / "kept" / "jostle.sqlite") as raw:
        for act in ("UPDATE arrangement SET note = 'other'", "DELETE FROM arrangement"):
            with pytest.raises(sqlite3.DatabaseError, match="never changes"):
                raw.execute(act)


def test_takes_are_numbered_and_one_is_starred(store):
    number = store.add_plan(plan())
    for _ in range(3):
        store.add_take(number, "web", **TAKE)
    assert [take.number for take in store.takes(number, "web")] == [1, 2, 3]
    store.star(number, "web", 2)
    store.star(number, "web", 3)
    assert [take.starred for take in store.takes(number, "web")] == [False, False, True]
    assert store.take_and_star(number, "web", None)[1].number == 3
    store.star(number, "web", None)
    assert store.take_and_star(number, "web", None)[1] is None
    assert store.newest_take(number, "web").number == 3


def test_what_is_not_kept_is_said(store):
    number = store.add_plan(plan())
    with pytest.raises(NotKept, match="web has no take 4"):
        store.take(number, "web", 4)
    with pytest.raises(NotKept):
        store.star(number, "web", 4)
    with pytest.raises(NotKept, match="no plan 9"):
        store.plan(9)


def test_of_two_changes_at_the_same_time_one_is_refused(store):
    kept = store.plan(store.add_plan(plan()))
    store.change_plan(kept, plan(name="Pier"))
    with pytest.raises(NameTaken, match="another at the same time"):
        store.change_plan(kept, plan(name="Mole"))
    assert store.plan(kept.id).plan.name == "Pier"


def test_a_change_that_fails_leaves_nothing_half_written(store):
    kept = store.plan(store.add_plan(plan()))
    with pytest.raises(IntegrityError):
        store.change_plan(kept, plan(name="Pier"), new_group="web")
    assert store.plan(kept.id).plan.name == "Quay"
    assert store.plan(kept.id).revision == 1


def test_takes_added_by_many_at_once_have_a_number_each(store):
    number = store.add_plan(plan())
    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda _: store.add_take(number, "web", **TAKE).number, range(24)))
    assert sorted(found) == list(range(1, 25))


def test_what_was_kept_under_earlier_names_is_read_under_those_of_now(tmp_path):
    path = tmp_path / "records.sqlite"
    database = SqliteDatabase(str(path))
    Router(database, migrate_dir=str(MIGRATIONS)).run("002_rename")
    document = json.loads(plan().model_dump_json())
    document["machine_types"] = document.pop("machines")
    group = {**document["groups"]["web"], "mode": "out_only", "base_size": 2}

    group["leaving"]["criteria"] = ["oldest", "nearest_paid_hour"]
    document["groups"]["web"] = group
    for version in document["templates"]["front"]["versions"]:
        version["machine_type"] = version.pop("machine")
    database.execute_sql("INSERT INTO plan (name, document, created) VALUES ('p', ?, 'now')", (json.dumps(document),))
    database.execute_sql(
        "INSERT INTO arrangement (plan_id, group_name, number, document, created) VALUES (1, 'web', 1, ?, 'now')",
        (json.dumps(group),),
    )
    database.close()
    store = Store(path)
    read = store.plan(1).plan.groups["web"]
    assert (read.mode, read.owned, read.leaving.criteria[-1]) == ("grow", 2, "least_paid_left")
    assert store.arrangement(1, "web", 1).document["mode"] == "grow"


def test_what_spreads_requests_has_moved_to_the_load_balancer(tmp_path):
    path = tmp_path / "records.sqlite"
    Store(path)
    database = SqliteDatabase(str(path))
    database.execute_sql("DELETE FROM migratehistory WHERE name = '006_balancer'")
    document = json.loads(plan().model_dump_json())
    web = document["groups"]["web"]
    web["load_balancer"] = False
    web["work"] |= {"spread": "in_turn", "sticky": 300}
    document["groups"]["plain"] = {**web, "load_balancer": True, "work": {**web["work"], "spread": "by_chance", "sticky": 0}}
    document["groups"]["none"] = {**web, "work": {**web["work"], "spread": "by_chance", "sticky": 0}}
    database.execute_sql("INSERT INTO plan (name, document, created) VALUES ('p', ?, 'now')", (json.dumps(document),))
    database.close()
    groups = Store(path).plan(1).plan.groups
    assert (groups["web"].spread, groups["web"].sticky) == ("in_turn", 300)
    assert groups["plain"].load_balancer is not None
    assert groups["none"].load_balancer is None


def test_what_a_template_says_of_its_host_has_its_names_of_now(tmp_path):
    path = tmp_path / "records.sqlite"
    Store(path)
    database = SqliteDatabase(str(path))
    database.execute_sql("DELETE FROM migratehistory WHERE name = '011_words'")
    document = json.loads(plan().model_dump_json())
    version, launch = document["templates"]["front"]["versions"][0], document["groups"]["web"]["launch"]
    for fields in (version, launch):
        for name in ("host_use", "nearness", "if_it_stops"):
            del fields[name]
    version["tenancy"] = "own_host"
    launch |= {"placement": "apart", "on_shutdown": "stop"}
    document["groups"]["placement"] = document["groups"]["web"]
    database.execute_sql("INSERT INTO plan (name, document, created) VALUES ('p', ?, 'now')", (json.dumps(document),))
    database.execute_sql(
        "INSERT INTO arrangement (plan_id, group_name, number, document, created) VALUES (1, 'web', 1, ?, 'now')",
        (json.dumps(document["groups"]["web"]),),
    )
    database.close()
    store = Store(path)
    read = store.plan(1).plan
    assert read.templates["front"].versions[0].host_use == "own_host"
    assert {(read.groups[name].launch.nearness, read.groups[name].launch.if_it_stops) for name in ("web", "placement")} == {
        ("apart", "stop")
    }
    assert store.arrangement(1, "web", 1).document["launch"]["nearness"] == "apart"


def test_of_two_records_in_one_process_each_keeps_its_own(tmp_path):
    one, other = Store(tmp_path / "one.sqlite"), Store(tmp_path / "other.sqlite")
    with ThreadPoolExecutor(1) as elsewhere, one.transaction():
        assert elsewhere.submit(other.add_plan, plan()).result() == 1
        assert PlanRow.select().count() == 0
        assert one.add_plan(plan()) == 1
        assert one.add_plan(plan()) == 2
    assert (len(one.plans()), len(other.plans())) == (2, 1)
