"""Searches, as they are kept: what was asked, and what was found so far."""

from dataclasses import dataclass

from peewee import fn

from jostle.core.today import stamp
from jostle.records.store import NotKept, Store, of_group
from jostle.records.table import SearchRow


@dataclass(frozen=True)
class KeptSearch:
    """`asked` and `found` are JSON, as their owner wrote them."""

    number: int
    asked: str
    found: str
    created: str


class SearchStore:
    """The part of the records that is about searches."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def add(self, plan_id: int, group: str, asked: str, found: str) -> int:
        with self._store.transaction():
            number = 1 + (of_group(SearchRow, plan_id, group, fn.MAX(SearchRow.number)).scalar() or 0)
            SearchRow.create(plan=plan_id, group_name=group, number=number, asked=asked, found=found, created=stamp())
            return int(number)

    def keep(self, plan_id: int, group: str, number: int, found: str, asked: str | None = None) -> None:
        """What was found so far; and what is asked, where that is another than before."""
        with self._store.transaction():
            of_this = (SearchRow.plan == plan_id) & (SearchRow.group_name == group) & (SearchRow.number == number)
            SearchRow.update(found=found, **({} if asked is None else {"asked": asked})).where(of_this).execute()

    def all(self, plan_id: int, group: str) -> list[KeptSearch]:
        """Newest first."""
        with self._store.reading():
            return [_kept(row) for row in of_group(SearchRow, plan_id, group).order_by(SearchRow.number.desc())]

    def one(self, plan_id: int, group: str, number: int) -> KeptSearch:
        with self._store.reading():
            row = of_group(SearchRow, plan_id, group).where(SearchRow.number == number).first()
            if row is None:
                raise NotKept(f"{group} has no search {number}")
            return _kept(row)


def _kept(row: SearchRow) -> KeptSearch:
    return KeptSearch(row.number, row.asked, row.text("found"), row.created)
