"""Words that know which setting they stand for, and the sentences and sections they make up."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from typing import Any

from pydantic import BaseModel, ConfigDict

from jostle.core.plan.quantity import say_duration, say_number, say_price, say_share
from jostle.core.plan.wall import say_moment


@dataclass(frozen=True, slots=True)
class Word:
    """Text, and where it stands for a setting of the group, the path to it and its value in the base unit."""

    text: str
    path: str | None = None
    value: Any = None


class Sentence(BaseModel):
    """`key` is the path of what the sentence is about, if it is about one thing; `tone` says which ink it takes; `called` is the
    name of that thing, where it has one, which is not part of the text."""

    model_config = ConfigDict(frozen=True)

    key: str
    tone: str
    words: list[Word]
    called: Word | None = None

    @property
    def text(self) -> str:
        return "".join(word.text for word in self.words)


class Section(BaseModel):
    model_config = ConfigDict(frozen=True)

    key: str
    title: str
    sentences: list[Sentence]


def say(text: str) -> Word:
    return Word(text=text)


def count_word(path: str, value: int) -> Word:
    return Word(text=str(value), path=path, value=value)


def time_word(path: str, seconds: float) -> Word:
    return Word(text=say_duration(seconds), path=path, value=seconds)


def price_word(path: str, amount: Decimal, currency: str) -> Word:
    return Word(text=say_price(amount, currency), path=path, value=float(amount))


def share_word(path: str, share: float) -> Word:
    return Word(text=say_share(share), path=path, value=share)


def number_word(path: str, value: float) -> Word:
    return Word(text=say_number(value), path=path, value=value)


def choice_word(path: str, value: str, text: str | None = None) -> Word:
    return Word(text=text or value, path=path, value=value)


def say_count(number: float, noun: str) -> str:
    """`1 instance`, `3 instances`, `2 copies`."""
    several = f"{noun[:-1]}ies" if noun.endswith(("py", "ry")) else f"{noun}s"
    return f"{say_number(number)} {noun if number == 1 else several}"


def heading(unit: str) -> str:
    """What is counted as a heading: `Instances`, `vCPUs`."""
    return f"{unit if unit[1].isupper() else unit.capitalize()}s"


def listed(names: Iterable[str], last: str = "and") -> str:
    """`a`, `a and b`, `a, b and c`; empty of none."""
    *first, end = list(names) or [""]
    return f"{', '.join(first)} {last} {end}" if first else end


def moment_word(path: str, at: str) -> Word:
    """An ISO 8601 time as a word."""
    return Word(text=say_moment(datetime.fromisoformat(at)), path=path, value=at)
