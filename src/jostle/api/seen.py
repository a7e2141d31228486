"""What whoever changes a part of a plan has seen of it: of two who change the same at once the second is told.

A part that is read has a tag (ETag); a change brings it back (If-Match, RFC 9110), and is refused where it is another by now.
"""

import hashlib
import json
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Depends, Header, HTTPException, Response
from starlette.status import HTTP_428_PRECONDITION_REQUIRED

from jostle.api.desk import DeskDep, PlanDep
from jostle.core.plan.plan import Plan
from jostle.records.store import KeptPlan, NameTaken, Store

ANYTHING = "*"
IfMatch = Annotated[
    str | None,
    Header(max_length=200, description=f"The ETag of what was read and is changed, or {ANYTHING} to change whatever is there"),
]


@dataclass
class Part:
    """A part of a plan that is about to be changed by one who has seen it as it is."""

    kept: KeptPlan
    store: Store
    response: Response
    fields: tuple[str, ...]

    @property
    def plan(self) -> Plan:
        return self.kept.plan

    def keep(self, plan: Plan) -> Plan:
        """Replace the plan. Raises NameTaken where another change came first."""
        self.store.change_plan(self.kept, plan)
        return self.told(plan)

    def told(self, plan: Plan) -> Plan:
        """The plan as it is now, with whose tag the answer goes out."""
        self.response.headers["ETag"] = _tag(plan, self.fields)
        return plan


def read(*fields: str) -> Any:
    """The plan (KeptPlan) for a route that shows these fields of it."""

    def reading(kept: PlanDep, response: Response) -> KeptPlan:
        response.headers["ETag"] = _tag(kept.plan, fields)
        return kept

    return Depends(reading)


def changed(*fields: str) -> Any:
    """The part (Part) that these fields are, for a route that changes it."""

    def changing(kept: PlanDep, desk: DeskDep, response: Response, if_match: IfMatch = None) -> Part:
        now = _tag(kept.plan, fields)
        if if_match is None:
            said = (
                f"say what you have seen: send If-Match with the ETag of what you read, or {ANYTHING} to change whatever is there"
            )
            raise HTTPException(HTTP_428_PRECONDITION_REQUIRED, said)
        if if_match != ANYTHING and now not in (one.strip().removeprefix("W/") for one in if_match.split(",")):
            raise NameTaken(
                "this was changed meanwhile, in another window or by somebody else; look at it as it is now, and change that"
            )
        return Part(kept, desk.store, response, fields)

    return Depends(changing)


def _tag(plan: Plan, fields: tuple[str, ...]) -> str:
    written = json.dumps(plan.model_dump(mode="json", include=set(fields)), sort_keys=True)
    return f'"{hashlib.sha256(written.encode()).hexdigest()[:32]}"'
