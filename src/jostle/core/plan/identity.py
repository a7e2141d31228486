"""Who an instance is: its name, and whether one that takes its place goes by the same, like a pilot boat and its berth."""

import re
from collections.abc import Iterator
from typing import TYPE_CHECKING, ClassVar, Literal
from zlib import crc32

from pydantic import Field, field_validator

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model
from jostle.core.plan.problem import Problem
from jostle.core.plan.quantity import Duration, say_duration
from jostle.core.plan.word import Word, choice_word, say, time_word

if TYPE_CHECKING:
    from jostle.core.plan.plan import Plan

PARTS = ("group", "zone", "number", "tail")
TAIL = 6
_LETTERS = "0123456789abcdefghijklmnopqrstuvwxyz"
DISKS = {"kept": "stays, and is paid for", "deleted": "is deleted"}


class Identity(Model):
    """Names of parts in braces: `{group}-{zone}-{number}`."""

    editors: ClassVar[dict[str, Editor]] = {
        "names": Editor(kind="text", label="Names: {group}, {zone}, {number}, {tail}"),
        "used_again": choices("Numbers", [(False, "are never used again"), (True, "are used again")]),
        "kept": choices("One in the place of another", [(False, "is new"), (True, "keeps name, zone and disk")]),
        "attach_time": number("Attached in", "s", 1.0, 0.0, 600.0, 5.0),
        "disks": choices("The disk of one that is not wanted", [("kept", "stays"), ("deleted", "is deleted")]),
    }

    names: str = Field(
        default="{group}-{number}", max_length=100, description="Of {group}, {zone}, {number} and {tail}, a random one"
    )
    used_again: bool = Field(default=False, description="Whether the number of one that is gone is given again")
    kept: bool = Field(default=False, description="Whether one that takes the place of another has its name, zone and disk")
    attach_time: Duration = Field(default=20.0, le=86400, description="How long it takes to attach a disk that was kept")
    disks: Literal["kept", "deleted"] = Field(
        default="kept", description="What becomes of the disk of one that leaves because fewer are wanted"
    )

    @field_validator("names")
    @classmethod
    def _are_names(cls, names: str) -> str:
        parts = re.findall(r"\{([^{}]*)\}", names)
        if unknown := [part for part in parts if part not in PARTS]:
            raise wrong(f"{{{unknown[0]}}} is no part of a name; there is {', '.join(f'{{{part}}}' for part in PARTS)}")
        if not {"number", "tail"} & set(parts):
            raise wrong("such names cannot be told apart; write {number} or {tail} in them")
        if re.search(r"[^a-z0-9-]", re.sub(r"\{[a-z]+\}", "", names)):
            raise wrong("write lower-case letters, digits and hyphens, and parts in braces")
        return names

    def name(self, group: str, zone: str, number_of: int, seed: int, launch: int) -> str:
        """The name of an instance: its number from 1, and by its launch, counted from 0, the tail."""
        left, tail = crc32(f"{seed} {group} {launch}".encode()), ""
        for _ in range(TAIL):
            left, digit = divmod(left, len(_LETTERS))
            tail += _LETTERS[digit]
        return self.names.format(group=group, zone=zone, number=number_of, tail=tail)

    def words(self) -> list[Word]:
        found = [
            say("Instances are called "),
            Word(text=self.names, path="identity.names", value=self.names),
            say("; one in the place of another "),
        ]
        found += [Word(text="keeps its name, zone and disk" if self.kept else "is new", path="identity.kept", value=self.kept)]
        if not self.kept:
            again = Word(
                text="are used again" if self.used_again else "are never used again",
                path="identity.used_again",
                value=self.used_again,
            )
            return [*found, say(", and numbers "), again, say(".")]
        return [
            *found,
            say(", attached in "),
            time_word("identity.attach_time", self.attach_time),
            say("; the disk of one that is not wanted any more "),
            choice_word("identity.disks", self.disks, DISKS[self.disks]),
            say("."),
        ]


def identity_problems(plan: "Plan", group_name: str) -> Iterator[Problem]:
    """What is wrong with the identity of a group's instances."""
    group, place = plan.groups[group_name], ("groups", group_name, "identity")
    if group.identity is None or not group.identity.kept:
        return
    if group.buying is not None and group.buying.swap is not None:
        yield Problem((*place, "kept"), None, "a swap brings another machine in another zone; leave out the swaps, or keep none")
    if group.identity.attach_time >= group.health.grace:
        said = say_duration(group.health.grace)
        yield Problem(
            (*place, "attach_time"), group.identity.attach_time, f"is longer than health checks are patient with a launch: {said}"
        )
