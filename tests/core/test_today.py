"""What day it is, in which zone, is asked in one place, and can be set."""

from datetime import UTC
from zoneinfo import ZoneInfo

from jostle.core.today import now, stamp, this_monday, today


def test_a_day_that_is_set_is_the_day_everywhere(any_day):
    zone = ZoneInfo(any_day.zone)
    assert today(zone) == any_day.at.date()
    assert this_monday(zone) == any_day.monday
    assert now(zone).replace(tzinfo=None) == any_day.at
    assert stamp() == any_day.instant.astimezone(UTC).isoformat()
