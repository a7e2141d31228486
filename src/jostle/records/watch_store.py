"""What was told of a plan that lives, and the deliveries of it to other programs."""

from collections.abc import Set
from dataclasses import dataclass

from peewee import IntegrityError

from jostle.live.watching import Notice
from jostle.records.store import NameTaken, NotKept, Store
from jostle.records.table import DeliveryRow, LiveRow, NoticeRow, TargetRow
from jostle.telling.webhook import new_secret

# The newest of a plan, and the newest of a target
NOTICES_KEPT, DELIVERIES_KEPT = 2000, 200


@dataclass(frozen=True)
class Target:
    id: int
    url: str
    secret: str


@dataclass(frozen=True)
class Delivery:
    """A notice on its way; `due` is when it is sent next, s since 1970, None once it is done or given up."""

    id: int
    target: Target
    number: str
    text: str
    body: bytes
    tries: int
    due: float | None
    done: bool
    said: str


class WatchStore:
    """The part of the records that is about notices."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def told(self, live_id: int) -> float:
        """The instant up to which everything was told, s since 1970 on the clock of what lives."""
        with self._store.reading():
            row = LiveRow.select(LiveRow.told).where(LiveRow.id == live_id).first()
            return 0.0 if row is None else float(row.told)

    def tell(self, plan_id: int, live_id: int, notices: list[Notice], since: float, told: float) -> list[int] | None:
        """Keep what was told between two instants in one write; returns the numbers of the notices, or None where another service
        has told further meanwhile and nothing was kept."""
        with self._store.transaction():
            numbers: list[int] = []
            row = LiveRow.select(LiveRow.told).where(LiveRow.id == live_id).first()
            if row is None or row.told != since:
                return None
            for one in notices:
                row = NoticeRow.create(
                    plan=plan_id, at=one.at, since=one.since, group_name=one.group, kind=one.kind, over=one.over, text=one.text
                )
                numbers.append(int(row.id))
            LiveRow.update(told=told).where(LiveRow.id == live_id).execute()
            if numbers:
                kept = NoticeRow.select(NoticeRow.id).where(NoticeRow.plan == plan_id).order_by(NoticeRow.id.desc())
                first = kept.offset(NOTICES_KEPT).first()
                if first is not None:
                    NoticeRow.delete().where((NoticeRow.plan == plan_id) & (NoticeRow.id <= first.id)).execute()
            return numbers

    def notices(self, plan_id: int, number: int) -> list[tuple[int, Notice]]:
        """The newest, with their numbers, newest first."""
        with self._store.reading():
            rows = NoticeRow.select().where(NoticeRow.plan == plan_id).order_by(NoticeRow.id.desc()).limit(number)
            return [(r.id, Notice(r.at, r.since, r.group_name, r.kind, bool(r.over), r.text)) for r in rows]

    def targets(self, plan_id: int) -> list[Target]:
        with self._store.reading():
            rows = TargetRow.select().where(TargetRow.plan == plan_id).order_by(TargetRow.id)
            return [Target(row.id, row.url, row.secret) for row in rows]

    def target(self, plan_id: int, number: int) -> Target:
        found = next((one for one in self.targets(plan_id) if one.id == number), None)
        if found is None:
            raise NotKept(f"there is no target {number}")
        return found

    def add_target(self, plan_id: int, url: str) -> Target:
        try:
            with self._store.transaction():
                row = TargetRow.create(plan=plan_id, url=url, secret=new_secret())
        except IntegrityError:
            raise NameTaken(f"{url} is told already") from None
        return Target(row.id, row.url, row.secret)

    def drop_target(self, plan_id: int, number: int) -> None:
        """Send nothing there any more; what was on its way is dropped."""
        self.target(plan_id, number)
        with self._store.transaction():
            DeliveryRow.delete().where(DeliveryRow.target == number).execute()
            TargetRow.delete().where(TargetRow.id == number).execute()

    def send(self, target: Target, number: str, text: str, body: bytes, due: float) -> None:
        """Keep that a notice is to be sent to a target."""
        with self._store.transaction():
            DeliveryRow.create(target=target.id, number=number, text=text, body=body.decode(), due=due)
            kept = DeliveryRow.select(DeliveryRow.id).where(DeliveryRow.target == target.id).order_by(DeliveryRow.id.desc())
            first = kept.offset(DELIVERIES_KEPT).first()
            if first is not None:
                DeliveryRow.delete().where((DeliveryRow.target == target.id) & (DeliveryRow.id <= first.id)).execute()

    def next_due(self, busy: Set[int] = frozenset()) -> Delivery | None:
        """What is to be sent next, whenever that is, to a target that is none of those."""
        with self._store.reading():
            waits = DeliveryRow.due.is_null(False) & DeliveryRow.target.not_in(list(busy))
            waiting = DeliveryRow.select(DeliveryRow, TargetRow).join(TargetRow).where(waits)
            row = waiting.order_by(DeliveryRow.due, DeliveryRow.id).first()
            return None if row is None else _delivery(row)

    def claim(self, delivery: Delivery, until: float) -> bool:
        """Have nobody else send one before an instant; whether nobody else does."""
        with self._store.transaction():
            mine = (DeliveryRow.id == delivery.id) & (DeliveryRow.due == delivery.due)
            return bool(DeliveryRow.update(due=until).where(mine).execute())

    def deliveries(self, plan_id: int, number: int) -> list[Delivery]:
        """The newest first."""
        with self._store.reading():
            rows = DeliveryRow.select(DeliveryRow, TargetRow).join(TargetRow).where(TargetRow.plan == plan_id)
            return [_delivery(row) for row in rows.order_by(DeliveryRow.id.desc()).limit(number)]

    def tried(self, delivery: Delivery, done: bool, said: str, due: float | None) -> None:
        """Keep what came of sending one, and when it is tried again."""
        with self._store.transaction():
            changed = DeliveryRow.update(tries=delivery.tries + 1, done=done, said=said, due=due)
            changed.where(DeliveryRow.id == delivery.id).execute()


def _delivery(row: DeliveryRow) -> Delivery:
    target = Target(row.target.id, row.target.url, row.target.secret)
    return Delivery(row.id, target, row.number, row.text, row.body.encode(), row.tries, row.due, bool(row.done), row.said)
