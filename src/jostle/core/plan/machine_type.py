"""A machine type: a size of machine that the catalogue sells, like a class of berth with its price list."""

from typing import Literal

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Money


class MachineType(Model):
    vcpus: int = Field(ge=1, le=512, description="Number of vCPUs")
    memory_gib: float = Field(gt=0, le=65536, description="Memory in GiB")
    speed: float = Field(default=1.0, gt=0, le=100, description="Speed of one vCPU against the reference vCPU")
    price_per_hour: Money = Field(description="On-demand price of an hour, billed by the second")
    architecture: Literal["x86-64", "arm64"] = "x86-64"
