"""What was spent as CSV: hours, days and instances, and rows of the open cost and usage format."""

import csv
import io
from collections.abc import Iterable
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any, Literal, NamedTuple

from jostle.core.costs.part import Part

Form = Literal["hours", "days", "instances", "focus"]
# Those that tell instances apart
BY_INSTANCE = ("instances", "focus")
# The FinOps Open Cost and Usage Specification, version 1.0: its columns but for those of commitments and of corrections
FOCUS_VERSION = "1.0"
FOCUS_COLUMNS = (
    "AvailabilityZone", "BilledCost", "BillingAccountId", "BillingAccountName", "BillingCurrency", "BillingPeriodEnd",
    "BillingPeriodStart", "ChargeCategory", "ChargeClass", "ChargeDescription", "ChargeFrequency", "ChargePeriodEnd",
    "ChargePeriodStart", "ConsumedQuantity", "ConsumedUnit", "ContractedCost", "ContractedUnitPrice", "EffectiveCost",
    "InvoiceIssuerName", "ListCost", "ListUnitPrice", "PricingCategory", "PricingQuantity", "PricingUnit", "ProviderName",
    "PublisherName", "RegionId", "RegionName", "ResourceId", "ResourceName", "ResourceType", "ServiceCategory", "ServiceName",
    "SkuId", "SkuPriceId", "SubAccountId", "SubAccountName", "Tags",
)  # fmt: skip


class Spent(NamedTuple):
    """One amount. Times are s since 1970; `instance` is counted from 1, None for what a group pays for itself; `name` is what it
    is called, empty where it has none."""

    begin: float
    end: float
    day: str
    group: str
    instance: int | None
    name: str
    part: Part
    seconds: Decimal
    amount: Decimal


def write_costs(rows: Iterable[Spent], form: Form, plan: str, currency: str) -> str:
    """The rows as CSV text. Amounts are exact; their sum is the same in every form."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    if form == "focus":
        writer.writerow(FOCUS_COLUMNS)
        for row in rows:
            told = _focus(row, plan, currency)
            writer.writerow([told[column] for column in FOCUS_COLUMNS])
        return out.getvalue()
    keys = {"hours": ("hour", "group"), "days": ("day", "group"), "instances": ("group", "instance")}[form]
    writer.writerow([*keys, "machine", "zone", "version", "overflow", "purchase", "what", "seconds", f"amount_{currency}"])
    summed: dict[tuple[Any, ...], list[Decimal]] = {}
    for row in rows:
        named = {"hour": _iso(row.begin), "day": row.day, "group": row.group, "instance": row.name or row.instance or ""}
        part = row.part
        key = (
            *(named[one] for one in keys),
            part.machine,
            part.zone,
            part.version or "",
            part.overflow,
            part.purchase,
            part.what,
        )
        held = summed.setdefault(key, [Decimal(), Decimal()])
        held[0] += row.seconds
        held[1] += row.amount
    for key, (seconds, amount) in summed.items():
        writer.writerow([*key, _plain(seconds), _plain(amount)])
    return out.getvalue()


def _focus(row: Spent, plan: str, currency: str) -> dict[str, Any]:
    month = datetime.fromtimestamp(row.begin, UTC).replace(day=1, hour=0, minute=0, second=0, microsecond=0)
    following = month.replace(year=month.year + month.month // 12, month=month.month % 12 + 1)
    hours = row.seconds / 3600
    price = row.amount / hours if hours else row.amount
    amount, own, part = _plain(row.amount), row.instance is None, row.part
    quantity = _plain(hours) if hours else "1"
    return {
        "AvailabilityZone": part.zone,
        "BilledCost": amount,
        "BillingAccountId": plan,
        "BillingAccountName": plan,
        "BillingCurrency": currency,
        "BillingPeriodEnd": _iso(following.timestamp()),
        "BillingPeriodStart": _iso(month.timestamp()),
        "ChargeCategory": "Usage",
        "ChargeClass": "",
        "ChargeDescription": f"{part.what} of {row.group}",
        "ChargeFrequency": "Usage-Based",
        "ChargePeriodEnd": _iso(row.end),
        "ChargePeriodStart": _iso(row.begin),
        "ConsumedQuantity": quantity,
        "ConsumedUnit": "Hours",
        "ContractedCost": amount,
        "ContractedUnitPrice": _plain(price),
        "EffectiveCost": amount,
        "InvoiceIssuerName": "the stand-in",
        "ListCost": amount,
        "ListUnitPrice": _plain(price),
        "PricingCategory": "Dynamic" if part.spot else "Standard",
        "PricingQuantity": quantity,
        "PricingUnit": "Hours",
        "ProviderName": "the stand-in",
        "PublisherName": "the stand-in",
        "RegionId": "stand-in",
        "RegionName": "the stand-in",
        "ResourceId": row.group if own else f"{row.group}/{row.instance}",
        "ResourceName": row.group if own else row.name or f"{row.group} {row.instance}",
        "ResourceType": "Load balancer" if part.what.startswith("load balancer") else "Instance",
        "ServiceCategory": "Networking"
        if part.what in ("load balancer", "load balancer data", "address", "data out")
        else "Compute",
        "ServiceName": part.what,
        "SkuId": part.machine or part.what,
        "SkuPriceId": f"{part.machine or 'group'} {part.what}",
        "SubAccountId": row.group,
        "SubAccountName": row.group,
        "Tags": "{}",
    }


def _iso(at: float) -> str:
    return datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _plain(amount: Decimal) -> str:
    text = f"{amount:f}"
    return (text.rstrip("0").rstrip(".") if "." in text else text) or "0"
