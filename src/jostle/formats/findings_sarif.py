"""Findings as SARIF 2.1.0 (OASIS), the form in which code hosts and editors take findings about files."""

import json
from collections.abc import Callable
from typing import Any

from jostle import __version__
from jostle.core.checks.finding import MEANINGS, Finding

SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"


def write_findings(found: dict[str, list[Finding]], file: str, line_of: Callable[[str], int | None]) -> str:
    """The findings of each group. `line_of` gives the line of a setting in the plan file, from its path in the plan."""
    rules = [{"id": code, "shortDescription": {"text": f"{text}."}} for code, text in MEANINGS.items()]
    places = {code: number for number, code in enumerate(MEANINGS)}
    results = [_result(f"groups.{group}.{one.path}", one, places, file, line_of) for group, all_ in found.items() for one in all_]
    tool = {"driver": {"name": "Jostle", "version": __version__, "rules": rules}}
    return json.dumps(
        {"$schema": SCHEMA, "version": "2.1.0", "runs": [{"tool": tool, "results": results}]}, indent=2, ensure_ascii=False
    )


def _result(
    path: str, finding: Finding, places: dict[str, int], file: str, line_of: Callable[[str], int | None]
) -> dict[str, Any]:
    where: dict[str, Any] = {"artifactLocation": {"uri": file}}
    line = line_of(path)
    if line is not None:
        where["region"] = {"startLine": line}
    mend = f" Mend: {finding.mend.text}." if finding.mend else ""
    return {
        "ruleId": finding.code,
        "ruleIndex": places[finding.code],
        "level": finding.severity,
        "message": {"text": f"{finding.text}{mend}"},
        "locations": [{"physicalLocation": where, "logicalLocations": [{"fullyQualifiedName": path}]}],
    }
