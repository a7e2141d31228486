"""Jobs lie on one pile from which every worker takes the oldest."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, number
from jostle.core.plan.metric import Metric
from jostle.core.plan.quantity import Duration
from jostle.core.plan.word import Word, count_word, say, time_word
from jostle.core.plan.work.base import DrawnWork, WorkBase


class Jobs(DrawnWork):
    metrics: ClassVar = (
        Metric.CPU,
        Metric.MEMORY,
        Metric.BACKLOG,
        Metric.BACKLOG_PER_INSTANCE,
        Metric.AGE,
        *WorkBase.metrics[2:],
    )
    promise: ClassVar = {"kind": "age", "share": 0.95, "within": 600.0}
    promised: ClassVar = "jobs taken up in time"
    policies: ClassVar = (
        {
            "name": "add-on-backlog",
            "kind": "trigger",
            "metric": Metric.BACKLOG_PER_INSTANCE.value,
            "fold": "latest",
            "side": "above",
            "threshold": 20,
            "action": "add",
            "amount": 1,
        },
        "remove",
    )
    load: ClassVar = "jobs/s"
    places: ClassVar = "jobs side by side"
    share_of: ClassVar = "jobs side by side"
    in_use: ClassVar = "jobs"
    in_line: ClassVar = "Jobs in line, none longer than promised"
    short: ClassVar = "jobs wait longer than promised"
    short_over: ClassVar = "no job waits longer than promised"
    late: ClassVar = "jobs wait longer than promised"
    done: ClassVar = "jobs"
    editors: ClassVar[dict[str, Editor]] = {
        "job_seconds": number("Time of a job", "s", 1.0, 1.0, 600.0, 1.0),
        "concurrency": number("Side by side", "", 1.0, 0.0, 100.0, 1.0),
    }

    kind: Literal["jobs"]
    job_seconds: Duration = Field(gt=0, le=86400, description="Time of one job on a machine of speed 1")
    concurrency: int = Field(default=1, ge=1, le=1000, description="Jobs that a worker does side by side")

    @classmethod
    def sized(cls, size: Any, seats: int) -> dict[str, Any]:
        return {"kind": "jobs", "job_seconds": size}

    def sentence(self) -> list[Word]:
        return [
            say("Each takes "),
            time_word("work.job_seconds", self.job_seconds),
            say(", and a worker does "),
            count_word("work.concurrency", self.concurrency),
            say(" side by side"),
            *self.idle_words,
            *self.arrival_words,
            *self.uneven_words("; lengths are "),
        ]
