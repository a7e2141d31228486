"""Times as they stand on a wall clock, and the zones whose clocks they are."""

from datetime import datetime, time
from typing import Annotated, Any
from zoneinfo import ZoneInfo

from pydantic import BeforeValidator, WithJsonSchema

from jostle.core.plan.quantity import wrong


def known_zone(name: str) -> str:
    """The name of an IANA time zone, or a refusal."""
    try:
        ZoneInfo(name)
    except (KeyError, ValueError, OSError):
        raise wrong("write an IANA time zone name such as Atlantic/Faroe or UTC") from None
    return name


def read_clock(value: Any) -> str:
    """`06:30`, checked to be a time of day."""
    try:
        return time.fromisoformat(str(value)).strftime("%H:%M:%S").removesuffix(":00")
    except ValueError:
        raise wrong("write a time of day such as 06:30") from None


def read_moment(value: Any) -> str:
    """`2025-07-10T12:00`: wall-clock time in the plan's zone, or with an offset of its own."""
    try:
        return datetime.fromisoformat(str(value)).isoformat()
    except ValueError:
        raise wrong("write a date and time such as 2025-07-10T12:00") from None


ClockTime = Annotated[str, BeforeValidator(read_clock), WithJsonSchema({"type": "string", "examples": ["06:30"]})]
Moment = Annotated[str, BeforeValidator(read_moment), WithJsonSchema({"type": "string", "examples": ["2025-07-10T12:00"]})]
