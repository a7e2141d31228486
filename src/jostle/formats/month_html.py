"""What a month cost on one page of HTML that prints well."""

from typing import Any

from jostle.core.today import now
from jostle.formats.report_html import PAGES


def write_month(name: str, month: str, told: dict[str, Any]) -> str:
    """A page that stands alone: no file or font from elsewhere. `told` is what Costs tells of the month."""
    shown = [day for day in told["days"] if told["begin"] <= day["date"] <= told["end"]]
    return PAGES.get_template("month.html").render(
        name=name, month=month, told=told, days=shown, made=f"{now():%Y-%m-%d %H:%M} UTC"
    )
