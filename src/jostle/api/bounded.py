"""Types of what comes from outside, bounded where the service's own numbers end."""

from typing import Annotated

from fastapi import UploadFile
from pydantic import Field

from jostle.core.plan.problem import PlanError, Problem

# Numbers of plans, takes, versions: counted from 1, as far as the records count
Ordinal = Annotated[int, Field(ge=1, le=2**31 - 1)]
SeedNumber = Annotated[int, Field(ge=0, le=2**31 - 1)]
# An instant, ms since 1970, within the years that a plan may speak of
Instant = Annotated[float, Field(ge=0, le=7.3e12, allow_inf_nan=False)]
# Bytes of a request, and of one that brings a file
MOST_BODY, MOST_FILE = 16 * 2**20, 17 * 2**20


class TooLarge(Exception):
    """A body is longer than so many bytes, the most that is taken."""

    def __init__(self, most: int) -> None:
        super().__init__(f"send at most {most // 2**20} MiB at once")


def content_of(file: UploadFile) -> bytes:
    """What a file holds that was sent along. Raises PlanError where it is too large."""
    content = file.file.read(MOST_BODY + 1)
    if len(content) > MOST_BODY:
        raise PlanError([Problem(("file",), file.filename, f"is larger than {MOST_BODY // 2**20} MiB")])
    return content
