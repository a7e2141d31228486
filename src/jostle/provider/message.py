"""What goes over the wire between a keeper and a provider. Times of a group are seconds from the provider's `first` instant."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from jostle.provider.provider import InstanceState

PROTOCOL, VERSION = "jostle-provider", 1
# What a provider may be able to do besides what all can
Ability = Literal["clock", "load", "faults", "restart", "pin", "stress", "mending", "decisions", "figures"]
Key = Annotated[str, Field(min_length=1, max_length=200, description="Of the order; one that is given again does nothing twice")]
Number = Annotated[int, Field(ge=0, le=2**31 - 1, description="Of an instance, counted from 0 in the order of launches")]

# s from the first instant; an instant, s since 1970, within the years that a plan may speak of; a number of things
Time = Annotated[float, Field(ge=-1e9, le=1e9)]
Instant = Annotated[float, Field(ge=0, le=7.3e9)]
Whole = Annotated[int, Field(ge=0, le=2**31 - 1)]


class Note(BaseModel):
    """What a provider tells: numbers are numbers."""

    model_config = ConfigDict(allow_inf_nan=False)


class MetricNote(Note):
    """A metric that readings have, by the name that the plan has for it: `cpu`, `latency_p95`, `backlog`, `arrivals`, …, or that
    of an outside series. Units are a share of 1, a rate a second, seconds, MB a second, or a plain number. A keeper goes by
    levels: what only counts up is refused where a policy needs it."""

    name: str = Field(max_length=200)
    unit: Literal["share", "rate", "duration", "throughput", "number"] | None = Field(
        default=None, description="That of the plan if none is said"
    )
    kind: Literal["gauge", "counter"] = "gauge"


class GroupNote(Note):
    """What a keeper has to know of a group."""

    zones: list[str] = Field(description="In the order in which readings have them")
    metrics: list[MetricNote] = Field(
        max_length=1000, description="What readings have, in their order; as few as there are. A name alone stands for its note"
    )
    period: float = Field(gt=0, le=1e9, description="s between readings")
    evaluate_every: float = Field(gt=0, le=1e9, description="s between the instants at which the clock waits for the keeper")
    weights: dict[str, int] = Field(
        default_factory=dict,
        description="What an instance on each machine counts as where more are ordered, 1 for those not named",
    )
    host: str | None = Field(default=None, description="The group on whose instances its copies run")

    @field_validator("metrics", mode="before")
    @classmethod
    def _by_name(cls, told: Any) -> Any:
        return [{"name": one} if isinstance(one, str) else one for one in told] if isinstance(told, list) else told


class MachineNote(Note):
    vcpus: int
    memory_gib: float
    price_per_hour: str
    quota: int | None


class Description(Note):
    protocol: Literal["jostle-provider"] = "jostle-provider"
    version: int = VERSION
    name: str
    can: list[Ability]
    first: Instant = Field(description="s since 1970 of the instant from which times are counted")
    groups: dict[str, GroupNote]
    machines: dict[str, MachineNote]
    images: list[str]


class ClockNote(Note):
    """Where the clock stands. It goes to `goal` and no further, and for each group not past an instant of evaluation that the
    keeper has not answered."""

    goal: Time
    pace: float = Field(ge=0, le=1e6, description="Seconds of its time in one of ours; 0 where it goes only where it is told to")
    groups: dict[str, Time]
    due: list[str] = Field(description="Groups that wait for the keeper")


class ClockOrder(BaseModel):
    until: float | None = Field(default=None, ge=0, le=1e9, allow_inf_nan=False, description="Go to this instant at once")
    pace: float | None = Field(default=None, ge=0, le=3600, allow_inf_nan=False)


class VersionNote(Note):
    """See `provider.VersionCounts`."""

    version: Whole
    present: Whole
    serving: Whole
    answers: float = 0.0
    failed: float = 0.0
    seconds: float = 0.0
    cpu: float = 0.0
    stay: float = 0.0


class CountsNote(Note):
    """See `provider.Counts`."""

    time: Time
    present: Whole
    serving: Whole
    pinned: Whole
    waiting: Whole = 0
    quota: Whole | None = None
    beyond: Whole = 0
    found: Whole = Field(default=0, description="Instances whose fault was found, and that wait for the keeper to see to them")
    versions: list[VersionNote] = Field(
        default_factory=list, description="The same by version of the template; a canary needs it, where it is compared"
    )


class InstanceNote(Note):
    """See `provider.Instance`."""

    number: Whole
    name: str
    state: InstanceState
    zone: str
    machine: str
    version: Whole
    spot: bool = Field(default=False, description="Whether it is on the spot market, and may be taken back")
    price: float = Field(default=0.0, description="What an hour of its machine costs now")
    price_per_hour: str
    healthy: bool | None = Field(default=None, description="Null before the first check")
    address: str = ""
    attached: list[str] = Field(default_factory=list, description="What it is a member of, or on whose allow list")
    overflow: bool = False
    pinned: bool = False
    sessions: int = 0
    requested: Time | None = None
    booted: Time | None = None
    serves: Time | None = None
    drains: Time | None = None
    paid_left: float = 0.0
    cpu: float | None = None
    restarts: int = 0
    fault: str | None = None
    found: bool = Field(default=False, description="Whether its fault was found and waits for the keeper to see to it")
    stranded: bool = Field(default=False, description="Whether its zone is lost")
    copies: int = Field(default=0, description="How many copies of other groups it carries")
    host: int | None = Field(default=None, description="Of a copy, the number of the instance of its host that it runs on")


class ReadingsNote(Note):
    """Readings number `first` and on: `values[where][metric]` has one for each, of the group first and then, where they are
    read, of its zones; null where there was none. `at` is when each was measured, `metered` the mean number of instances behind
    it."""

    first: Whole
    at: list[Time]
    metered: list[float]
    values: list[list[list[float | None]]]

    @model_validator(mode="after")
    def _one_of_each(self) -> "ReadingsNote":
        number, metrics = len(self.metered), {len(rows) for rows in self.values}
        if len(self.at) != number or len(metrics) > 1 or any(len(row) != number for rows in self.values for row in rows):
            raise ValueError(f"there are {number} readings: at and each row of values have as many, and each place all metrics")
        return self


class LoadNote(Note):
    """Of the span since the first instant: what came, was answered and failed, and the quantiles of its latency (s)."""

    time: float
    arrived: float
    served: float
    failed: float
    latency_p50: float | None = None
    latency_p95: float | None = None


class More(BaseModel):
    key: Key
    number: int = Field(ge=0, le=100_000, description="Instances that are worth so much, each as much as its machine counts")
    by: int = Field(default=-1, ge=-1, le=1000, description="Number of the policy that asks, -1 for none")
    version: int | None = Field(default=None, ge=1, le=10_000, description="Of the template; the group's own if none is said")


class Leaver(BaseModel):
    number: Number
    to_stop: bool = False
    why: int = Field(default=0, ge=0, le=127)


class Fewer(BaseModel):
    key: Key
    leaving: list[Leaver] = Field(max_length=100_000)
    by: int = Field(default=-1, ge=-1, le=1000)
    notice: str = Field(default="", max_length=500, description="What people with them are told")


class OneAct(BaseModel):
    """What is done to one instance. `cpu` and `length` (s) are those of the stress. One whose fault was found is started again by
    `mend`, and ended by `replace`; a provider that says `mending` does neither by itself."""

    key: Key
    act: Literal["kill", "drain", "restart", "pin", "unpin", "load", "mend", "replace"]
    cpu: float = Field(default=0.0, ge=0, le=1)
    length: float = Field(default=0.0, ge=0, le=604800)


class Answered(BaseModel):
    """The keeper has done with an instant: of evaluation, or one at which a fault was found (`mended`). `decision` and `views`
    are what it decided and saw, for whoever keeps a record: fields by name, null for not a number."""

    time: float = Field(ge=0, le=1e9, allow_inf_nan=False)
    decision: dict[str, Any] | None = None
    views: list[dict[str, Any]] = Field(default_factory=list, max_length=100)
    mended: bool = Field(default=False, description="Whether it is the faults found at this instant that are done with")
    from_reading: int = Field(default=0, ge=0, description="The reading from which on they are wanted in the answer")


class Noted(Note):
    """What a keeper wants to be told at an instant: where the group stands."""

    time: Time
    due: bool
    counts: CountsNote
    readings: ReadingsNote


class Accepted(Note):
    accepted: Literal[True] = True
    time: float
    again: bool = Field(description="Whether the order had been given before under its key")


class Fault(BaseModel):
    """Something that goes wrong on purpose, from now on for so many seconds."""

    kind: Literal["zone_lost", "no_capacity", "slow_boots", "silent_meters", "late_readings", "slow_act", "lost_answer"]
    group: str
    length: float = Field(default=600.0, gt=0, le=604800)
    zone: str | None = None
    amount: float = Field(
        default=2.0,
        ge=0,
        le=1000,
        description="So many times as slow boots; seconds for which readings are late, or an act takes",
    )


class Steer(BaseModel):
    """The demand of a group so many times for so many seconds from now on."""

    group: str
    factor: float = Field(ge=0, le=100)
    length: float = Field(gt=0, le=604800)


class CloudEvent(BaseModel):
    """CloudEvents 1.0, structured."""

    specversion: Literal["1.0"] = "1.0"
    id: str
    source: str
    type: str = Field(description="jostle.provider.instance.serves, .leaves, .gone, .broke, …")
    time: str
    datacontenttype: Literal["application/json"] = "application/json"
    data: dict[str, Any]
