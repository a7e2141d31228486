"""What is measured, and how people type it: `90 s`, `1 h 30 min`, `600/min`, `1,000`, `0,5`, `€ 300`.

Like the marks on a ruler, a measure has a base unit and others beside it. A comma or a point before exactly three digits
groups thousands where it can be nothing else: `1,000` is a thousand, `0,500` and `1.000` are a half and one, `1.234,5` and
`1,234.5` the same.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from pydantic_core import PydanticCustomError

LONGEST = 60

_NUMBER = (
    r"[1-9]\d{0,2}(?:,\d{3})+(?:\.\d+)?"  # 1,234,567.8
    r"|[1-9]\d{0,2}(?:\.\d{3})+,\d+|[1-9]\d{0,2}(?:\.\d{3}){2,}"  # 1.234,5 and 1.234.567
    r"|[1-9]\d{0,2}(?:[ '’\u00a0\u202f]\d{3})+(?:[.,]\d+)?"  # 1 234 567,8
    r"|\d+(?:[.,]\d+)?(?:e[-+]?\d{1,2})?|[.,]\d+"  # 1234.5, 0,5, 1e3
)
_PART = re.compile(rf"\s*(?P<number>{_NUMBER})(?![\d.,'’])\s*(?P<unit>[^\d.,+\-−]*)", re.ASCII | re.IGNORECASE)
_PER = re.compile(r"\s*/\s*|\s*\b(?:per|an?)\s+", re.IGNORECASE)
_FIRST = re.compile(r"\s*(?P<before>[^\d.,+\-−]*?)\s*(?P<sign>[-+−]?)(?=[\d.,])", re.ASCII)


def wrong(message: str) -> PydanticCustomError:
    """An error whose message is shown to the user as it stands."""
    return PydanticCustomError("unfit", "{message}", {"message": message})


@dataclass(frozen=True)
class Measure:
    """`units` are every way to write a unit, in base units; those of a number that needs none have `""` among them.

    `smaller` says of a unit which one a bare number after it is in: `1 h 30` is 90 min. Without it a number stands alone.
    """

    noun: str
    right: str
    units: Mapping[str, Decimal]
    smaller: Mapping[str, str] | None = None
    signed: bool = False

    def read(self, text: str, bare: str | None = None, also: str | None = None) -> Decimal:
        """The amount in base units. `bare` is the unit of a number without one, `also` a word that may stand as a unit of 1.

        Raises an error that says what would be right.
        """
        first = _FIRST.match(text) if len(text) <= LONGEST else None
        if first is None:
            raise self._refusal(bare)
        total, last, place = Decimal(0), None, first.end()
        before = first["before"].strip()
        while place < len(text.rstrip()):
            part = _PART.match(text, place)
            if part is None or (last is not None and self.smaller is None):
                raise self._refusal(bare)
            written = part["unit"].strip() or before
            before = ""
            unit = self._unit(written, last, bare, also)
            if last is not None and unit >= last:
                raise self._refusal(bare)
            total += _number(part["number"]) * unit
            last, place = unit, part.end()
        if before:
            raise self._refusal(bare)
        if first["sign"] in ("-", "−") and total:
            if not self.signed:
                raise wrong(f"{self.noun} cannot be negative; write {self.right}")
            return -total
        return total

    def _unit(self, written: str, last: Decimal | None, bare: str | None, also: str | None) -> Decimal:
        if not written:
            if last is not None and self.smaller:
                larger = next((name for name in self.smaller if self.units[name] == last), None)
                written = self.smaller[larger] if larger else ""
            elif bare is not None and bare in self.units and "" not in self.units:
                return self.units[bare]
        for name in (written, written.lower(), _PER.sub("/", written.lower())):
            if name in self.units:
                return self.units[name]
        if also is not None and written and written.rstrip("s").lower() == also.rstrip("s").lower():
            return Decimal(1)
        raise self._refusal(bare) if not written else self._no_unit(written)

    def _no_unit(self, written: str) -> PydanticCustomError:
        return wrong(f"{written} is no unit of {self.noun}; write {self.noun} such as {self.right}")

    def _refusal(self, bare: str | None) -> PydanticCustomError:
        if "" in self.units:
            return wrong(f"write {self.noun} such as {self.right}")
        if bare is not None:
            return wrong(f"write {self.noun} such as {self.right}; a number alone is {bare}")
        return wrong(f"write {self.noun} with its unit, such as {self.right}")


def _number(text: str) -> Decimal:
    """A number as it was matched, its groups closed up and its point a point."""
    plain = re.sub(r"[ '’\u00a0\u202f]", "", text)
    comma, point = plain.rfind(","), plain.rfind(".")
    if comma >= 0 and point >= 0:
        plain = plain.replace("," if comma < point else ".", "")
    elif re.fullmatch(r"[1-9]\d{0,2}(?:,\d{3})+|[1-9]\d{0,2}(?:\.\d{3}){2,}", plain, re.ASCII):
        plain = plain.replace(",", "").replace(".", "")
    return Decimal(plain.replace(",", "."))


def _units(names: Mapping[str, float | str | Decimal]) -> dict[str, Decimal]:
    """Every way to write each unit; those of one unit stand as one text with bars between."""
    return {name: Decimal(str(factor)) for written, factor in names.items() for name in written.split("|")}


_TIMES = _units(
    {
        "ms|msec|msecs|millisecond|milliseconds": "0.001",
        "s|sec|secs|second|seconds": 1,
        "min|mins|m|minute|minutes": 60,
        "h|hr|hrs|hour|hours": 3600,
        "d|day|days": 86400,
        "w|wk|week|weeks": 604800,
    }
)
_NOUNS = ("", "requests", "request", "req", "jobs", "sessions")

DURATION = Measure("a duration", "90 s, 5 min or 400 ms", _TIMES, smaller={"w": "d", "d": "h", "h": "min", "min": "s", "s": "ms"})
SHARE = Measure("a share", "66 % or 0.5 %", _units({"%|percent|per cent|pct": "0.01"}))
CHANGE = Measure("a change", "2 % or -3 %", SHARE.units, signed=True)
RATE = Measure(
    "a rate",
    "250/s or 1500/min",
    {f"{noun}/{name}": 1 / size for noun in _NOUNS for name, size in _TIMES.items()}
    | {"rps": Decimal(1), "rpm": 1 / Decimal(60)},
)
THROUGHPUT = Measure(
    "a throughput",
    "12 MB/s or 800 kB/s",
    _units({"kB/s|KB/s|kb/s": "0.001", "MB/s": 1, "GB/s": 1000, "kbit/s": "0.000125", "Mbit/s": "0.125", "Gbit/s": 125}),
)
NUMBER = Measure("a number", "200 or 1,000", _units({"|x|×|times": 1, "k": 1000, "M": 1_000_000}))
PERCENT = Measure("a percentage", "20 or 20 %", _units({"|%|percent|per cent": 1}))
MONEY = Measure("an amount", "0.094 or 1,250", _units({"": 1}))
