"""What somebody typed into a field, read as it is meant, and said again so that the reading can be seen."""

from collections.abc import Callable
from datetime import datetime
from decimal import Decimal
from typing import Literal, NamedTuple

from pydantic_core import PydanticCustomError

from jostle.core.plan.measure import CHANGE, DURATION, MONEY, NUMBER, PERCENT, RATE, SHARE, THROUGHPUT, Measure
from jostle.core.plan.problem import PlanError, Problem
from jostle.core.plan.quantity import (
    currency_sign,
    say_duration,
    say_number,
    say_price,
    say_rate,
    say_share,
    say_throughput,
)
from jostle.core.plan.wall import read_clock, say_moment, typed_moment

MeasureName = Literal["duration", "share", "change", "rate", "throughput", "number", "percent", "money", "clock", "moment"]


class Reading(NamedTuple):
    """A value in the base unit, as a plan has it, and how it is said."""

    value: float | str
    text: str


_MEASURES: dict[str, tuple[Measure, Callable[[float], str], str]] = {
    "duration": (DURATION, say_duration, "s"),
    "share": (SHARE, say_share, ""),
    "change": (CHANGE, say_share, ""),
    "rate": (RATE, say_rate, "/s"),
    "throughput": (THROUGHPUT, say_throughput, "MB/s"),
    "number": (NUMBER, say_number, ""),
    "percent": (PERCENT, lambda number: f"{say_number(number)} %", ""),
}


def read_typed(measure: MeasureName, text: str, unit: str = "", now: str | None = None) -> Reading:
    """What `text` means in a field that a number alone enters in `unit`; `now` is a moment that stands there already.

    Raises PlanError, which says what would be right.
    """
    try:
        match measure:
            case "clock":
                clock = read_clock(text)
                return Reading(clock, clock)
            case "moment":
                moment = typed_moment(text, datetime.fromisoformat(now) if now else datetime(2025, 1, 1))
                return Reading(moment.isoformat(), say_moment(moment, with_year=True))
            case "money":
                exact = _money(text, unit)
                return Reading(str(exact), say_price(exact, unit))
            case _:
                found, say, base = _MEASURES[measure]
                number = found.read(text, unit or None, unit or None)
                return Reading(float(number), _said(found, say, base, number))
    except (PydanticCustomError, ValueError) as error:
        said = error.message() if isinstance(error, PydanticCustomError) else str(error)
        raise PlanError([Problem((), text, said)]) from None


def _money(text: str, currency: str) -> Decimal:
    sign = currency_sign(currency)
    return MONEY.read(text, also=sign if sign in text else currency)


def _said(measure: Measure, say: Callable[[float], str], base: str, number: Decimal) -> str:
    """How it is said; with all its digits where the usual way leaves some out."""
    usual = say(float(number))
    if measure.read(usual) == number:
        return usual
    share = number * 100 if measure in (SHARE, CHANGE) else number
    return f"{float(f'{share:.10g}'):,}{' ' if base != '/s' else ''}{base or ('%' if measure is not NUMBER else '')}".rstrip()
