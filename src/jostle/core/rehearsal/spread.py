"""The spread of a rehearsal over several seeds: the same week with other luck."""

from statistics import median

from pydantic import BaseModel, ConfigDict, Field

from jostle.core.plan.plan import Plan
from jostle.core.rehearsal.rehearser import Rehearser
from jostle.core.rehearsal.verdict import Figures, Verdict, verdict

SPREAD_FIGURES = ("cost", "short_minutes", "latency_p95_ms", "wait_p95_s", "failed", "changes")


class Range(BaseModel):
    model_config = ConfigDict(frozen=True)

    lowest: float
    median: float
    highest: float


class PromiseSpread(BaseModel):
    """Under how many of the seeds a promise was kept."""

    model_config = ConfigDict(frozen=True)

    text: str
    kept: int
    of: int


class Spread(BaseModel):
    """`figures` has those that every seed has a value of."""

    model_config = ConfigDict(frozen=True)

    seeds: list[int]
    currency: str
    figures: dict[str, Range]
    promises: list[PromiseSpread]
    chance: bool = Field(description="Whether the seeds differ at all; where none does, promises kept under all prove nothing")


def rehearse_seeds(rehearser: Rehearser, plan: Plan, group_name: str, seeds: range) -> dict[int, Verdict]:
    """The verdict under each seed. Raises PlanError as `rehearse` does."""
    return {one.seed: verdict(one, whole=False) for one in rehearser.rehearse_each(plan, group_name, seeds)}


def spread(verdicts: dict[int, Verdict]) -> Spread:
    told = list(verdicts.values())
    figures = {name: values for name in SPREAD_FIGURES if len(values := _values(told, name)) == len(told)}
    return Spread(
        seeds=list(verdicts),
        currency=told[0].figures.currency,
        figures={name: Range(lowest=min(v), median=median(v), highest=max(v)) for name, v in figures.items()},
        promises=[
            PromiseSpread(text=promise.text, kept=sum(one.promises[number].kept for one in told), of=len(told))
            for number, promise in enumerate(told[0].promises)
        ],
        chance=len(told) == 1 or any(one.figures != told[0].figures for one in told[1:]),
    )


def _values(told: list[Verdict], name: str) -> list[float]:
    figures: list[Figures] = [one.figures for one in told]
    return [float(value) for one in figures if (value := getattr(one, name)) is not None]
