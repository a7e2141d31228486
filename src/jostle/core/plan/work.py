"""The kind of work that a group does, and what a unit of it costs a machine.

Requests are visitors at a counter, each served and gone within moments. Jobs lie on one pile from which every worker
takes the oldest. Sessions are guests who take a seat and stay a while.
"""

from typing import Annotated, Literal

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Share


class WorkBase(Model):
    idle_cpu: Share = Field(default=0.0, le=0.95, description="Share of its CPU that an instance without load burns")
    idle_memory_mib: float = Field(default=0.0, ge=0, le=1e8, description="Memory of an instance without load")
    memory_mib_each: float = Field(default=0.0, ge=0, le=1e6, description="Memory of each request, job or session under way")
    kib_in: float = Field(default=0.0, ge=0, le=1e9, description="Network in for a request or job, or a second of a session")
    kib_out: float = Field(default=0.0, ge=0, le=1e9, description="Network out for the same")


class DrawnWork(WorkBase):
    """Work whose pieces come and differ by chance, unless they are said not to."""

    arrivals: Literal["by_chance", "evenly"] = Field(
        default="by_chance", description="Whether requests or jobs arrive by chance or evenly"
    )
    unevenness: float = Field(
        default=1.0,
        ge=0,
        le=25,
        description="How CPU times of requests, or lengths of jobs, differ: 0 all alike, 1 exponential, 4 very uneven "
        "(variance over squared mean)",
    )


class Requests(DrawnWork):
    kind: Literal["requests"]
    cpu_seconds: Duration = Field(gt=0, le=3600, description="CPU time of one request on a vCPU of speed 1")
    base_latency: Duration = Field(default=0.0, description="Time of an answer that no number of instances shortens")
    timeout: Duration = Field(default=10.0, gt=0, le=86400, description="A request that waits longer than this fails")
    spread: Literal["by_chance", "in_turn", "least_busy"] = Field(
        default="by_chance", description="How the load balancer spreads requests over the instances"
    )
    sticky: Duration = Field(
        default=0.0, le=86400, description="Mean time for which a client stays with its instance; 0 s: goes anywhere each time"
    )


class Jobs(DrawnWork):
    kind: Literal["jobs"]
    job_seconds: Duration = Field(gt=0, le=86400, description="Time of one job on a machine of speed 1")
    concurrency: int = Field(default=1, ge=1, le=1000, description="Jobs that a worker does side by side")


class Sessions(WorkBase):
    kind: Literal["sessions"]
    seats: int = Field(ge=1, le=100000, description="Sessions that one instance can hold")
    length: Duration = Field(gt=0, le=604800, description="Mean length of a session; lengths are exponential")
    place: Literal["spread", "pack"] = Field(
        default="spread", description="A new session goes to the emptiest instance, or to the fullest that has room"
    )
    full_cpu: Share = Field(default=1.0, description="CPU of an instance whose seats are all taken")


Work = Annotated[Requests | Jobs | Sessions, Field(discriminator="kind")]
