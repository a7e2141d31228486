"""The kinds of work that a group does. Each is whole in its own file; here they are registered."""

from enum import IntEnum
from typing import Annotated, Literal, get_args

from pydantic import Field

from jostle.core.plan.model import kind_of
from jostle.core.plan.work.base import ARRIVALS, DrawnWork, WorkBase
from jostle.core.plan.work.hosting import Hosting
from jostle.core.plan.work.jobs import Jobs
from jostle.core.plan.work.requests import Requests
from jostle.core.plan.work.sessions import PLACES, Sessions

__all__ = ["ARRIVALS", "PLACES", "DrawnWork", "Hosting", "Jobs", "Requests", "Sessions", "WorkBase"]

Kinds = Requests | Jobs | Sessions | Hosting
Work = Annotated[Kinds, Field(discriminator="kind")]
KindOfWork = Literal["requests", "jobs", "sessions", "hosting"]
WORK_KINDS: dict[str, type[Kinds]] = {kind_of(kind): kind for kind in get_args(Kinds)}


class WorkKind(IntEnum):
    """The kinds as the compiled code has them."""

    REQUESTS = 0
    JOBS = 1
    SESSIONS = 2
    HOSTING = 3
