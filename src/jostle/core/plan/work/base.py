"""What all kinds of work have in common, and what each of them says of itself."""

from abc import abstractmethod
from typing import Any, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.metric import Metric
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Number, Share, say_number
from jostle.core.plan.word import Word, choice_word, number_word, say, share_word

# Fields of what it takes besides CPU, and what they are to begin with
USES = {"idle_memory_mib": 400.0, "memory_mib_each": 1.0, "kib_in": 2.0, "kib_out": 20.0, "kib_disk": 4.0}
_ANY = (Metric.CPU, Metric.MEMORY, Metric.ARRIVALS, Metric.NETWORK_IN, Metric.NETWORK_OUT, Metric.DISK)
ARRIVALS = {"by_chance": "by chance", "evenly": "evenly"}


class WorkBase(Model):
    """`metrics` are those that it has besides outside ones, `promise` the one to begin with and `promised` the button that adds
    it, `policies` those to begin with: names of what can be added, or values.

    `load` is the unit of its demand, `places` what an instance has room for, `share_of` that as a whole, `in_use` what is in
    use of it. `in_line` says of those that wait that no capacity is wanting, `short` that the group is short, `short_over` that
    it no longer is, `late` the same of many.
    """

    metrics: ClassVar[tuple[Metric, ...]] = _ANY
    promise: ClassVar[dict[str, Any]]
    promised: ClassVar[str]
    policies: ClassVar[tuple[str | dict[str, Any], ...]] = ()
    load: ClassVar[str]
    places: ClassVar[str]
    share_of: ClassVar[str]
    in_use: ClassVar[str]
    in_line: ClassVar[str] = ""
    short: ClassVar[str]
    short_over: ClassVar[str]
    late: ClassVar[str]
    done: ClassVar[str]  # what is counted of its instances, the failed ones among them
    moved_for: ClassVar[str] = "each"
    held: ClassVar[bool] = False  # whether its demand is what is there at once rather than what arrives
    editors: ClassVar[dict[str, Editor]] = {}

    idle_cpu: Share = Field(default=0.0, le=0.95, description="Share of its CPU that an instance without load burns")
    idle_memory_mib: Number = Field(default=0.0, ge=0, le=1e8, description="Memory of an instance without load")
    memory_mib_each: Number = Field(default=0.0, ge=0, le=1e6, description="Memory of each request, job or session under way")
    kib_in: Number = Field(default=0.0, ge=0, le=1e9, description="Network in for a request or job, or a second of a session")
    kib_out: Number = Field(default=0.0, ge=0, le=1e9, description="Network out for the same")
    kib_disk: Number = Field(default=0.0, ge=0, le=1e9, description="Read from and written to its disk for the same")

    @classmethod
    @abstractmethod
    def sized(cls, size: Any, seats: int) -> dict[str, Any]:
        """Its plain data, of a piece of work of a size and so many seats where it has any."""

    @abstractmethod
    def sentence(self) -> list[Word]:
        """How much a piece of it takes."""

    @property
    def idle_words(self) -> list[Word]:
        return [say("; an idle instance burns "), share_word("work.idle_cpu", self.idle_cpu), say(" of its CPU")]

    @property
    def use_words(self) -> list[Word]:
        """What of memory and network it takes, in words where there is any."""
        if not any(getattr(self, field) for field in USES):
            return []
        idle, each, came, went, disk = (number_word(f"work.{field}", getattr(self, field)) for field in USES)
        held = [say("An idle instance holds "), idle, say(" MiB of memory, and "), each, say(" MiB more for each under way; ")]
        moved = [came, say(" KiB come in, "), went, say(" KiB go out, and "), disk, say(" KiB are read or written")]
        return [*held, *moved, say(f" for {self.moved_for}.")]

    @property
    def several(self) -> float:
        """A number of its places that it makes sense to begin with."""
        return 10.0

    def editor(self, field: str, value: Any) -> Editor | None:
        """The editor of one of its fields, at a value."""
        known = self.editors.get(field) or _EDITORS.get(field)
        return known and known.around(value)


class DrawnWork(WorkBase):
    """Work whose pieces come and differ by chance, unless they are said not to."""

    arrivals: Literal["by_chance", "evenly"] = Field(
        default="by_chance", description="Whether requests or jobs arrive by chance or evenly"
    )
    unevenness: Number = Field(
        default=1.0,
        ge=0,
        le=25,
        description="How CPU times of requests, or lengths of jobs, differ: 0 all alike, 1 exponential, 4 very uneven "
        "(variance over squared mean)",
    )

    @property
    def arrival_words(self) -> list[Word]:
        return [say(". They arrive "), choice_word("work.arrivals", self.arrivals, ARRIVALS[self.arrivals])]

    def uneven_words(self, before: str) -> list[Word]:
        """How much what each takes differs, in words where there are any."""
        known = {0.0: "all alike", 1.0: "exponential"}
        said = known.get(self.unevenness, f"{say_number(self.unevenness)} uneven")
        return [say(before), Word(text=said, path="work.unevenness", value=self.unevenness), say(".")]


_EDITORS = {
    "idle_cpu": number("Idle CPU", "%", 100.0, 0.0, 50.0, 1.0),
    "idle_memory_mib": number("Memory when idle", "MiB", 1.0, 0.0, 4000.0, 10.0),
    "memory_mib_each": number("Memory of each", "MiB", 1.0, 0.0, 100.0, 0.5),
    "kib_in": number("Network in", "KiB", 1.0, 0.0, 1000.0, 1.0),
    "kib_disk": number("Read or written", "KiB", 1.0, 0.0, 1000.0, 1.0),
    "kib_out": number("Network out", "KiB", 1.0, 0.0, 1000.0, 1.0),
    "arrivals": choices("Arrivals", list(ARRIVALS.items())),
    "unevenness": number("Unevenness", "", 1.0, 0.0, 6.0, 0.1),
}
