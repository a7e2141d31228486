"""What a person does to a group that lives: each act with what it needs, and what it says of itself in the journal."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from jostle.core.plan.quantity import say_duration, say_number, say_share

Instance = Annotated[int, Field(ge=1, le=10_000_000, description="Its number, counted from 1 in the order of launches")]
Seconds = Annotated[float, Field(gt=0, le=31_622_400)]


class Act(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    def beyond(self, least: int, most: int) -> str:
        """What is said besides where it asks for more or fewer than there may be."""
        return ""


class CountByHand(Act):
    """Set the count, within the limits."""

    act: Literal["set"]
    count: int = Field(ge=0, le=100_000)

    def text(self) -> str:
        return f"count set to {self.count}"

    def beyond(self, least: int, most: int) -> str:
        if self.count > most:
            return f"; {most} is the most, and so many it is"
        return f"; {least} is the least, and so many it is" if self.count < least else ""


class ChangeCount(Act):
    """So many more, or fewer, within the limits."""

    act: Literal["change count"]
    by: int = Field(ge=-1000, le=1000)

    def text(self) -> str:
        return f"{abs(self.by)} {'fewer' if self.by < 0 else 'more'}"


class OneInstance(Act):
    """One thing done to one instance. `kill` ends it at once, `drain` lets it finish its work first; either is followed by
    another unless the count goes down by one as well."""

    act: Literal["kill", "drain", "restart", "pin", "unpin"]
    instance: Instance
    one_fewer: bool = False

    def text(self) -> str:
        done = {"kill": "killed", "drain": "told to drain", "restart": "restarted", "pin": "pinned", "unpin": "pinned no longer"}
        return f"instance {self.instance} {done[self.act]}{', and one fewer is wanted' if self.one_fewer else ''}"


class LoadInstance(Act):
    """Load the CPU of one instance."""

    act: Literal["load"]
    instance: Instance
    cpu: float = Field(default=0.9, gt=0, le=1)
    length: Seconds = Field(default=600.0, alias="for")

    def text(self) -> str:
        return f"instance {self.instance} loaded with {say_share(self.cpu)} of CPU for {say_duration(self.length)}"


class PausePolicy(Act):
    """Pause one policy, or all of them, for so long or for good."""

    act: Literal["pause"]
    policy: str | None = Field(default=None, description="All of them if left out")
    length: Seconds | None = Field(default=None, alias="for")

    def text(self) -> str:
        span = f" for {say_duration(self.length)}" if self.length else ""
        return f"{self.policy or 'all policies'} paused{span}"


class ResumePolicy(Act):
    """Let one policy, or all of them, work again."""

    act: Literal["resume"]
    policy: str | None = None

    def text(self) -> str:
        return f"{self.policy or 'all policies'} at work again"


class HoldGroup(Act):
    """Stop all automatic change of the count at once, or let it go on."""

    act: Literal["hold", "release"]

    def text(self) -> str:
        return "held: no automatic change" if self.act == "hold" else "no longer held"


class DryRun(Act):
    """Have the keeper say what it would do, and order nothing; or have it act again."""

    act: Literal["dry run", "act again"]

    def text(self) -> str:
        return "a dry run: the keeper only says what it would do" if self.act == "dry run" else "the keeper acts again"


class LeaveAlone(Act):
    """Leave the group alone, its instances staying as they are, or keep it again."""

    act: Literal["leave alone", "keep again"]

    def text(self) -> str:
        return "left alone by the keeper" if self.act == "leave alone" else "kept again"


class Silence(Act):
    """Have the stand-in's meters say nothing, or speak again: a fault to try."""

    act: Literal["silence", "speak"]

    def text(self) -> str:
        return "its meters are silent" if self.act == "silence" else "its meters speak again"


class LoadService(Act):
    """Have so many clients send to the group, one after the other started over `ramp`, for so long, and stop."""

    act: Literal["load service"]
    clients: float = Field(gt=0, le=1e7)
    each: float = Field(default=1.0, ge=0, le=1e6, description="Requests, jobs or sessions a second of each that does not wait")
    waits: bool = Field(default=False, description="Whether each waits for its answer and thinks before it asks again")
    think: float = Field(default=1.0, ge=0.001, le=86400)
    ramp: float = Field(default=0.0, ge=0, le=86400)
    length: Seconds = Field(default=1800.0, alias="for")

    def text(self) -> str:
        return f"the load of {say_number(self.clients)} clients for {say_duration(self.ramp + self.length)}"


class StopLoad(Act):
    """Stop every load that hands began."""

    act: Literal["stop load"]

    def text(self) -> str:
        return "the load stopped"


class Trouble(Act):
    """Have something go wrong on the stand-in: a zone lost, launches refused, boots so many times as slow."""

    act: Literal["trouble"]
    kind: Literal["zone_lost", "no_capacity", "slow_boots"]
    zone: str | None = Field(default=None, max_length=64)
    amount: float = Field(default=3.0, ge=1, le=100)
    length: Seconds = Field(default=900.0, alias="for")

    def text(self) -> str:
        what = {"zone_lost": f"zone {self.zone} lost", "no_capacity": "launches refused", "slow_boots": "slow boots"}[self.kind]
        return f"{what} for {say_duration(self.length)}, to try it"


class ActAs(Act):
    """Do now what a policy would do, whether or not its time has come."""

    act: Literal["act as"]
    policy: str = Field(max_length=200)

    def text(self) -> str:
        return f"done as {self.policy} would"


class EntryNow(Act):
    """Have an entry of the calendar begin now, or end the time for which it holds now."""

    act: Literal["begin entry", "end entry"]
    entry: str = Field(max_length=200)

    def text(self) -> str:
        return f"{self.entry} {'begins' if self.act == 'begin entry' else 'ends'} now"


class RollOut(Act):
    """Bring another version of the template in from now on, as a rollout of the calendar does, with a canary first or without."""

    act: Literal["roll out"]
    version: int = Field(ge=1, le=1_000_000)
    canary: bool = True

    def text(self) -> str:
        return f"version {self.version} is brought in{', a canary first' if self.canary else ''}"


class RolloutByHand(Act):
    """Have a say in the rollout that is under way."""

    act: Literal["pause rollout", "go on with rollout", "stop rollout", "turn rollout back"]

    def text(self) -> str:
        return {
            "pause rollout": "the rollout is paused",
            "go on with rollout": "the rollout goes on",
            "stop rollout": "the rollout is stopped",
            "turn rollout back": "the rollout is turned back",
        }[self.act]


class EndGroup(Act):
    """Have every instance drain and end, pinned and stopped ones too, and none come; or begin again with as many as before."""

    act: Literal["end group", "begin again"]

    def text(self) -> str:
        return "the group ends" if self.act == "end group" else "the group begins again"


class LaunchSingles(Act):
    """Start single instances outside any group. `launch` are the fields of what they are made of, `instead` those of them that
    are not as the template has them."""

    act: Literal["launch singles"]
    count: int = Field(ge=1, le=100)
    template: str = Field(max_length=200)
    version: int = Field(ge=1)
    launch: dict[str, Any]
    instead: dict[str, str] = Field(default_factory=dict, max_length=30)

    def text(self) -> str:
        many = "a single instance" if self.count == 1 else f"{self.count} single instances"
        return f"{many} started from {self.template} version {self.version}{self.otherwise}"

    @property
    def otherwise(self) -> str:
        """What is not as the template has it."""
        return "".join(f", {field} {value} for this launch" for field, value in self.instead.items())


class PutToWork(Act):
    """Have a saved arrangement run from now on."""

    act: Literal["put to work"]
    arrangement: int = Field(ge=1, le=1_000_000)
    document: dict[str, Any]

    def text(self) -> str:
        return f"arrangement {self.arrangement} put to work"


OnGroup = (
    CountByHand
    | ChangeCount
    | OneInstance
    | LoadInstance
    | LoadService
    | StopLoad
    | Trouble
    | PausePolicy
    | ResumePolicy
    | HoldGroup
    | DryRun
    | LeaveAlone
    | Silence
    | ActAs
    | EntryNow
    | RollOut
    | RolloutByHand
    | EndGroup
    | PutToWork
)
# What is done to a group, and that or a launch beside the groups
GroupHand = Annotated[OnGroup, Field(discriminator="act")]
Hand = Annotated[OnGroup | LaunchSingles, Field(discriminator="act")]
