"""Hosting is carrying: copies of other groups run packed on the instances, like stalls in a market hall."""

from typing import Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.metric import Metric
from jostle.core.plan.word import Word, number_word, say, share_word
from jostle.core.plan.work.base import WorkBase


class Hosting(WorkBase):
    metrics: ClassVar = (
        Metric.CPU,
        Metric.FREE_CPU,
        Metric.FREE_VCPUS,
        Metric.FREE_MEMORY,
        Metric.FREE_GIB,
        Metric.LARGEST_PLACE,
        Metric.WITHOUT_PLACE,
    )
    promise: ClassVar = {"kind": "room", "share": 0.95}
    promised: ClassVar = "room for the loss of a host"
    policies: ClassVar = ({"name": "room", "kind": "spare", "of": "memory", "share": 0.2},)
    load: ClassVar = "GiB of copies"
    places: ClassVar = "GiB"
    share_of: ClassVar = "memory"
    in_use: ClassVar = "GiB"
    short: ClassVar = "copies have no place"
    short_over: ClassVar = "every copy has a place again"
    late: ClassVar = "copies have no place"
    done: ClassVar = "copies"
    held: ClassVar = True

    kind: Literal["hosting"]
    memory_mib_each: float = Field(default=0.0, ge=0, le=0, description="Nothing: what copies take is in their place")
    kib_in: float = Field(default=0.0, ge=0, le=0, description="Nothing: traffic is that of the guests")
    kib_out: float = Field(default=0.0, ge=0, le=0, description="Nothing, as before")
    kib_disk: float = Field(default=0.0, ge=0, le=0, description="Nothing, as before")

    @property
    def use_words(self) -> list[Word]:
        return []

    @classmethod
    def sized(cls, size: Any, seats: int) -> dict[str, Any]:
        return {"kind": "hosting"}

    def sentence(self) -> list[Word]:
        return [
            say("It carries copies of other groups; an instance itself takes "),
            share_word("work.idle_cpu", self.idle_cpu),
            say(" of its CPU and "),
            number_word("work.idle_memory_mib", self.idle_memory_mib),
            say(" MiB of its memory, and the rest is for them."),
        ]
