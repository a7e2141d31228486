"""What all scaling policies have in common, and what each kind of them says of itself."""

import math
from abc import abstractmethod
from datetime import datetime
from typing import Annotated, Any, ClassVar, Literal, NamedTuple

from pydantic import Field, ValidationInfo, WithJsonSchema, field_validator, model_validator

from jostle.core.plan.editor import Act, Editor, choices, number
from jostle.core.plan.measure import wrong
from jostle.core.plan.metric import Metric
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Name
from jostle.core.plan.word import Word, choice_word, say
from jostle.core.plan.work import Work

Fold = Literal["average", "minimum", "maximum", "latest", "sum", "count", "p90"]
FOLD_WORDS: dict[str, str] = {
    "average": "average",
    "minimum": "minimum",
    "maximum": "maximum",
    "latest": "latest",
    "sum": "sum of",
    "count": "number of samples of",
    "p90": "90th percentile of",
}
LevelOfMetric = Annotated[
    float,
    WithJsonSchema(
        {
            "anyOf": [{"type": "number"}, {"type": "string"}],
            "description": "A level in the metric's unit: 66 %, 400 ms, 120/s, or a bare number in its base unit",
        }
    ),
]
MOST_BANDS = 8
Tone = Literal["add", "remove", "both"]


class Start(NamedTuple):
    """What a policy is when it is added: what offers it, what the trade says for that, the stem of its name, and its values."""

    offer: str
    trade: str
    stem: str
    values: dict[str, Any]


class Site(NamedTuple):
    """Where a policy is at work: the work, the zones of its group, the plan's outside metrics, how many instances lie between
    the minimum and the maximum, and the plan's demands."""

    work: Work
    zones: list[str]
    outside: list[str]
    room: int
    demands: tuple[str, ...] = ()


class Expected(NamedTuple):
    """Of what is expected: when, how many weeks say so, and how many times the usual it is of late."""

    at: datetime
    weeks: int
    ratio: float


class Reach(NamedTuple):
    """Where a search may look for a value of a field: from `low` to `high`, in steps where they are not 0."""

    field: str
    low: float
    high: float
    step: float = 0.0


class Order(NamedTuple):
    """A policy in plain numbers, for `decide`: those of its row by name, and its bands as level and amount."""

    numbers: dict[str, float | bool]
    bands: tuple[tuple[float, int], ...] = ()


class PolicyBase(Model):
    """`starts` are the policies that can be added of a kind; `editors` those of its own fields."""

    starts: ClassVar[dict[str, Start]]
    editors: ClassVar[dict[str, Editor]] = {}
    any_metric: ClassVar[bool] = False
    blind: ClassVar[str] = "fewer than half of the samples of its window are there"

    name: Name
    window: Duration = Field(default=180.0, gt=0, description="How far back the published samples are folded")
    fold: Fold = Field(default="average", description="How the window's samples become one value")
    cooldown: Duration = Field(default=300.0, description="The wait after a change of this policy")
    paused: bool = False

    @property
    @abstractmethod
    def adds(self) -> bool:
        """Whether it ever adds instances."""

    @property
    @abstractmethod
    def removes(self) -> bool:
        """Whether it ever removes instances."""

    @property
    def highest(self) -> int | None:
        """The highest count that it ever asks for, None where it may ask for any."""
        return None

    @property
    def tone(self) -> Tone:
        """Which way it moves the count."""
        return "both" if self.adds and self.removes else "add" if self.adds else "remove"

    @property
    @abstractmethod
    def level_at(self) -> tuple[str, float]:
        """Field and value of the level that it goes by."""

    @property
    def most(self) -> float:
        """The highest level that it can have."""
        return math.inf

    def reaches(self, period: float) -> list[Reach]:
        """Where a search looks unless it is told otherwise, with a meter that is read every so many seconds."""
        field, level = self.level_at
        level_reach = Reach(field, float(f"{level / 2:.3g}"), float(f"{min(self.most, 1.5 * level):.3g}"))
        return [level_reach, Reach("cooldown", 60.0, max(720.0, 2 * self.cooldown), 30.0)]

    @abstractmethod
    def order(self) -> Order:
        """What `decide` goes by."""

    @abstractmethod
    def sentence(self, path: str, work: Work) -> list[Word]:
        """Its sentence up to the wait."""

    @abstractmethod
    def in_short(self, work: Work) -> str:
        """`adds 1 above 66 % CPU`."""

    @abstractmethod
    def sight(self, value: float, work: Work, expected: Expected | None = None) -> str:
        """What it saw, against its level: `average CPU 91 % over 3 min, above 66 %`; with what is known of what it expects."""

    @abstractmethod
    def stays(self, low: float, high: float) -> str:
        """That what it looks at stays between these."""

    @abstractmethod
    def mark(self, level: float) -> str:
        """What is written at its level on a strip."""

    @property
    def edge(self) -> str:
        """Which side of its level it acts on: `above`, `below`, or `at` for either."""
        return "at"

    def acts(self, site: Site) -> list[Act]:
        """What can be done with it besides pausing it and taking it out."""
        return []

    def editor(self, field: str, value: Any, site: Site) -> Editor | None:
        """The editor of one of its fields, at a value."""
        known = self.editors.get(field) or _EDITORS.get(field)
        return known and known.around(value)


class MetricPolicy(PolicyBase):
    """A policy that watches a metric."""

    metric: Metric
    series: Name | None = Field(default=None, description="Which of the plan's outside metrics, where the metric is outside")
    zone: Name | None = Field(default=None, description="Only the instances of one zone; the whole group if left out")

    @field_validator("zone")
    @classmethod
    def _zone_of_what(cls, zone: str | None, info: ValidationInfo) -> str | None:
        metric = info.data.get("metric")
        if zone is not None and (metric is None or not metric.by_zone):
            raise wrong(f"only these metrics are read by zone: {', '.join(metric for metric in Metric if metric.by_zone)}")
        return zone

    @model_validator(mode="before")
    @classmethod
    def _series_named(cls, value: Any) -> Any:
        outside = isinstance(value, dict) and value.get("metric") == Metric.OUTSIDE
        if outside and value.get("series") is None:
            raise wrong("metric: outside needs series: the name of one of the plan's outside metrics")
        if isinstance(value, dict) and not outside and value.get("series") is not None:
            raise wrong("series goes with metric: outside; leave it out")
        return value

    @property
    def most(self) -> float:
        return 0.99 if self.metric.unit == "share" else math.inf

    @property
    def metric_label(self) -> str:
        """What it looks at: the metric, the zone, the outside series."""
        label = self.series or self.metric.label
        return f"{label} in {self.zone}" if self.zone else label

    def say_level(self, value: float) -> str:
        """A level of its folded metric, with its unit; a count of samples has none."""
        return Metric.BACKLOG.say(value) if self.fold == "count" else self.metric.say(value)

    def metric_words(self, path: str) -> list[Word]:
        where = [say(" in zone "), choice_word(f"{path}.zone", self.zone)] if self.zone else []
        return [
            choice_word(f"{path}.fold", self.fold, FOLD_WORDS[self.fold]),
            say(" "),
            choice_word(f"{path}.metric", metric_choice(self.metric, self.series), self.series or self.metric.label),
            *where,
        ]

    def stays(self, low: float, high: float) -> str:
        return f"{self.metric_label} stays between {self.say_level(low)} and {self.say_level(high)}"

    def editor(self, field: str, value: Any, site: Site) -> Editor | None:
        if field in (self.level_at[0], "beyond"):
            unit, scale, top, step = self.metric.range
            least = 0.0 if self.any_metric else step
            return number(self.metric.label, unit, scale, least, top, step).around(value)
        if field == "zone":
            return choices("Zone", [(zone, zone) for zone in site.zones])
        if field == "metric":
            fit = [metric for metric in site.work.metrics if metric.proportional or self.any_metric]
            brought = [(metric_choice(Metric.OUTSIDE, name), name) for name in site.outside if self.any_metric]
            return choices("Metric", [*((metric.value, metric.label) for metric in fit), *brought])
        return super().editor(field, value, site)


def metric_choice(metric: Metric, series: str | None) -> str:
    """What is chosen with a metric: its name, with the series of an outside one."""
    return f"{metric.value}:{series}" if series else metric.value


def chosen_metric(choice: str) -> tuple[str, str | None]:
    """The metric and the series of what was chosen."""
    metric, _, series = choice.partition(":")
    return metric, series or None


def read_level(value: Any, info: ValidationInfo) -> Any:
    """A level in the unit of the metric that was read before it."""
    metric = info.data.get("metric")
    if not isinstance(metric, Metric):
        return 0.0
    if info.data.get("fold") == "count":
        return Metric.BACKLOG.read(value)
    return metric.read(value)


def removing(may_remove: bool, path: str) -> Word:
    text = REMOVING[may_remove]
    return Word(text=text, path=f"{path}.may_remove", value=may_remove)


REMOVING = {True: "adding and removing", False: "never removing"}
MAY_REMOVE = choices("Removing", list(REMOVING.items()))
_EDITORS = {
    "name": Editor(kind="text", label="Name"),
    "cooldown": number("Wait", "min", 1 / 60, 0.0, 30.0, 0.5),
    "window": number("Window", "min", 1 / 60, 1.0, 30.0, 1.0),
    "fold": choices("Fold", list(FOLD_WORDS.items())),
}
