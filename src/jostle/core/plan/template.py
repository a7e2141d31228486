"""A launch template: how a new instance of a group is made, in versions that never change once saved.

Like a recipe card: a better recipe gets a new card with a note of why, and the old card stays in the box. A blank on
the card is filled in by the kitchen that uses it.
"""

import re
from collections.abc import Sequence
from datetime import date
from ipaddress import ip_network
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BeforeValidator, ConfigDict, Field, GetJsonSchemaHandler, WithJsonSchema, field_validator, model_validator
from pydantic.json_schema import JsonSchemaValue

from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name, Number, Share, each_typed

_CHECK_PORT = re.compile(r"(?:\bon |:)(\d{1,7})\b", re.ASCII)


MOST_DISK = 65536
# What may stay unset without anything being open
OPTIONAL = frozenset(
    {"more_disks", "interfaces", "host_use", "nearness", "if_it_stops", "protected", "logs", "cpu_factor", "failures"}
)


class LaunchFields(Model):
    """What decides how an instance is made. A field without a value is open."""

    formerly: ClassVar = {"tenancy": "host_use", "placement": "nearness", "on_shutdown": "if_it_stops"}

    image: str | None = Field(default=None, min_length=1, max_length=200)
    machine: Name | None = Field(default=None, description="Name of a machine of the plan")
    disk_gib: Number | None = Field(default=None, gt=0, le=MOST_DISK)
    public_address: bool | None = None
    subnets: list[Name] | None = Field(default=None, min_length=1, description="Names of subnets; their zones are the group's")
    firewall: list[Name] | None = Field(default=None, description="Names of firewall rules")
    key: str | None = Field(default=None, max_length=200, description="Name of the key for administration")
    identity: str | None = Field(default=None, max_length=200, description="What the instance may act as")
    start_up: str | None = Field(default=None, max_length=20000, description="Script that runs at the first boot")
    tags: dict[str, str] | None = None
    boot_time: Duration | None = Field(default=None, le=86400, description="Mean time from the request to a machine that runs")
    start_time: Duration | None = Field(
        default=None, le=86400, description="The same for an instance that was stopped; a third of the boot time if left out"
    )
    warm_up: Duration | None = Field(default=None, le=86400, description="From running to taking load; none if left out")
    health_check: str | None = Field(
        default=None, max_length=200, description="What the load balancer asks, such as /ready on 8080"
    )
    more_disks: dict[Name, Number] | None = Field(
        default=None, max_length=16, description="Further disks, GiB of each by its name"
    )
    interfaces: int | None = Field(default=None, ge=1, le=15, description="Network interfaces; one if left out")
    host_use: Literal["shared", "own_host"] | None = Field(
        default=None, description="Beside machines of others, or on a host of its own; changes no figure here"
    )
    nearness: Literal["anywhere", "apart", "together"] | None = Field(
        default=None, description="Within a zone: apart from each other, or close together; changes no figure here"
    )
    if_it_stops: Literal["stop", "end"] | None = Field(
        default=None, description="What becomes of an instance that shuts itself down; it ends if left out"
    )
    protected: bool | None = Field(default=None, description="Whether no hand may end it while it is kept")
    logs: str | None = Field(default=None, max_length=200, description="Where its logs go")
    cpu_factor: Number | None = Field(
        default=None,
        gt=0,
        le=100,
        description="For a rehearsal: how many times the CPU that its work is said to take, 1.2 for a fifth more",
    )
    failures: Share | None = Field(
        default=None, le=0.99, description="For a rehearsal: share of what is given to it that fails of its own"
    )

    @field_validator("more_disks")
    @classmethod
    def _disks_of_a_size(cls, disks: dict[str, float] | None) -> dict[str, float] | None:
        for name, size in (disks or {}).items():
            if not 0 < size <= MOST_DISK:
                raise wrong(f"{name}: a disk has above 0 and up to {MOST_DISK} GiB; write such as data: 200")
        return disks

    @field_validator("health_check")
    @classmethod
    def _a_port(cls, check: str | None) -> str | None:
        port = _CHECK_PORT.search(check or "")
        if port and not 1 <= int(port[1]) <= LAST_PORT:
            raise wrong(f"a port lies between 1 and {LAST_PORT}: write a check such as /ready on 8080")
        return check

    @property
    def still_open(self) -> list[str]:
        """Fields that somebody has to fill in, or to do without."""
        return [name for name in LaunchFields.model_fields if name not in OPTIONAL and getattr(self, name) is None]

    @property
    def all_disks_gib(self) -> float:
        return (self.disk_gib or 0.0) + sum((self.more_disks or {}).values())

    @property
    def check_port(self) -> int | None:
        """The port that the health check asks; None where it names none."""
        port = _CHECK_PORT.search(self.health_check or "")
        return int(port[1]) if port else None


class TemplateVersion(LaunchFields):
    # The body of a request by itself, which has to be there when the page's routes are made
    model_config = ConfigDict(defer_build=False)

    note: str = Field(default="", max_length=500, description="Why this version was made")
    author: str = Field(default="", max_length=100, description="Who made it")
    made: date | None = Field(default=None, description="When it was made")


class LaunchTemplate(Model):
    """Its versions, numbered from 1. A template that has one version may be written as that version alone."""

    versions: list[TemplateVersion] = Field(min_length=1, max_length=200)

    @model_validator(mode="before")
    @classmethod
    def _one_version(cls, value: Any) -> Any:
        return {"versions": [value]} if isinstance(value, dict) and "versions" not in value else value

    @classmethod
    def __get_pydantic_json_schema__(cls, core_schema: Any, handler: GetJsonSchemaHandler) -> JsonSchemaValue:
        whole = handler(core_schema)
        whole = handler.resolve_ref_schema(whole)
        version = whole["properties"]["versions"]["items"]
        return {"description": whole.get("description", ""), "anyOf": [version, {k: v for k, v in whole.items() if k != "title"}]}


class Subnet(Model):
    zone: Name
    region: Annotated[Name | None, BeforeValidator(lambda region: region or None)] = Field(
        default=None, description="The region of its zone"
    )


class Database(Model):
    """What instances ask and keep their data with; it stands beside the groups."""

    subnets: Annotated[list[Name], BeforeValidator(each_typed)] = Field(min_length=1, description="Where it stands, by subnet")
    port: Annotated[int, Field(ge=1, le=65535)] = 5432


LAST_PORT = 65535
_PORTS = re.compile(r"(\d{1,5})\s*(?:-|to)\s*(\d{1,5})", re.ASCII)


def _read_ports(value: Any) -> Any:
    """A port, a range such as `8000-8100`, or `all`."""
    text = str(value).strip().lower()
    if text == "all":
        return text
    if text.isdecimal() and text.isascii() and len(text) <= 5:
        low, high = int(text), int(text)
    elif match := _PORTS.fullmatch(text[:32]):
        low, high = int(match[1]), int(match[2])
    else:
        raise wrong("write a port such as 443, a range such as 8000-8100, or all")
    if not 1 <= low <= high <= LAST_PORT:
        raise wrong(f"ports lie between 1 and {LAST_PORT}, the lower of a range first")
    return low if low == high else f"{low}-{high}"


Ports = Annotated[
    int | str,
    BeforeValidator(_read_ports),
    WithJsonSchema(
        {"anyOf": [{"type": "integer", "minimum": 1, "maximum": LAST_PORT}, {"type": "string", "examples": ["8000-8100", "all"]}]}
    ),
]


def spans_of(ports: Sequence[int | str]) -> list[tuple[int, int]]:
    """First and last port of each."""
    ends = [(1, LAST_PORT) if port == "all" else str(port).partition("-")[::2] for port in ports]
    return [(int(low), int(high or low)) for low, high in ends]


class FirewallRule(Model):
    """Lets so many ports in from an address range."""

    ports: Annotated[list[Ports], BeforeValidator(each_typed)] = Field(
        min_length=1, max_length=100, description="Each a port, a range such as 8000-8100, or all"
    )
    source: str = Field(description="Address range in CIDR notation, such as 10.20.0.0/16")

    @field_validator("source")
    @classmethod
    def _a_range(cls, source: str) -> str:
        try:
            return str(ip_network(source))
        except ValueError:
            raise wrong("write an address range such as 10.20.0.0/16") from None

    @property
    def spans(self) -> list[tuple[int, int]]:
        """First and last port of each that it lets in."""
        return spans_of(self.ports)

    def lets_in(self, port: int) -> bool:
        return any(low <= port <= high for low, high in self.spans)

    @property
    def from_anywhere(self) -> bool:
        return ip_network(self.source).prefixlen == 0


class TemplateRules(Model):
    """What every version of a launch template has to keep to."""

    required_tags: list[Annotated[str, Field(min_length=1, max_length=100)]] = Field(
        default_factory=list, max_length=50, description="Tags that each has to have"
    )
    machines: list[Name] | None = Field(
        default=None, min_length=1, max_length=1000, description="Machines that may be named; all if left out"
    )
    shut_ports: list[Ports] = Field(default_factory=list, max_length=100, description="Ports that no rule may open to the world")


class Launch(Model):
    """A template's version with its blanks filled: what a group really launches."""

    template: str
    version: int
    versions: int = Field(default=1, description="How many the template has")
    fields: LaunchFields
    machine: str
    boot_time: float
    start_time: float
    warm_up: float
    disk_gib: float
    zones: list[str] = Field(min_length=1)

    @property
    def cpu(self) -> float:
        """How many times the CPU that the work of the group is said to take its instances take for it."""
        return 1.0 if self.fields.cpu_factor is None else self.fields.cpu_factor

    @property
    def failing(self) -> float:
        """Share of what is given to its instances that fails of their own."""
        return self.fields.failures or 0.0

    @property
    def missing(self) -> list[str]:
        """Fields that neither the template nor the group gives."""
        return [name for name in ("image", "disk_gib", "subnets", "firewall", "identity") if getattr(self.fields, name) is None]


def version_differences(before: TemplateVersion, after: TemplateVersion) -> list[tuple[str, Any, Any]]:
    """Field, value before and value after, for each field that differs; notes aside."""
    pairs = ((name, getattr(before, name), getattr(after, name)) for name in LaunchFields.model_fields)
    return [(name, old, new) for name, old, new in pairs if old != new]
