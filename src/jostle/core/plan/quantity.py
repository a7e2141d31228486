"""Quantities as people write them: `90 s`, `66 %`, `250/s`, `0.094`.

Each reader takes text with a unit or a bare number in the base unit, and refuses anything else with a sentence that
says what would be right. In memory a duration is seconds, a share is a fraction of one, a rate is requests per
second, and money is an exact decimal.
"""

import math
import re
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any

from pydantic import BeforeValidator, Field, PlainSerializer, WithJsonSchema
from pydantic_core import PydanticCustomError

DURATION_UNITS = {"ms": 0.001, "s": 1.0, "min": 60.0, "h": 3600.0, "d": 86400.0}
RATE_UNITS = {"s": 1.0, "min": 60.0, "h": 3600.0}
THROUGHPUT_UNITS = {"kB": 0.001, "MB": 1.0, "GB": 1000.0}

_NUMBER = r"(?P<number>[-+]?\d+(?:[.,]\d+)?)"
_DURATION = re.compile(rf"^{_NUMBER}\s*(?P<unit>ms|s|min|h|d)$")
_SHARE = re.compile(rf"^{_NUMBER}\s*%$")
_RATE = re.compile(rf"^{_NUMBER}\s*/\s*(?P<unit>s|min|h)$")
_THROUGHPUT = re.compile(rf"^{_NUMBER}\s*(?P<unit>kB|MB|GB)/s$")


def wrong(message: str) -> PydanticCustomError:
    """An error whose message is shown to the user as it stands."""
    return PydanticCustomError("unfit", "{message}", {"message": message})


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _bare(value: Any) -> float | None:
    if isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        return None
    number = float(value)
    return number if math.isfinite(number) else None


def read_duration(value: Any) -> float:
    """Seconds from `90 s`, `5 min`, `1.5 h`, `400 ms`, `7 d`, or a bare number of seconds."""
    number = _bare(value)
    if number is None and isinstance(value, str) and (match := _DURATION.match(value.strip())):
        number = _number(match["number"]) * DURATION_UNITS[match["unit"]]
    if number is None:
        raise wrong("write a duration with its unit, such as 90 s, 5 min or 400 ms")
    if number < 0:
        raise wrong("a duration cannot be negative; write 0 s or more")
    return round(number, 9)


def read_share(value: Any) -> float:
    """A fraction of one from `66 %` or a bare 0.66."""
    number = _bare(value)
    if number is None and isinstance(value, str) and (match := _SHARE.match(value.strip())):
        number = round(_number(match["number"]) / 100.0, 12)
    if number is None:
        raise wrong("write a share such as 66 % or 0.66")
    if not 0.0 <= number <= 1.0:
        hint = f"; did you mean {number:g} %?" if 1.0 < number <= 100.0 and not isinstance(value, str) else ""
        raise wrong(f"a share lies between 0 % and 100 %{hint}")
    return number


def read_rate(value: Any) -> float:
    """Requests per second from `250/s`, `1500/min`, or a bare number per second."""
    number = _bare(value)
    if number is None and isinstance(value, str) and (match := _RATE.match(value.strip())):
        number = _number(match["number"]) / RATE_UNITS[match["unit"]]
    if number is None:
        raise wrong("write a rate such as 250/s or 1500/min")
    if number < 0:
        raise wrong("a rate cannot be negative; write 0/s or more")
    return number


def read_throughput(value: Any) -> float:
    """Megabytes per second from `12 MB/s`, `800 kB/s`, or a bare number of MB/s."""
    number = _bare(value)
    if number is None and isinstance(value, str) and (match := _THROUGHPUT.match(value.strip())):
        number = _number(match["number"]) * THROUGHPUT_UNITS[match["unit"]]
    if number is None or number < 0:
        raise wrong("write a throughput such as 12 MB/s or 800 kB/s")
    return number


def read_money(value: Any) -> Decimal:
    """An exact amount from `0.094` or a bare number; never rounded here."""
    if isinstance(value, bool) or not isinstance(value, int | float | str | Decimal):
        raise wrong("write an amount such as 0.094")
    try:
        amount = Decimal(str(value).strip())
    except InvalidOperation:
        raise wrong("write an amount such as 0.094, without a currency sign") from None
    if not amount.is_finite() or amount < 0:
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
Name = Annotated[
    str,
    Field(pattern=r"^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$", description="Lower-case letters, digits and hyphens"),
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
    sign = {"EUR": "€", "GBP": "£", "USD": "$"}.get(currency, currency)
    return f"{sign} {amount:,}"
