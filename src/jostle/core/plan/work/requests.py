"""Requests are visitors at a counter, each served and gone within moments."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, number
from jostle.core.plan.metric import Metric
from jostle.core.plan.quantity import Duration
from jostle.core.plan.word import Word, say, time_word
from jostle.core.plan.work.base import DrawnWork, WorkBase


class Requests(DrawnWork):
    metrics: ClassVar = (
        Metric.CPU,
        Metric.MEMORY,
        Metric.REQUESTS_PER_INSTANCE,
        Metric.LATENCY_P95,
        Metric.FAILED_SHARE,
        Metric.BACKLOG,
        Metric.BACKLOG_PER_INSTANCE,
        Metric.AGE,
        *WorkBase.metrics[2:],
    )
    promise: ClassVar = {"kind": "answers", "share": 0.95, "within": 0.5}
    promised: ClassVar = "answers in time"
    policies: ClassVar = ("add", "remove")
    load: ClassVar = "requests/s"
    places: ClassVar = "requests/s"
    share_of: ClassVar = "the capacity"
    in_use: ClassVar = "requests/s"
    in_line: ClassVar = "Requests in line by chance"
    short: ClassVar = "requests wait or fail for want of capacity"
    short_over: ClassVar = "nothing waits any more"
    late: ClassVar = "requests wait"
    done: ClassVar = "answers"
    editors: ClassVar[dict[str, Editor]] = {
        "cpu_seconds": number("CPU of a request", "ms", 1000.0, 1.0, 500.0, 1.0),
        "base_latency": number("Base latency", "ms", 1000.0, 0.0, 500.0, 5.0),
        "timeout": number("Timeout", "s", 1.0, 1.0, 60.0, 1.0),
    }

    kind: Literal["requests"]
    cpu_seconds: Duration = Field(gt=0, le=3600, description="CPU time of one request on a vCPU of speed 1")
    base_latency: Duration = Field(default=0.0, description="Time of an answer that no number of instances shortens")
    timeout: Duration = Field(default=10.0, gt=0, le=86400, description="A request that waits longer than this fails")

    @classmethod
    def sized(cls, size: Any, seats: int) -> dict[str, Any]:
        return {"kind": "requests", "cpu_seconds": size}

    def sentence(self) -> list[Word]:
        return [
            say("Each takes "),
            time_word("work.cpu_seconds", self.cpu_seconds),
            say(" of CPU and "),
            time_word("work.base_latency", self.base_latency),
            say(" besides, and fails after "),
            time_word("work.timeout", self.timeout),
            say(" of waiting"),
            *self.idle_words,
            *self.arrival_words,
            *self.uneven_words("; CPU times are "),
        ]
