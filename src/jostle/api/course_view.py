"""The course of one instance as strips: its CPU, what it carries, and its credits."""

import numpy as np
from pydantic import BaseModel, Field

from jostle.api.strips import Numbers, numbers
from jostle.core.plan.quantity import say_number
from jostle.core.rehearsal.closer import course
from jostle.core.rehearsal.rehearsal import Rehearsal
from jostle.core.rehearsal.strip import Span

BUCKETS = 300
MINUTE = 60


class CourseStrip(BaseModel):
    """One series in buckets from the beginning of the life to its end; null where the instance did not serve."""

    label: str
    low: Numbers
    high: Numbers
    mean: Numbers
    top: float = Field(description="What the height of the strip stands for")
    most: str = Field(description="The highest that it was, in words")


class Course(BaseModel):
    begin: float = Field(description="ms since 1970")
    end: float
    strips: list[CourseStrip]


def course_view(rehearsal: Rehearsal, instance: int) -> Course | None:
    """The course of an instance, counted from 0, from its request to its end; None where it never served."""
    clock, one = rehearsal.clock, rehearsal.result.instances[instance]
    rows = course(rehearsal, instance)
    begin = max(0.0, float(one["requested"]))
    end = rehearsal.result.elapsed if np.isnan(one["gone"]) else float(one["gone"])
    span = Span.of(clock.ticks, int(begin / clock.tick), int(np.ceil(end / clock.tick)), BUCKETS)
    if not np.isfinite(rows["load"][span.begin : span.end]).any():
        return None
    work, machine = rehearsal.crew.group.work, rehearsal.crew.machine
    kinds = [("CPU", "cpu", 100.0, " %"), (work.in_use, "load", 1.0, f" {work.in_use}")]
    if work.kind == "requests":
        kinds.append(("requests that wait with it", "waiting", 1.0, ""))
    if machine.baseline is not None:
        kinds.append(("credits, min of a vCPU", "credits", 1 / MINUTE, " min"))
    strips = [_strip(rows[field] * scale, span, label, unit) for label, field, scale, unit in kinds]
    return Course(
        begin=(clock.first + span.begin * clock.tick) * 1000,
        end=(clock.first + span.end * clock.tick) * 1000,
        strips=[strip for strip in strips if strip is not None],
    )


def _strip(series: np.ndarray, span: Span, label: str, unit: str) -> CourseStrip | None:
    cut = span.buckets(series)
    most = float(np.nanmax(series[span.begin : span.end]))
    if most <= 0.0 and unit == "":
        return None
    top = 100.0 if label == "CPU" else max(most, 1e-6)
    said = f"at most {say_number(float(f'{most:.3g}'))}{unit}"
    return CourseStrip(label=label, low=numbers(cut.low), high=numbers(cut.high), mean=numbers(cut.mean), top=top, most=said)
