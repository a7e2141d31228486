"""The ledger that is kept: hours are entered once as they end, add up to the bills, and are corrected by rows of their own."""

from collections import Counter
from datetime import date, datetime
from decimal import Decimal

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jostle.core.journal.life import life_of
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.live.live import Begun, Live
from jostle.records.ledger_store import LedgerStore
from jostle.records.store import Store
from tests.plans import ADD, REMOVE, plan

HOUR, DAY = 3600.0, 86400.0
SMALLEST = Decimal("1e-12")
RUSH = {"kind": "surge", "at": "2025-07-07T03:00", "factor": 4, "hold": "90 min"}


def made(**more):
    return plan(
        **{
            "days": 2,
            "demands__even__layers": [{"kind": "level", "rate": 30}, RUSH],
            "groups__web__policies": [ADD, REMOVE],
            "groups__web__owned": 3,
            "machines__otter-2__billed_by": "hour",
            "prices": {"disk_gib_month": 0.07, "load_balancer_hour": 0.02, "address_hour": 0.005},
            **more,
        }
    )


def begun(made_plan, days=2.0):
    return Live.begin(made_plan, Begun(at=made_plan.start, days=days, seed=9), Rehearser())


@pytest.fixture
def kept(tmp_path):
    return LedgerStore(Store(tmp_path / "jostle.sqlite"))


def enter(kept, live, number=1, **more):
    with kept.store.transaction():
        kept.enter(number, live, **more)


def number_of(kept, made_plan):
    return kept.store.add_plan(made_plan)


def in_all(kept, number=1):
    return sum((one.amount for one in kept.sums(number, date.min, date.max).values()), Decimal())


def spent(live):
    return sum((life.spent() for life in live.everyone.values()), Decimal())


def rows(kept, number=1):
    return kept.store.asked("SELECT * FROM ledger_amount WHERE plan_id = ? ORDER BY begin, part_id, correction", number)


@settings(max_examples=15, suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture])
@given(st.lists(st.floats(0.1, 47.9), min_size=1, max_size=6), st.booleans())
def test_hours_are_entered_once_and_add_up_however_they_are_seen(kept, stops, again):
    live, number = begun(made()), number_of(kept, made())
    for stop in sorted(stops):
        live.go_on(live.first + stop * HOUR, quickly=True)
        # A service that was stopped knows what is entered by the records alone.
        enter(LedgerStore(kept.store) if again else kept, live, number)
    live.go_on(live.ends, quickly=True)
    enter(kept, live, number)
    kept.forget(number)
    assert abs(in_all(kept, number) - spent(live)) < SMALLEST
    by_hour = list(kept.hours(number, 0, live.ends))
    assert sum((one.sum.amount for one in by_hour), Decimal()) == in_all(kept, number)
    assert sum((found.amount for *_, found in kept.days(number)), Decimal()) == in_all(kept, number)
    hours = kept.store.asked("SELECT begin, group_name FROM ledger_hour WHERE plan_id = ?", number)
    assert len(hours) == len(set(hours)) == 48
    assert {one[3] for one in rows(kept, number)} == {0}


MORE = {"name": "more", "kind": "floor", "from": "2025-07-07T02:00", "for": "30 min", "count": 6}


def test_what_begins_at_the_end_of_an_hour_is_entered_with_the_next(kept):
    made_plan = made(groups__web__calendar=[MORE])
    live, number = begun(made_plan), number_of(kept, made_plan)
    for hour in range(1, 9):
        live.go_on(live.first + hour * HOUR, quickly=True)
        enter(kept, live, number)
        assert kept.until(number) == {"web": live.now}
        tail = live.life("web").ledger(live.now - live.first).total()
        assert abs(in_all(kept, number) + tail - spent(live)) < SMALLEST
        assert (tail > 0) == (hour == 2)
        assert kept.correct(number, live) == 0
    assert (live.life("web").record().result.spells["begin"] == 2 * HOUR).any()
    live.go_on(live.ends, quickly=True)
    enter(kept, live, number)
    assert abs(in_all(kept, number) - spent(live)) < SMALLEST
    assert kept.correct(number, live) == 0


def test_it_is_what_the_journal_says_of_each_instance_times_the_prices(kept):
    made_plan = made(**{"machines__otter-2__billed_by": "second"})
    live, number = begun(made_plan), number_of(kept, made_plan)
    live.go_on(live.first + 9 * HOUR, quickly=True)
    enter(kept, live, number, over=True)
    record, machine, prices = live.life("web").record(), made_plan.machines["otter-2"], made_plan.prices
    disk = Decimal(str(live.life("web").leg.crew.launch.disk_gib))
    hourly = machine.price_per_hour + prices.disk_gib_month * disk / 730
    seconds = 0
    for instance in range(len(record.result.instances)):
        facts = {fact.heading: fact.text for fact in life_of(record, instance).facts}
        seconds += _at(facts["Gone"], 9 * 3600) - _at(facts["Launched"], 0)
    assert len(record.result.instances) > 5
    assert abs(in_all(kept, number) - hourly * seconds / 3600) < SMALLEST


def _at(said, otherwise):
    """Seconds from midnight of the first day of a time such as `Mon 7 Jul 03:12:30`."""
    clock = said.split()[-1].split(":")
    if len(clock) == 1:
        return otherwise
    hours, minutes, seconds = (*map(int, clock), 0)[:3]
    return 3600 * hours + 60 * minutes + seconds


@pytest.mark.parametrize(("start", "hours"), [("2025-03-30T00:00", 23), ("2025-10-26T00:00", 25)])
def test_a_day_on_which_the_clocks_change_has_its_own_hours(kept, start, hours):
    day = made(start=start, demands__even__layers=[{"kind": "level", "rate": 30}])
    live, number = begun(day), number_of(kept, day)
    live.go_on(live.first + 26 * HOUR, quickly=True)
    enter(kept, live, number)
    seen = kept.store.asked("SELECT begin FROM ledger_hour WHERE plan_id = ?", number)
    counted = Counter(datetime.fromtimestamp(begin, day.zone).date() for (begin,) in seen)
    first = date.fromisoformat(start[:10])
    assert counted[first] == hours
    assert sum(one.amount for one in kept.sums(number, first, first).values()) == sum(
        one.sum.amount for one in kept.hours(number, live.first, live.first + hours * HOUR)
    )


def test_an_hour_that_has_not_ended_is_entered_when_it_has_or_when_all_ends(kept):
    live, number = begun(made()), number_of(kept, made())
    live.go_on(live.first + 5.5 * HOUR, quickly=True)
    enter(kept, live, number)
    assert kept.until(number) == {"web": live.first + 5 * HOUR}
    enter(kept, live, number, over=True)
    assert kept.until(number) == {"web": live.first + 5.5 * HOUR}
    assert abs(in_all(kept, number) - spent(live)) < SMALLEST


def test_what_is_seen_only_after_a_stop_is_marked(kept):
    live, number = begun(made()), number_of(kept, made())
    live.go_on(live.first + 2 * HOUR, quickly=True)
    enter(kept, live, number)
    live.go_on(live.first + 4 * HOUR, quickly=True)
    enter(kept, live, number, late=True)
    late = kept.store.asked("SELECT seen_late FROM ledger_hour WHERE plan_id = ? ORDER BY begin", number)
    assert [one[0] for one in late] == [0, 0, 1, 1]


def test_what_could_not_be_kept_is_entered_the_next_time(kept):
    live, number = begun(made()), number_of(kept, made())
    live.go_on(live.first + 3 * HOUR, quickly=True)
    with pytest.raises(OSError, match="no room"):
        _enter_and_fail(kept, number, live)
    kept.forget(number)
    assert kept.until(number) == {}
    enter(kept, live, number)
    assert kept.until(number) == {"web": live.first + 3 * HOUR}


def _enter_and_fail(kept, number, live):
    with kept.store.transaction():
        kept.enter(number, live)
        raise OSError("no room")


def test_what_comes_out_otherwise_is_corrected_by_rows_of_its_own(kept):
    number = number_of(kept, made())
    live, dearer = begun(made()), begun(made(**{"machines__otter-2__price_per_hour": 0.3}))
    for one in (live, dearer):
        one.go_on(one.first + 6.5 * HOUR, quickly=True)
    enter(kept, live, number)
    before = rows(kept, number)
    assert kept.correct(number, live) == 0
    with kept.store.transaction():
        corrected = kept.correct(number, dearer)
    after = rows(kept, number)
    assert [one for one in after if one[3] == 0] == before
    assert len(after) == len(before) + corrected
    tail = dearer.life("web").ledger(6 * HOUR).total()
    assert abs(in_all(kept, number) + tail - spent(dearer)) < SMALLEST
    assert kept.correct(number, dearer) == 0
    with kept.store.transaction():
        assert kept.correct(number, live) == corrected
    assert in_all(kept, number) == sum((one[5] * 10**9 + one[6]) * 10**9 + one[7] for one in before) / Decimal(10**18)


def test_prices_that_change_in_the_middle_of_an_hour_count_from_then_on(kept):
    live, number = begun(made()), number_of(kept, made())
    live.go_on(live.first + 5.5 * HOUR, quickly=True)
    before = spent(live)
    group = made().groups["web"].model_dump(mode="json") | {"load_balancer": {}}
    live.lay("web", {"act": "put to work", "arrangement": 2, "document": group})
    assert spent(live) == before
    live.go_on(live.first + 8 * HOUR, quickly=True)
    enter(kept, live, number, over=True)
    balancer = {
        round((one.begin - live.first) / HOUR): one.sum.amount
        for one in kept.hours(number, 0, live.ends)
        if one.part.what == "load balancer"
    }
    assert balancer == {5: Decimal("0.01"), 6: Decimal("0.02"), 7: Decimal("0.02")}
    assert abs(in_all(kept, number) - spent(live)) < SMALLEST


def test_what_begins_at_the_end_of_an_hour_was_spent_once():
    made_plan = made(groups__web__calendar=[MORE])
    live = begun(made_plan)
    live.go_on(live.first + HOUR / 2, quickly=True)
    group = made_plan.groups["web"].model_dump(mode="json") | {"load_balancer": {}}
    live.lay("web", {"act": "put to work", "arrangement": 2, "document": group})
    for hour in range(1, 6):
        live.go_on(live.first + hour * HOUR, quickly=True)
        assert abs(spent(live) - live.life("web").ledger().total()) < SMALLEST
    assert (live.life("web").record().result.spells["begin"] == 2 * HOUR).any()


def test_each_hour_has_what_was_late_in_it(kept):
    promised = made(groups__web__promises=[{"kind": "answers", "share": 0.95, "within": "300 ms"}])
    live, number = begun(promised), number_of(kept, promised)
    for hour in (2.5, 7.25, 30):
        live.go_on(live.first + hour * HOUR, quickly=True)
        enter(kept, live, number, over=hour == 30)
    late = dict(kept.store.asked("SELECT (begin - ?) / 3600, late FROM ledger_hour WHERE plan_id = ?", live.first, number))
    result = live.life("web").record().result
    assert sum(late.values()) == pytest.approx(result.late_share(0.3) * (result.tally("served") + result.tally("failed")))
    # The rush begins at three.
    assert max(late, key=late.get) == 3
    assert late[3] > 20 * late[10]
    group = promised.groups["web"].model_dump(mode="json")
    group["promises"][0]["within"] = 30
    live.lay("web", {"act": "put to work", "arrangement": 2, "document": group})
    live.go_on(live.first + 32 * HOUR, quickly=True)
    later = [hour.late for hour in live.life("web").ledger().hours[30:]]
    assert later == [0.0, 0.0]


def test_the_largest_prices_have_room(kept):
    dear = made(**{"machines__otter-2__price_per_hour": "999999999999.123456"})
    live, number = begun(dear), number_of(kept, dear)
    live.go_on(live.first + 30 * HOUR, quickly=True)
    enter(kept, live, number, over=True)
    assert in_all(kept, number) == pytest.approx(spent(live), rel=Decimal("1e-25"))


def test_room_is_made_for_another_life_at_the_same_time_only(kept):
    live, number = begun(made()), number_of(kept, made())
    live.go_on(live.first + 3 * HOUR, quickly=True)
    enter(kept, live, number)
    kept.make_room(number, live.first + 3 * HOUR)
    assert kept.span(number) == (live.first, live.first + 3 * HOUR)
    with kept.store.transaction():
        kept.make_room(number, live.first + 2 * HOUR)
    assert kept.span(number) is None
    assert kept.parts(number) == {}
