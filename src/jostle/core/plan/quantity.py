"""Quantities of a plan, read from what people write and said again: `90 s`, `66 %`, `250/s`, `0.094`.

Each reader takes text with a unit or a bare number in the base unit, and refuses anything else with a sentence that
says what would be right. In memory a duration is seconds, a share is a fraction of one, a rate is requests per
second, and money is an exact decimal.
"""

import math
import re
from decimal import Decimal
from typing import Annotated, Any

from pydantic import BeforeValidator, Field, PlainSerializer, WithJsonSchema

from jostle.core.plan.measure import DURATION, MONEY, NUMBER, RATE, SHARE, THROUGHPUT, Measure, wrong

# What lies beyond these is no quantity of anything
LEAST, MOST = 1e-9, 1e9
_EACH_HOUR = re.compile(r"\s*(/\s*h|an hour|per hour)\s*$")


def _read(measure: Measure, value: Any, most: float = MOST) -> float:
    """A number in base units, from text or from a bare number in them."""
    if isinstance(value, str):
        number = float(measure.read(value))
    elif isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        number = math.nan
    else:
        number = float(min(max(value, -1e300), 1e300))
    if not math.isfinite(number):
        raise wrong(f"write {measure.noun}{'' if '' in measure.units else ' with its unit,'} such as {measure.right}")
    if number < 0:
        raise wrong(f"{measure.noun} cannot be negative; write {measure.right}")
    if 0 < number < LEAST:
        raise wrong(f"that is next to nothing; write {measure.noun} such as {measure.right}")
    if number > most:
        raise wrong(f"that is more than anybody has; write {measure.noun} such as {measure.right}")
    return number


def read_duration(value: Any) -> float:
    """Seconds from `90 s`, `5 min`, `1 h 30 min`, `400 ms`, `7 d`, or a bare number of seconds."""
    return round(_read(DURATION, value), 9)


def read_share(value: Any) -> float:
    """A fraction of one from `66 %` or a bare 0.66."""
    number = round(_read(SHARE, value), 12)
    if number > 1.0:
        hint = f"; did you mean {number:g} %?" if number <= 100.0 and not isinstance(value, str) else ""
        raise wrong(f"a share lies between 0 % and 100 %{hint}")
    return number


def read_times(value: Any) -> float:
    """How many times something, from `70 %` or a bare 0.7; it may be more than once."""
    return round(_read(SHARE, value), 12)


def read_hourly(value: Any) -> float:
    """The same of an hour, which may be said: `4 %/h`."""
    return read_times(_EACH_HOUR.sub("", value) if isinstance(value, str) else value)


def read_rate(value: Any) -> float:
    """Requests per second from `250/s`, `1500/min`, or a bare number per second."""
    return _read(RATE, value)


def read_throughput(value: Any) -> float:
    """Megabytes per second from `12 MB/s`, `800 kB/s`, or a bare number of MB/s."""
    return _read(THROUGHPUT, value)


def read_number(value: Any) -> float:
    """A number of things from `1,000` or a bare one."""
    return _read(NUMBER, value, 1e12)


def read_count(value: Any) -> int:
    """A whole number of things from `1,000` or a bare one."""
    number = read_number(value)
    if number != int(number):
        raise wrong(f"write a whole number, such as {round(number)}")
    return int(number)


def read_money(value: Any) -> Decimal:
    """An exact amount from `0.094`, `1,250` or a bare number; never rounded here."""
    if isinstance(value, bool) or not isinstance(value, int | float | str | Decimal):
        raise wrong("write an amount such as 0.094")
    amount = MONEY.read(value) if isinstance(value, str) else Decimal(str(value))
    if not amount.is_finite() or not 0 <= amount < 10**12:
        raise wrong("an amount is zero or more, such as 0.094")
    return amount


def _schema(kind: str, example: str) -> WithJsonSchema:
    return WithJsonSchema({"anyOf": [{"type": "number"}, {"type": "string"}], "description": f"{kind}, such as {example}"})


Duration = Annotated[float, BeforeValidator(read_duration), _schema("A duration (a bare number is seconds)", "5 min")]
Share = Annotated[float, BeforeValidator(read_share), _schema("A share (a bare number is a fraction of one)", "66 %")]
Rate = Annotated[float, BeforeValidator(read_rate), _schema("A rate (a bare number is per second)", "250/s")]
Money = Annotated[
    Decimal,
    BeforeValidator(read_money),
    PlainSerializer(str, return_type=str),
    _schema("An exact amount of the plan's currency", "0.094"),
]
Times = Annotated[float, BeforeValidator(read_times), _schema("A share of something, which may be more than all of it", "70 %")]
Hourly = Annotated[float, BeforeValidator(read_hourly), _schema("A share in an hour", "4 %/h")]
Number = Annotated[float, BeforeValidator(read_number), _schema("A number", "200")]
Count = Annotated[
    int, BeforeValidator(read_count), Field(ge=0, le=1000), WithJsonSchema({"type": "integer", "minimum": 0, "maximum": 1000})
]
Name = Annotated[
    str,
    Field(pattern=r"^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$", description="Lower-case letters, digits and hyphens"),
]


NameOrNone = Annotated[
    str, Field(pattern=r"^([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)?$", description="Lower-case letters, digits and hyphens; or none")
]


def say_number(value: float, digits: int = 3) -> str:
    """A figure for reading: at most `digits` significant digits below a thousand, thousands separated."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else "none"
    if abs(value) >= 1000:
        return f"{value:,.0f}"
    places = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    text = f"{value:.{places}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def say_duration(seconds: float) -> str:
    """`400 ms`, `90 s`, `5 min`, `1 h 30 min`, `7 d`: the shortest that loses nothing a reader needs."""
    if seconds < 1 and seconds > 0:
        return f"{say_number(seconds * 1000)} ms"
    if seconds < 120 and seconds != 60:
        return f"{say_number(seconds)} s"
    if seconds >= 86400 and seconds % 86400 == 0:
        return f"{seconds / 86400:.0f} d"
    whole = round(seconds)
    hours, minutes, rest = whole // 3600, whole % 3600 // 60, whole % 60
    parts = [f"{hours} h"] if hours else []
    parts += [f"{minutes} min"] if minutes else []
    parts += [f"{rest} s"] if rest else []
    return " ".join(parts) or "0 s"


def say_share(share: float, digits: int = 3) -> str:
    """`66 %`, `0.4 %`: a fraction of one as a percentage."""
    return f"{say_number(share * 100, digits)} %"


def say_rate(per_second: float) -> str:
    """`250/s`."""
    return f"{say_number(per_second)}/s"


def say_throughput(megabytes: float) -> str:
    """`12 MB/s`."""
    return f"{say_number(megabytes)} MB/s"


def say_money(amount: Decimal | float, currency: str) -> str:
    """`€ 412` or `CHF 412`: whole units from a hundred up, cents below."""
    exact = Decimal(str(amount))
    return say_price(
        exact.quantize(Decimal(1) if abs(exact) >= 100 or exact == exact.to_integral() else Decimal("0.01")), currency
    )


def say_price(amount: Decimal, currency: str) -> str:
    """`€ 0.118`: with every digit that the price has."""
    return f"{currency_sign(currency)} {amount:,}"


def currency_sign(currency: str) -> str:
    """The sign of a currency, or else its code."""
    return {"EUR": "€", "GBP": "£", "USD": "$"}.get(currency, currency)


def each_typed(value: Any) -> Any:
    """The parts of a text in which they were typed one after the other with commas; anything else as it is."""
    return [one.strip() for one in value.split(",") if one.strip()] if isinstance(value, str) else value
