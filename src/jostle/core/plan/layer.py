"""The layers of a demand, laid over one another like tracing paper. Each kind is whole here: what it says, and its series."""

from abc import abstractmethod
from datetime import datetime
from typing import Annotated, Any, ClassVar, Literal, get_args

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from jostle.core.built.figure import noise
from jostle.core.draw import STREAM_NOISE
from jostle.core.plan.clock import DAY, Clock
from jostle.core.plan.editor import Editor, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.model import Model, kind_of
from jostle.core.plan.outside import Samples
from jostle.core.plan.quantity import Duration, Number, Rate, Share, say_number, say_rate
from jostle.core.plan.sending import Sending, strength
from jostle.core.plan.wall import ClockTime, Moment
from jostle.core.plan.word import Word, choice_word, moment_word, number_word, say, say_count, share_word, time_word

Series = NDArray[np.float64]
WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
WEEK = 7.0 * DAY
Factor = Annotated[float, Field(ge=0, le=1000)]


class Sheet(Model):
    """One sheet of the tracing paper: a layer or an incident, which can be taken off for a while.

    `offer` is what offers it, `trade` what the trade says for that, `start` its values when it is added, `timed` whether it then
    begins at midday halfway through.
    """

    offer: ClassVar[str] = ""
    trade: ClassVar[str] = ""
    start: ClassVar[dict[str, Any]] = {}
    timed: ClassVar[bool] = False
    editors: ClassVar[dict[str, Editor]] = {}

    muted: bool = Field(default=False, description="Whether it is left out for now")

    @abstractmethod
    def words(self, path: str) -> list[Word]:
        """Its sentence."""

    def lies(self, clock: Clock) -> tuple[float, float, bool] | None:
        """When it begins (s since 1970), how long it lasts (s), and whether its end can be moved by itself; None if always."""
        return None

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        """The editor of one of its fields, at a value."""
        if field == "at":
            return Editor(kind="moment", label="At")
        known = self.editors.get(field)
        return known and known.around(value)


Role = Literal["base", "shape", "besides"]


class LayerBase(Sheet):
    """`role`: a base brings arrivals, a shape multiplies them, what comes besides is added to the shaped."""

    role: ClassVar[Role] = "shape"
    drawn: ClassVar[bool] = False  # whether the seed changes it

    @abstractmethod
    def series(self, clock: Clock, place: int, seed: int) -> Series:
        """By itself in each tick: arrivals per second of what brings any, a factor of a shape; shape (ticks,).

        `place` is its number in the demand, by which noise is drawn. Raises ValueError where a file has not been read.
        """


class Level(LayerBase):
    """A constant rate."""

    offer: ClassVar = "level"
    trade: ClassVar = "constant base rate"
    start: ClassVar = {"rate": 20.0}
    role: ClassVar = "base"
    editors: ClassVar = {"rate": number("Level", "/s", 1.0, 0.0, 200.0, 1.0)}

    kind: Literal["level"]
    rate: Rate

    def words(self, path: str) -> list[Word]:
        return [say("A level of "), _rate(f"{path}.rate", self.rate)]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        return np.full(clock.ticks, self.rate)

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        known = super().editor(field, value, zones)
        return known.model_copy(update={"step": 5.0}) if known and value > 200 else known


class DailyPoint(Model):
    at: ClockTime
    factor: Factor


_HOURS = (("00:00", 0.4), ("04:00", 0.25), ("09:00", 1.2), ("13:00", 1.0), ("18:00", 1.3), ("22:00", 0.7))


class Daily(LayerBase):
    """A shape over the 24 hours of the wall clock: straight lines between its points, round past midnight."""

    offer: ClassVar = "day's shape"
    trade: ClassVar = "daily curve hours pattern"
    start: ClassVar = {"points": [{"at": at, "factor": factor} for at, factor in _HOURS]}

    kind: Literal["daily"]
    points: list[DailyPoint] = Field(min_length=1, max_length=288)

    @field_validator("points")
    @classmethod
    def _once_each(cls, points: list[DailyPoint]) -> list[DailyPoint]:
        times = [p.at for p in points]
        if len(set(times)) < len(times):
            raise wrong("two points stand at the same time of day; give each its own")
        return sorted(points, key=lambda p: p.at)

    def words(self, path: str) -> list[Word]:
        high, low = (pick(self.points, key=lambda p: p.factor) for pick in (max, min))
        return [say(f"A day's shape, highest at {high.at} and lowest at {low.at}")]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        times = [seconds_of_day(p.at) for p in self.points]
        return np.interp(clock.time_of_day, times, [p.factor for p in self.points], period=DAY)


class Weekdays(LayerBase):
    """A factor for each day of the week."""

    offer: ClassVar = "weekdays"
    trade: ClassVar = "weekly pattern weekend"
    start: ClassVar = {"saturday": 0.7, "sunday": 0.6}
    editors: ClassVar = {day: number(day.capitalize(), "", 1.0, 0.0, 3.0, 0.1) for day in WEEKDAYS}

    kind: Literal["weekdays"]
    monday: Factor = 1.0
    tuesday: Factor = 1.0
    wednesday: Factor = 1.0
    thursday: Factor = 1.0
    friday: Factor = 1.0
    saturday: Factor = 1.0
    sunday: Factor = 1.0

    def words(self, path: str) -> list[Word]:
        words = [say("A factor for each weekday: ")]
        for k, day in enumerate(WEEKDAYS):
            words += [say(f"{', ' if k else ''}{day[:3].capitalize()} "), number_word(f"{path}.{day}", getattr(self, day))]
        return words

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        return np.array([getattr(self, day) for day in WEEKDAYS])[clock.weekday]


class Growth(LayerBase):
    """Grows by a share every week, compounding evenly from the plan's start; below zero it shrinks."""

    offer: ClassVar = "growth"
    trade: ClassVar = "trend"
    start: ClassVar = {"weekly": 0.02}
    editors: ClassVar = {"weekly": number("Growth a week", "%", 100.0, -50.0, 50.0, 0.5)}

    kind: Literal["growth"]
    weekly: float = Field(gt=-1, le=10, description="Growth in a week as a fraction: 0.02 for 2 %")

    def words(self, path: str) -> list[Word]:
        by = Word(text=f"{say_number(self.weekly * 100)} %", path=f"{path}.weekly", value=self.weekly)
        return [say("Growing by "), by, say(" a week")]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        return np.asarray((1.0 + self.weekly) ** ((clock.epochs - clock.first) / WEEK))


class Scale(LayerBase):
    """All of the demand so many times."""

    offer: ClassVar = "scale"
    trade: ClassVar = "multiply times"
    start: ClassVar = {"factor": 1.5}
    editors: ClassVar = {"factor": number("Times", "", 1.0, 0.0, 10.0, 0.1)}

    kind: Literal["scale"]
    factor: Factor

    def words(self, path: str) -> list[Word]:
        return [say("All of it "), times_word(f"{path}.factor", self.factor)]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        return np.full(clock.ticks, self.factor)


class Bursts(LayerBase):
    """A pile that arrives at certain times every day: `amount` arrivals in all, over `over`, at each time."""

    offer: ClassVar = "bursts"
    trade: ClassVar = "batch pile cron"
    start: ClassVar = {"at": ["09:00"], "amount": 600.0, "over": 600.0}
    role: ClassVar = "base"
    editors: ClassVar = {
        "amount": number("Arrivals", "", 1.0, 0.0, 2000.0, 10.0),
        "over": number("Spread over", "min", 1 / 60, 1.0, 120.0, 1.0),
    }

    kind: Literal["bursts"]
    at: list[ClockTime] = Field(min_length=1, max_length=96)
    amount: Number = Field(ge=0, le=1e9)
    over: Duration = Field(gt=0, le=86400)

    def words(self, path: str) -> list[Word]:
        return [
            number_word(f"{path}.amount", self.amount),
            say(" arrive at "),
            *_listed([choice_word(f"{path}.at.{k}", at) for k, at in enumerate(self.at)]),
            say(" each day, spread over "),
            time_word(f"{path}.over", self.over),
        ]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        """Each burst is spread evenly over its length, from its time on the wall clock."""
        rate = np.zeros(clock.ticks)
        for at in self.at:
            into = (clock.time_of_day - seconds_of_day(at)) % DAY
            part = np.clip(np.minimum(into + clock.tick, self.over) - into, 0.0, clock.tick)
            rate += self.amount / self.over * part / clock.tick
        return rate

    def editor(self, field: str, value: Any, zones: list[str]) -> Editor | None:
        return Editor(kind="clock", label="At") if field.isdecimal() else super().editor(field, value, zones)


_RAMP = number("Up in", "min", 1 / 60, 0.0, 240.0, 5.0)
_HOLD = number("Held for", "min", 1 / 60, 0.0, 480.0, 5.0)


class LoadTest(Sending, LayerBase):
    """So many clients, ramped over so long, held, stopped."""

    offer: ClassVar = "load test"
    trade: ClassVar = "load generator clients closed loop"
    start: ClassVar = {"clients": 100.0, "each": 1.0, "ramp": 600.0, "hold": 1800.0}
    timed: ClassVar = True
    role: ClassVar[Role] = "besides"
    editors: ClassVar = {"clients": number("Clients", "", 1.0, 0.0, 1000.0, 10.0), **Sending.sends}

    kind: Literal["load_test"]

    def words(self, path: str) -> list[Word]:
        return [
            say("From "),
            moment_word(f"{path}.at", self.at),
            say(" a load test: "),
            number_word(f"{path}.clients", self.clients),
            say(" clients that "),
            *self.sending_words(path),
        ]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        return self.sent(clock)

    def lies(self, clock: Clock) -> tuple[float, float, bool]:
        return clock.epoch_of(self.at), self.ramp + self.hold, True


class Surge(LayerBase):
    """A rush: ramps from 1 to `factor` times the demand, holds, and decays again."""

    offer: ClassVar = "rush"
    trade: ClassVar = "spike peak surge"
    start: ClassVar = {"factor": 3.0, "ramp": 900.0, "hold": 1800.0, "decay": 3600.0}
    timed: ClassVar = True
    editors: ClassVar = {
        "factor": number("Times", "", 1.0, 0.0, 10.0, 0.1),
        "ramp": _RAMP,
        "hold": _HOLD,
        "decay": number("Down in", "min", 1 / 60, 0.0, 480.0, 5.0),
    }

    kind: Literal["surge"]
    at: Moment
    factor: Factor
    ramp: Duration = 0.0
    hold: Duration = 0.0
    decay: Duration = 0.0

    def words(self, path: str) -> list[Word]:
        return [
            say("From "),
            moment_word(f"{path}.at", self.at),
            say(" a rush to "),
            times_word(f"{path}.factor", self.factor),
            say(", up in "),
            time_word(f"{path}.ramp", self.ramp),
            say(", held for "),
            time_word(f"{path}.hold", self.hold),
            say(", down in "),
            time_word(f"{path}.decay", self.decay),
        ]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        """From 1 up over `ramp`, `factor` for `hold`, back to 1 over `decay`."""
        since = clock.epochs - clock.epoch_of(self.at)
        return np.asarray(1.0 + (self.factor - 1.0) * strength(since, self.ramp, self.hold, self.decay))

    def lies(self, clock: Clock) -> tuple[float, float, bool]:
        return clock.epoch_of(self.at), self.ramp + self.hold + self.decay, True


class Noise(LayerBase):
    """Unevenness: each period the rate is multiplied by a draw of mean 1 and the given spread."""

    drawn: ClassVar = True
    offer: ClassVar = "unevenness"
    trade: ClassVar = "noise jitter"
    start: ClassVar = {"spread": 0.1, "period": 60.0}
    editors: ClassVar = {
        "spread": number("Unevenness", "%", 100.0, 0.0, 60.0, 1.0),
        "period": number("Anew every", "s", 1.0, 10.0, 3600.0, 10.0),
    }

    kind: Literal["noise"]
    spread: Share = Field(description="Standard deviation as a share of the rate")
    period: Duration = Field(default=60.0, ge=1, le=86400)

    def words(self, path: str) -> list[Word]:
        spread, period = share_word(f"{path}.spread", self.spread), time_word(f"{path}.period", self.period)
        return [say("Uneven by "), spread, say(", anew every "), period]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        first = round(clock.first // self.period)
        return noise(clock.ticks, clock.tick, self.period, self.spread, seed, STREAM_NOISE + 16 * place, first)


class Brought(LayerBase):
    """A series from a CSV file: named by `file` in a plan file, held as `samples` once it has been read."""

    role: ClassVar = "base"
    editors: ClassVar = {
        "scale": number("Times", "", 1.0, 0.0, 10.0, 0.1),
        "stretch": number("Stretched", "times", 1.0, 0.1, 10.0, 0.1),
    }

    kind: Literal["brought"]
    file: str = Field(min_length=1, max_length=255)
    unit: Literal["requests_per_second", "requests_per_minute", "requests_per_hour", "requests"] | None = Field(
        default=None, description="Unit of the value column; left out if the column's heading names it"
    )
    gaps: Literal["line", "hold", "zero"] = Field(
        default="line", description="How missing rows are filled: a straight line, the last value held, or zero"
    )
    scale: Factor = 1.0
    stretch: Number = Field(default=1.0, ge=0.01, le=100, description="How many times as long it lasts")
    at: Moment | None = Field(default=None, description="When its first row is laid, in place of its own time")
    samples: Samples | None = Field(default=None, description="The series itself, in place of the file")

    def words(self, path: str) -> list[Word]:
        at = [say(", laid at "), moment_word(f"{path}.at", self.at)] if self.at else []
        return [
            say(f"The series of {self.file}, "),
            times_word(f"{path}.scale", self.scale),
            say(", stretched "),
            times_word(f"{path}.stretch", self.stretch),
            *at,
        ]

    def series(self, clock: Clock, place: int, seed: int) -> Series:
        return self.scale * self._laid(clock).on(clock)

    def lies(self, clock: Clock) -> tuple[float, float, bool]:
        samples = self._laid(clock)
        return samples.first.timestamp(), samples.step * len(samples.rates), False

    def _laid(self, clock: Clock) -> Samples:
        """The series where and as long as it is laid."""
        if self.samples is None:
            raise ValueError(f"the series of {self.file} has not been read")
        first: datetime = self.samples.first if self.at is None else clock.at(clock.epoch_of(self.at))
        return self.samples.model_copy(update={"first": first, "step": self.samples.step * self.stretch})


Kinds = Level | Daily | Weekdays | Growth | Scale | Bursts | Surge | LoadTest | Noise | Brought
Layer = Annotated[Kinds, Field(discriminator="kind")]
# Those that can be added without a file
LAYER_KINDS: dict[str, type[Kinds]] = {kind_of(kind): kind for kind in get_args(Kinds) if kind is not Brought}


def seconds_of_day(at: str) -> int:
    """Seconds from midnight to a time of day such as 06:30."""
    return sum(int(part) * unit for part, unit in zip(at.split(":"), (3600, 60, 1), strict=False))


def _listed(words: list[Word]) -> list[Word]:
    """Words in a row, with commas and an `and` between them."""
    between = [", "] * (len(words) - 2) + [" and "] * (len(words) > 1)
    return [part for word, link in zip(words, [*between, ""], strict=True) for part in (word, say(link))]


def times_word(path: str, value: float) -> Word:
    return Word(text=say_count(value, "time"), path=path, value=value)


def _rate(path: str, value: float) -> Word:
    return Word(text=say_rate(value), path=path, value=value)
