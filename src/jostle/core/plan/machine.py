"""A machine: a size that the catalogue sells, like a class of berth with its price list."""

import math
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field, ValidationInfo, field_validator

from jostle.core.plan.editor import choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Money, Number, Share, say_duration
from jostle.core.plan.spot import Spot, alone


class Machine(Model):
    vcpus: int = Field(ge=1, le=512, description="Number of vCPUs")
    memory_gib: Number = Field(ge=0.001, le=65536, description="Memory in GiB")
    speed: Number = Field(default=1.0, ge=0.001, le=100, description="Speed of one vCPU against the reference vCPU")
    price_per_hour: Money = Field(description="On-demand price of an hour")
    architecture: Literal["x86-64", "arm64"] = "x86-64"
    billed_by: Literal["second", "hour"] = Field(default="second", description="By the second, or by the started hour")
    least_billed: Duration = Field(default=0.0, le=86400, description="The shortest time that a start is billed for")
    billed_when_stopped: bool = Field(default=False, description="Whether a stopped instance costs as much as a running one")
    boot_time: Duration | None = Field(default=None, le=86400, description="Where the launch template says nothing of it")
    boot_spread: Number = Field(
        default=0.0, ge=0, le=2, description="Standard deviation of boot times as a share of their mean; they are lognormal"
    )
    quota: int | None = Field(default=None, ge=0, le=100000, description="Most instances of this type at once, over all groups")
    baseline: Share | None = Field(
        default=None,
        gt=0,
        description="CPU that a bursting machine gives for good; it gives more while it has credits. All of it if left out",
    )
    first_credits: Duration = Field(
        default=1800.0, le=31536000, description="Credits that a bursting machine boots with: time of one whole vCPU"
    )
    most_credits: Duration = Field(
        default=14400.0, le=31536000, description="Credits that a bursting machine saves up, at the most"
    )
    spot: Annotated[Spot | None, BeforeValidator(alone("level"))] = Field(
        default=None, description="What it costs on the spot market; not sold there if left out"
    )
    network_mbit: Number | None = Field(
        default=None, ge=0.001, le=1e7, description="Most that it sends, Mbit/s; no limit if left out"
    )
    free_hours: Number = Field(
        default=0.0, ge=0, le=1e6, description="Hours of it each month, over all groups, that the provider does not charge for"
    )

    @field_validator("most_credits")
    @classmethod
    def _room_for_the_first(cls, most: float, info: ValidationInfo) -> float:
        first = info.data.get("first_credits", 0.0)
        if info.data.get("baseline") is not None and most < first:
            raise wrong(f"it boots with credits of {say_duration(first)}; it must save up as many at least")
        return most

    def most_each(self, kib: float) -> float:
        """How many a second of what sends so many KiB its network lets through."""
        return math.inf if self.network_mbit is None or kib <= 0.0 else self.network_mbit * 1e6 / 8 / (kib * 1024)


class Prices(Model):
    """What is paid besides machines."""

    disk_gib_month: Money = Field(default=0, validate_default=True, description="A GiB of disk for 730 hours")
    address_hour: Money = Field(default=0, validate_default=True, description="A public address of a running instance")
    load_balancer_hour: Money = Field(default=0, validate_default=True, description="A load balancer, whatever it carries")
    load_balancer_gib: Money = Field(
        default=0, validate_default=True, description="A GiB that a load balancer carries, in or out"
    )
    gib_out: Money = Field(
        default=0, validate_default=True, description="A GiB sent to the world by a public address or a public load balancer"
    )
    free_gib_out: Number = Field(
        default=0.0, ge=0, le=1e9, description="GiB of it each month, over all groups, that are not charged for"
    )


EDITORS = {
    "vcpus": number("vCPUs", "", 1.0, 1.0, 64.0, 1.0),
    "speed": number("Speed of a vCPU", "", 1.0, 0.1, 3.0, 0.05),
    "memory_gib": number("Memory in GiB", "", 1.0, 1.0, 256.0, 1.0),
    "architecture": choices("Architecture", [("x86-64", "x86-64"), ("arm64", "arm64")]),
    "billed_by": choices("Billed", [("second", "by the second"), ("hour", "by the started hour")]),
    "billed_when_stopped": choices("Stopped it costs", [(True, "as much as running"), (False, "its disk only")]),
    "least_billed": number("Billed at least", "s", 1.0, 0.0, 600.0, 10.0),
    "boot_time": number("Boots in", "s", 1.0, 5.0, 600.0, 5.0),
    "boot_spread": number("Give or take", "%", 100.0, 0.0, 100.0, 1.0),
    "quota": number("Quota", "instances", 1.0, 0.0, 200.0, 1.0),
    "baseline": number("Gives for good", "%", 100.0, 5.0, 100.0, 5.0),
    "first_credits": number("Boots with", "min", 1 / 60, 0.0, 240.0, 5.0),
    "most_credits": number("Saves up to", "h", 1 / 3600, 0.0, 48.0, 0.5),
    "network_mbit": number("Mbit/s", "", 1.0, 10.0, 25000.0, 10.0),
    "free_hours": number("Free hours a month", "", 1.0, 0.0, 1500.0, 10.0),
    "free_gib_out": number("Free GiB a month", "", 1.0, 0.0, 1000.0, 10.0),
}
MONEY_FIELDS = {
    "price_per_hour": "Price of an hour",
    "disk_gib_month": "A GiB of disk",
    "address_hour": "A public address",
    "load_balancer_hour": "A load balancer",
    "load_balancer_gib": "A GiB through a load balancer",
    "gib_out": "A GiB to the world",
}
