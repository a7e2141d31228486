"""The kind of work that a group does. Requests: visitors at a counter, each served and gone within moments."""

from typing import Literal

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Share


class Requests(Model):
    kind: Literal["requests"]
    cpu_seconds: Duration = Field(gt=0, le=3600, description="CPU time of one request on a vCPU of speed 1")
    base_latency: Duration = Field(default=0.0, description="Time of an answer that no number of instances shortens")
    timeout: Duration = Field(default=10.0, gt=0, description="A request that waits longer than this fails")
    idle_cpu: Share = Field(default=0.0, le=0.95, description="Share of its CPU that an instance without load burns")
