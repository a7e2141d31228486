"""A load balancer: the door to a group, with a doorman who knows which instance to send the next visitor to."""

import ipaddress
import re
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, BeforeValidator, Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name, Share, each_typed
from jostle.core.plan.template import LAST_PORT
from jostle.core.plan.word import Word, choice_word, count_word, say, share_word, time_word

SPREADS = {"by_chance": "by chance", "in_turn": "in turn", "least_busy": "to the least busy"}
POWERS = {True: "are given more", False: "are given the same as others"}
REACHED = {True: "public", False: "private"}
Protocol = Literal["http", "https", "tcp", "tls"]
# What each hands on
HANDED = {"http": "requests", "https": "requests", "tcp": "whole connections", "tls": "whole connections"}
Port = Annotated[int, Field(ge=1, le=LAST_PORT)]
_LABEL = r"[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?"
_HOST = re.compile(rf"{_LABEL}(\.{_LABEL})*", re.ASCII)


def _as_host(told: str) -> str:
    name = told.lower().removesuffix(".")
    if not _HOST.fullmatch(name) or name.rpartition(".")[2].isdigit():
        raise ValueError("write a name such as www.example.org: letters, digits and hyphens between dots")
    return name


def _as_address(told: str) -> str:
    try:
        return str(ipaddress.ip_address(told))
    except ValueError:
        raise ValueError("write an address such as 203.0.113.7 or 2001:db8::7") from None


def _none_where_empty(told: Any) -> Any:
    return None if isinstance(told, str) and not told.strip() else told.strip() if isinstance(told, str) else told


HostName = Annotated[str, Field(max_length=254), AfterValidator(_as_host)]
Address = Annotated[str, Field(max_length=45), AfterValidator(_as_address)]


class LoadBalancer(Model):
    editors: ClassVar[dict[str, Editor]] = {
        "protocol": choices("Protocol", [(protocol, f"{protocol}, {handed}") for protocol, handed in HANDED.items()]),
        "listens": number("Listens on port", "", 1.0, 1.0, 10000.0, 1.0),
        "target": number("Port of the instances", "", 1.0, 1.0, 10000.0, 1.0),
        "public": choices("Reached", list(REACHED.items())),
        "spread": choices("Spread", list(SPREADS.items())).model_copy(update={"varies": True}),
        "by_power": choices("Machines that can do more", list(POWERS.items())),
        "sticky": number("Stays for", "min", 1 / 60, 0.0, 120.0, 1.0),
        "weights": number("Of a full share", "%", 100.0, 0.0, 100.0, 1.0),
        "subnets": Editor(kind="text", label="Subnets", blank=True),
        "host_name": Editor(kind="text", label="Name that clients ask for", blank=True).found_by("dns hostname domain url"),
        "address": Editor(kind="text", label="Address that stays", blank=True).found_by("static reserved ip fixed"),
    }

    protocol: Protocol = Field(
        default="https",
        description="With http and https each request is given to an instance, with tcp and tls a whole connection",
    )
    listens: Port = Field(default=443, description="The port that clients ask")
    target: Port = Field(default=8080, description="The port of the instances that is asked in turn")
    public: bool = Field(
        default=True, description="Whether the world can reach it; what it sends then goes out at the price of that"
    )
    spread: Literal["by_chance", "in_turn", "least_busy"] = Field(
        default="by_chance", description="How it spreads requests over the instances"
    )
    sticky: Duration = Field(
        default=0.0,
        le=86400,
        description="Mean time for which a client, or a connection, stays with its instance; 0 s: goes anywhere each time",
    )
    by_power: bool = Field(
        default=True, description="Whether machines of a group that can do more are given more; else each gets the same"
    )
    weights: dict[int, Share] = Field(
        default_factory=dict,
        max_length=20,
        description="What an instance of a version of the template gets, as a share of what one of any other gets",
    )
    subnets: Annotated[list[Name] | None, BeforeValidator(each_typed)] = Field(
        default=None, min_length=1, description="Where it stands, by subnet; in every zone of the group if left out"
    )

    host_name: Annotated[HostName | None, BeforeValidator(_none_where_empty)] = Field(
        default=None, description="The name by which clients ask for it, such as www.example.org"
    )
    address: Annotated[Address | None, BeforeValidator(_none_where_empty)] = Field(
        default=None, description="An address that stays with it, such as 203.0.113.7; one that comes with it if left out"
    )

    @property
    def called(self) -> str:
        """Its name and address, as far as they are given: `www.example.org (203.0.113.7)`."""
        name, address = self.host_name, self.address
        return f"{name} ({address})" if name and address else name or address or ""

    @property
    def whole_connections(self) -> bool:
        return HANDED[self.protocol] != "requests"

    def words(self, path: str, check: list[Word], spreads: bool) -> list[Word]:
        """Its sentence, with the words of its check; whether it chooses among instances, as it does for requests, is said."""
        stays = "; a connection lasts " if self.whole_connections else "; a client stays for "
        sticky = [say(stays), time_word(f"{path}.sticky", self.sticky)] if self.sticky else []
        weights = [
            word
            for version, weight in self.weights.items()
            for word in (
                say("; an instance of version "),
                say(f"{version} gets "),
                share_word(f"{path}.weights.{version}", weight),
                say(" of a full share"),
            )
        ]
        power = (
            []
            if self.by_power
            else [
                say("; machines that can do more "),
                Word(text=POWERS[self.by_power], path=f"{path}.by_power", value=self.by_power),
            ]
        )
        stands = (
            []
            if self.subnets is None
            else [
                say("; it stands in "),
                Word(text=", ".join(self.subnets), path=f"{path}.subnets", value=", ".join(self.subnets)),
            ]
        )
        return [
            say("Behind a "),
            Word(text=REACHED[self.public], path=f"{path}.public", value=self.public),
            say(f" load balancer that hands on {HANDED[self.protocol]}: "),
            choice_word(f"{path}.protocol", self.protocol),
            say(" on "),
            count_word(f"{path}.listens", self.listens),
            say(" goes to port "),
            count_word(f"{path}.target", self.target),
            *([say(", spread "), choice_word(f"{path}.spread", self.spread, SPREADS[self.spread])] if spreads else []),
            *(sticky if spreads else []),
            *(weights if spreads else []),
            *(power if spreads else []),
            *stands,
            say("; its name is "),
            Word(text=self.host_name or "not given", path=f"{path}.host_name", value=self.host_name or ""),
            say(", its address "),
            Word(text=self.address or "not fixed", path=f"{path}.address", value=self.address or ""),
            *check,
            say("."),
        ]


def read_balancer(value: Any) -> Any:
    """`true` for one as it comes, `false` for none."""
    return {} if value is True else None if value is False else value
