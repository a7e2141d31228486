"""What a hand does to a group at a given time: the script of a load test, or of a bad day."""

from abc import abstractmethod
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Share, say_duration, say_number, say_share
from jostle.core.plan.sending import Sending
from jostle.core.plan.wall import Moment
from jostle.core.plan.word import Word, choice_word, count_word, moment_word, number_word, say, share_word, time_word

Which = Annotated[
    int | Literal["oldest", "newest"],
    Field(description="Number of the instance, counted from 1 in the order of launches, or oldest or newest"),
]


class HandBase(Model):
    """`offer` is what offers it, `trade` what the trade says for that, `start` its values then."""

    offer: ClassVar[str]
    trade: ClassVar[str]
    start: ClassVar[dict[str, Any]]

    at: Moment

    @property
    def lasts(self) -> float | None:
        """How long (s) it goes on; None for what is done at once."""
        return None

    @abstractmethod
    def text(self) -> str:
        """What it does: `kills the oldest instance`."""

    @abstractmethod
    def sentence(self, path: str) -> list[Word]:
        """The same, with words for its settings."""

    def editor(self, field: str, value: Any, text: str) -> Editor | None:
        """The editor of one of its fields, at a value that is shown as `text`."""
        return Editor(kind="moment", label="At") if field == "at" else None


class HandSet(HandBase):
    """Sets the desired count."""

    offer: ClassVar = "set the count"
    trade: ClassVar = "manual desired count"
    start: ClassVar = {"kind": "set", "count": 6}

    kind: Literal["set"]
    count: int = Field(ge=0, le=1000)

    def text(self) -> str:
        return f"sets the count to {self.count}"

    def sentence(self, path: str) -> list[Word]:
        return [say("sets the count to "), count_word(f"{path}.count", self.count)]

    def editor(self, field: str, value: Any, text: str) -> Editor | None:
        if field == "count":
            return number("How many", "instances", 1.0, 0.0, 100.0, 1.0).around(value)
        return super().editor(field, value, text)


class HandOnOne(HandBase):
    """A hand on one instance."""

    instance: Which = "oldest"

    @property
    def which(self) -> str:
        return f"the {self.instance} instance" if isinstance(self.instance, str) else f"instance {self.instance}"

    def which_word(self, path: str) -> Word:
        return choice_word(f"{path}.instance", str(self.instance), self.which)

    def editor(self, field: str, value: Any, text: str) -> Editor | None:
        if field == "instance":
            known = [("oldest", "the oldest instance"), ("newest", "the newest instance")]
            return choices("Which", known if value in ("oldest", "newest") else [(str(value), text), *known])
        return super().editor(field, value, text)


class HandKill(HandOnOne):
    """Ends an instance on the spot."""

    offer: ClassVar = "kill an instance"
    trade: ClassVar = "terminate chaos"
    start: ClassVar = {"kind": "kill"}

    kind: Literal["kill"]

    def text(self) -> str:
        return f"kills {self.which}"

    def sentence(self, path: str) -> list[Word]:
        return [say("kills "), self.which_word(path)]


class HandPin(HandOnOne):
    """From now on, scale in never picks this instance."""

    offer: ClassVar = "pin an instance"
    trade: ClassVar = "protect from scale in"
    start: ClassVar = {"kind": "pin"}

    kind: Literal["pin"]

    def text(self) -> str:
        return f"pins {self.which}"

    def sentence(self, path: str) -> list[Word]:
        return [say("pins "), self.which_word(path)]


class HandStress(HandOnOne):
    """Burns a share of an instance's CPU for a time."""

    offer: ClassVar = "stress an instance"
    trade: ClassVar = "load cpu burn"
    start: ClassVar = {"kind": "stress"}

    kind: Literal["stress"]
    cpu: Share = Field(default=0.9, gt=0, le=1)
    length: Duration = Field(default=600.0, alias="for", gt=0, le=604800)

    @property
    def lasts(self) -> float | None:
        return self.length

    def text(self) -> str:
        return f"burns {say_share(self.cpu)} of the CPU of {self.which} for {say_duration(self.length)}"

    def sentence(self, path: str) -> list[Word]:
        cpu = [say("burns "), share_word(f"{path}.cpu", self.cpu), say(" of the CPU of "), self.which_word(path)]
        return [*cpu, say(" for "), time_word(f"{path}.for", self.length)]

    def editor(self, field: str, value: Any, text: str) -> Editor | None:
        if field == "cpu":
            return number("CPU burnt", "%", 100.0, 1.0, 100.0, 1.0)
        if field == "for":
            return number("For", "min", 1 / 60, 1.0, 120.0, 1.0).around(value)
        return super().editor(field, value, text)


class HandLoad(Sending, HandBase):
    """A load test on this group alone, besides what its demand sends."""

    offer: ClassVar = "load the group"
    trade: ClassVar = "load test generator clients traffic closed loop"
    start: ClassVar = {"kind": "load", "clients": 100, "each": 1.0, "ramp": 300.0, "hold": 1800.0}
    editors: ClassVar = {"clients": number("Clients", "", 1.0, 1.0, 1000.0, 10.0), **Sending.sends}

    kind: Literal["load"]

    @property
    def lasts(self) -> float | None:
        return self.ramp + self.hold

    def text(self) -> str:
        return f"sends the load of {say_number(self.clients)} clients for {say_duration(self.ramp + self.hold)}"

    def sentence(self, path: str) -> list[Word]:
        return [say("has "), number_word(f"{path}.clients", self.clients), say(" clients that "), *self.sending_words(path)]

    def editor(self, field: str, value: Any, text: str) -> Editor | None:
        known = self.editors.get(field)
        return known.around(value) if known else super().editor(field, value, text)


class HandRollout(HandBase):
    """Has a say in the rollout that is under way."""

    offer: ClassVar = "a hand on a rollout"
    trade: ClassVar = "rolling update pause resume abort roll back"
    start: ClassVar = {"kind": "rollout", "act": "pause"}

    kind: Literal["rollout"]
    act: Literal["pause", "go_on", "stop", "back"] = "pause"

    def text(self) -> str:
        return _ROLLS[self.act]

    def sentence(self, path: str) -> list[Word]:
        return [choice_word(f"{path}.act", self.act, _ROLLS[self.act])]

    def editor(self, field: str, value: Any, text: str) -> Editor | None:
        return choices("What it does", list(_ROLLS.items())) if field == "act" else super().editor(field, value, text)


_ROLLS = {
    "pause": "pauses the rollout",
    "go_on": "has the rollout go on",
    "stop": "stops the rollout",
    "back": "turns the rollout back",
}
Kinds = HandKill | HandStress | HandSet | HandPin | HandLoad | HandRollout
Hand = Annotated[Kinds, Field(discriminator="kind")]
HAND_KINDS: tuple[type[Kinds], ...] = get_args(Kinds)


def hand_words(hand: Hand, path: str) -> list[Word]:
    """A hand as a sentence."""
    return [moment_word(f"{path}.at", hand.at), say(": a hand "), *hand.sentence(path), say(".")]
