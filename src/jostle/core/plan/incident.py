"""What strikes a group while it works, and changes no rate: bad days by the clock."""

from abc import abstractmethod
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import BeforeValidator, Field

from jostle.core.plan.clock import Clock
from jostle.core.plan.editor import Editor, Value, choices, number
from jostle.core.plan.layer import Factor, Sheet, times_word
from jostle.core.plan.model import kind_of
from jostle.core.plan.quantity import Duration, Name, Share, say_duration, say_number, say_share
from jostle.core.plan.wall import Moment
from jostle.core.plan.word import Word, choice_word, moment_word, say, share_word, time_word

EVERYWHERE = "every zone"
FAULTS = {"stopped": "their machines stop", "frozen": "their machines freeze", "hung": "their services hang"}


class IncidentBase(Sheet):
    timed: ClassVar = True

    at: Moment

    @abstractmethod
    def text(self) -> str:
        """What happens, in a few words."""

    @abstractmethod
    def what(self, path: str) -> list[Word]:
        """The same, with words for its settings."""

    def words(self, path: str) -> list[Word]:
        return [moment_word(f"{path}.at", self.at), say(": "), *self.what(path)]

    def lies(self, clock: Clock) -> tuple[float, float, bool]:
        return clock.epoch_of(self.at), 0.0, False


class LastingIncident(IncidentBase):
    length: Duration = Field(alias="for", gt=0, le=31_622_400)

    def words(self, path: str) -> list[Word]:
        return [*super().words(path), say(" for "), time_word(f"{path}.for", self.length)]

    def lies(self, clock: Clock) -> tuple[float, float, bool]:
        return clock.epoch_of(self.at), self.length, True

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        if field == "for":
            return number("Lasts", "min", 1 / 60, 5.0, 720.0, 5.0).around(value)
        return super().editor(field, value, zones)


class ZoneLost(LastingIncident):
    """A zone with all its machines is gone for a time."""

    offer: ClassVar = "zone lost"
    trade: ClassVar = "outage availability"
    start: ClassVar = {"for": 1800.0}

    kind: Literal["zone_lost"]
    zone: Name

    def text(self) -> str:
        return f"zone {self.zone} is lost"

    def what(self, path: str) -> list[Word]:
        return [say("zone "), choice_word(f"{path}.zone", self.zone), say(" is lost")]

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        return _zone_editor(zones, False) if field == "zone" else super().editor(field, value, zones)


class NoCapacity(LastingIncident):
    """A zone, or every zone, refuses launches for a time."""

    offer: ClassVar = "no capacity"
    trade: ClassVar = "insufficient capacity launches refused"
    start: ClassVar = {"for": 3600.0}

    kind: Literal["no_capacity"]
    zone: Name | None = None

    def text(self) -> str:
        return f"zone {self.zone} takes no launches" if self.zone else "no zone takes launches"

    def what(self, path: str) -> list[Word]:
        return [say("no capacity in "), Word(text=self.zone or EVERYWHERE, path=f"{path}.zone", value=self.zone)]

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        return _zone_editor(zones, True) if field == "zone" else super().editor(field, value, zones)


class SlowBoots(LastingIncident):
    """Boots take so many times as long."""

    offer: ClassVar = "slow boots"
    trade: ClassVar = "provisioning delay"
    start: ClassVar = {"factor": 4.0, "for": 3600.0}
    editors: ClassVar = {"factor": number("Times", "", 1.0, 0.0, 10.0, 0.1)}

    kind: Literal["slow_boots"]
    factor: Factor = Field(ge=1)

    def text(self) -> str:
        return f"boots take {say_number(self.factor)} times as long"

    def what(self, path: str) -> list[Word]:
        return [say("boots take "), times_word(f"{path}.factor", self.factor)]


class SlowDependency(LastingIncident):
    """Something that every answer needs takes so much longer."""

    offer: ClassVar = "slow dependency"
    trade: ClassVar = "database latency upstream"
    start: ClassVar = {"extra": 0.3, "for": 1800.0}
    editors: ClassVar = {"extra": number("Longer by", "ms", 1000.0, 10.0, 5000.0, 10.0)}

    kind: Literal["slow_dependency"]
    extra: Duration = Field(gt=0)

    def text(self) -> str:
        return f"a dependency answers {say_duration(self.extra)} late"

    def what(self, path: str) -> list[Word]:
        return [say("every answer takes "), time_word(f"{path}.extra", self.extra), say(" more")]


class Breaking(IncidentBase):
    """A share of the serving instances breaks at one instant."""

    offer: ClassVar = "instances break"
    trade: ClassVar = "failure crash hang"
    start: ClassVar = {"share": 0.3, "fault": "hung"}
    editors: ClassVar = {
        "share": number("Share", "%", 100.0, 1.0, 100.0, 1.0),
        "fault": choices("What happens", list(FAULTS.items())),
    }

    kind: Literal["breaking"]
    share: Share = Field(gt=0)
    fault: Literal["stopped", "frozen", "hung"] = Field(
        default="stopped",
        description="The machine stopped; it runs but is frozen; or it is well and only its service hangs",
    )

    def text(self) -> str:
        return f"{say_share(self.share)} of the serving instances break: {FAULTS[self.fault]}"

    def what(self, path: str) -> list[Word]:
        fault = choice_word(f"{path}.fault", self.fault, FAULTS[self.fault])
        return [share_word(f"{path}.share", self.share), say(" of the instances break: "), fault]


def _zone_editor(zones: list[str], also_every: bool) -> Editor:
    every: list[tuple[Value, str]] = [(None, EVERYWHERE)] if also_every else []
    return choices("Zone", [*every, *((zone, zone) for zone in zones)])


class MarketIncident(LastingIncident):
    """Something on the spot market of a zone, or of every zone."""

    zone: Name | None = None
    machine: Annotated[Name | None, BeforeValidator(lambda name: name or None)] = Field(
        default=None, description="A machine of the catalogue; all of them if left out"
    )

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        if field == "machine":
            return Editor(kind="text", label="Machine", blank=True)
        return _zone_editor(zones, True) if field == "zone" else super().editor(field, value, zones)

    @property
    def there(self) -> str:
        """Where it is, and for what."""
        return f"{self.zone or EVERYWHERE}{f', {self.machine}' if self.machine else ''}"

    def where(self, path: str) -> list[Word]:
        return [
            Word(text=self.zone or EVERYWHERE, path=f"{path}.zone", value=self.zone),
            say(", "),
            Word(text=self.machine or "any machine", path=f"{path}.machine", value=self.machine),
        ]


class SpotStorm(MarketIncident):
    """A share of a zone's spot instances is reclaimed within minutes."""

    offer: ClassVar = "storm of reclaims"
    trade: ClassVar = "spot interruption eviction preemption"
    start: ClassVar = {"share": 0.5, "for": 600.0}

    kind: Literal["spot_storm"]
    share: Share = Field(gt=0, lt=1, description="Of the spot instances that are there")

    def text(self) -> str:
        return f"{say_share(self.share)} of the spot instances in {self.there} reclaimed"

    def what(self, path: str) -> list[Word]:
        return [share_word(f"{path}.share", self.share), say(" of the spot instances reclaimed in "), *self.where(path)]

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        if field == "share":
            return number("Of the spot instances", "%", 100.0, 5.0, 95.0, 5.0).around(value)
        return super().editor(field, value, zones)


class NoSpot(MarketIncident):
    """Nothing is to be had on the spot market for a time."""

    offer: ClassVar = "no spot"
    trade: ClassVar = "spot capacity unavailable"
    start: ClassVar = {"for": 7200.0}

    kind: Literal["no_spot"]

    def text(self) -> str:
        return f"no spot to be had in {self.there}"

    def what(self, path: str) -> list[Word]:
        return [say("no spot to be had in "), *self.where(path)]


class PriceShock(MarketIncident):
    """Spot costs so many times as much for a time."""

    offer: ClassVar = "price shock"
    trade: ClassVar = "spot price spike"
    start: ClassVar = {"factor": 3.0, "for": 7200.0}

    kind: Literal["price_shock"]
    factor: Factor

    def text(self) -> str:
        return f"spot costs {say_number(self.factor)} times as much in {self.there}"

    def what(self, path: str) -> list[Word]:
        return [say("spot costs "), times_word(f"{path}.factor", self.factor), say(" as much in "), *self.where(path)]

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        if field == "factor":
            return number("Times", "", 1.0, 0.1, 10.0, 0.1).around(value)
        return super().editor(field, value, zones)


MARKET_INCIDENTS = (SpotStorm, NoSpot, PriceShock)
Kinds = ZoneLost | NoCapacity | SlowBoots | SlowDependency | Breaking | SpotStorm | NoSpot | PriceShock
Incident = Annotated[Kinds, Field(discriminator="kind")]
INCIDENT_KINDS: dict[str, type[Kinds]] = {kind_of(kind): kind for kind in get_args(Kinds)}
