"""Problem details (RFC 9457): how every refusal over HTTP says what is wrong and what would be right."""

import json
from typing import Any

from fastapi import Response
from pydantic import BaseModel, Field


class Fault(BaseModel):
    """One thing that is wrong with an input."""

    path: str
    value: str
    message: str
    line: int | None = None


class ProblemDetails(BaseModel):
    """RFC 9457."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    errors: list[Fault] = Field(default_factory=list)
    columns: list[str] = Field(default_factory=list, description="The columns of a file that cannot be read, to choose among")


RESPONSES: dict[int | str, dict[str, Any]] = {
    "4XX": {"model": ProblemDetails, "content": {"application/problem+json": {}}, "description": "What is wrong"}
}


def problem_answer(
    status: int,
    title: str,
    detail: str,
    errors: list[Fault] | None = None,
    columns: list[str] | None = None,
    headers: dict[str, str] | None = None,
) -> Response:
    """An answer that says what is wrong."""
    body = ProblemDetails(title=title, status=status, detail=detail, errors=errors or [], columns=columns or [])
    # Escaped throughout, so that a refusal can show any value: half of a character too.
    return Response(json.dumps(body.model_dump()), status, headers, media_type="application/problem+json")
