"""A launch template: how a new instance of a group is made, and how long that takes."""

from pydantic import Field

from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name


class LaunchTemplate(Model):
    machine_type: Name = Field(description="Name of a machine type of the plan")
    boot_time: Duration = Field(description="From the request to a machine that runs")
    warm_up: Duration = Field(default=0.0, description="From running to taking load")
