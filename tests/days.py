"""Days that are unlike others, for the tests of what hangs on the day that it is."""

from datetime import date, datetime
from typing import NamedTuple
from zoneinfo import ZoneInfo


class Day(NamedTuple):
    """An instant, the zone whose clock tells it, and the Monday on which its week began there."""

    at: datetime
    zone: str
    monday: date

    @property
    def instant(self) -> datetime:
        return self.at.replace(tzinfo=ZoneInfo(self.zone))


DAYS = {
    "the clock is put on": Day(datetime(2027, 3, 24, 10), "Atlantic/Faroe", date(2027, 3, 22)),
    "the clock is put back": Day(datetime(2026, 10, 25, 0, 30), "Atlantic/Faroe", date(2026, 10, 19)),
    "New Year": Day(datetime(2027, 1, 1, 9), "Atlantic/Faroe", date(2026, 12, 28)),
    "29 February": Day(datetime(2028, 2, 29, 12), "Atlantic/Faroe", date(2028, 2, 28)),
    "the last of a month": Day(datetime(2027, 4, 30, 17), "Atlantic/Faroe", date(2027, 4, 26)),
    "the end of a Sunday": Day(datetime(2027, 6, 27, 23, 59, 50), "Atlantic/Faroe", date(2027, 6, 21)),
    "the end of a Sunday in Auckland": Day(datetime(2027, 6, 27, 23, 59, 50), "Pacific/Auckland", date(2027, 6, 21)),
}
