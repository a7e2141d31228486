from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jostle.core.calendar.orders import orders
from jostle.core.plan.calendar import CalendarEntry

LEAD = 430.0
FAROE = ZoneInfo("Atlantic/Faroe")
ENTRY: TypeAdapter[CalendarEntry] = TypeAdapter(CalendarEntry)
KINDS = (
    {"kind": "floor", "count": 4},
    {"kind": "bounds", "minimum": 2, "maximum": 6},
    {"kind": "sleep"},
    {"kind": "removals"},
    {"kind": "freeze"},
)


MINUTES = st.sampled_from(["00", "30"])


@st.composite
def entries(draw):
    found = []
    for number in range(draw(st.integers(1, 5))):
        day, hour, minute = draw(st.sampled_from(["03-28", "03-29", "03-30", "10-25"])), draw(st.integers(0, 23)), draw(MINUTES)
        begin = f"2025-{day}T{hour:02}:{minute}"
        ready = {"ready_by": draw(st.booleans())}
        common = {
            "name": f"e{number}",
            "from": begin,
            "repeat": draw(st.sampled_from([None, "FREQ=DAILY", "FREQ=HOURLY;INTERVAL=5"])),
        }
        if draw(st.booleans()):
            found.append(
                {
                    **common,
                    **ready,
                    **draw(st.sampled_from([{"kind": "set", "count": 4}, {"kind": "add", "by": -3}])),
                    "retry": draw(st.sampled_from([0, 1800, 86400])),
                }
            )
        else:
            kind = draw(st.sampled_from(KINDS))
            ready = ready if kind["kind"] in ("floor", "bounds", "sleep") else {}
            found.append({**common, **ready, **kind, "for": draw(st.sampled_from(["20 min", "7 h", "3 d"]))})
    return [ENTRY.validate_python(one) for one in found]


@given(entries(), st.sampled_from(["2025-03-29T12:00", "2025-10-25T18:00"]), st.sampled_from([60.0, 600.0, 3600.0]))
def test_an_instant_is_answered_as_it_is_within_a_span(calendar, start, every):
    origin = datetime.fromisoformat(start).replace(tzinfo=FAROE).timestamp()
    times = every * np.arange(1, 40)
    span = orders(calendar, origin, FAROE, times, LEAD)
    for number, time in enumerate(times):
        alone = orders(calendar, origin, FAROE, np.array([time]), LEAD)
        for field in ("low", "high", "low_by", "high_by", "gates", "gates_by"):
            assert getattr(alone, field)[0] == getattr(span, field)[number], field
        still_tried = span.set_time[number] + every > time or span.set_until[number] >= time
        if still_tried:
            for field in ("set_time", "set_until", "set_count", "set_by", "set_entry"):
                assert getattr(alone, field)[0] == getattr(span, field)[number], field


def test_nothing_set_is_long_past():
    found = orders([], 0.0, FAROE, np.array([60.0]))
    assert found.set_time[0] == -np.inf
    assert (found.low[0], found.high[0], found.gates[0]) == (0, 32000, 0)
