"""Sessions are guests who take a seat and stay a while."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.metric import Metric
from jostle.core.plan.quantity import Duration, Share
from jostle.core.plan.word import Word, choice_word, count_word, say, share_word, time_word
from jostle.core.plan.work.base import WorkBase

PLACES = {"spread": "emptiest", "pack": "fullest that has room"}


class Sessions(WorkBase):
    metrics: ClassVar = (
        Metric.CPU,
        Metric.MEMORY,
        Metric.FAILED_SHARE,
        Metric.SESSIONS_PER_INSTANCE,
        Metric.FREE_SEATS,
        Metric.FREE_SEATS_SHARE,
        *WorkBase.metrics[2:],
    )
    promise: ClassVar = {"kind": "seats", "share": 0.99}
    promised: ClassVar = "seats found"
    policies: ClassVar = ({"name": "spare-seats", "kind": "spare", "share": 0.2},)
    load: ClassVar = "sessions"
    places: ClassVar = "seats"
    share_of: ClassVar = "seats"
    in_use: ClassVar = "sessions"
    short: ClassVar = "sessions find no seat"
    short_over: ClassVar = "sessions find seats again"
    late: ClassVar = "sessions find no seat"
    done: ClassVar = "sessions"
    held: ClassVar = True
    moved_for: ClassVar = "each second of a session"
    editors: ClassVar[dict[str, Editor]] = {
        "length": number("Mean length", "min", 1 / 60, 1.0, 120.0, 1.0),
        "seats": number("Seats", "", 1.0, 0.0, 100.0, 1.0),
        "full_cpu": number("CPU of a full instance", "%", 100.0, 1.0, 100.0, 1.0),
        "place": choices("Place", list(PLACES.items())),
    }

    kind: Literal["sessions"]
    seats: int = Field(ge=1, le=100000, description="Sessions that one instance can hold")
    length: Duration = Field(gt=0, le=604800, description="Mean length of a session; lengths are exponential")
    place: Literal["spread", "pack"] = Field(
        default="spread", description="A new session goes to the emptiest instance, or to the fullest that has room"
    )
    full_cpu: Share = Field(default=1.0, description="CPU of an instance whose seats are all taken")

    @classmethod
    def sized(cls, size: Any, seats: int) -> dict[str, Any]:
        return {"kind": "sessions", "length": size, "seats": seats}

    @property
    def several(self) -> float:
        return float(self.seats)

    def sentence(self) -> list[Word]:
        return [
            say("Each lasts "),
            time_word("work.length", self.length),
            say(" on average; an instance has "),
            count_word("work.seats", self.seats),
            say(" seats, and a new session goes to the "),
            choice_word("work.place", self.place, PLACES[self.place]),
            *self.idle_words,
            say(", a full one "),
            share_word("work.full_cpu", self.full_cpu),
            say("."),
        ]
