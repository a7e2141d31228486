"""What of all that a group's page offers the plan refuses, by the plan's own word: each offer is tried."""

from collections.abc import Iterator

from pydantic import BaseModel, Field

from jostle.api.editor import site_of
from jostle.api.offer import Offer, acts_on, offers_for
from jostle.core.change.group_change import changed_group
from jostle.core.journal.sentence import Page
from jostle.core.plan.plan import Plan, with_group
from jostle.core.plan.problem import PlanError
from jostle.core.rehearsal.rehearsal import crew_of


class Refusal(BaseModel):
    """An offer that would be refused."""

    key: str = Field(description="Of the section or the sentence in which it is offered")
    text: str = Field(description="Of the offer")
    why: str


def offers_of(plan: Plan, group: str, page: Page) -> Iterator[tuple[str, Offer]]:
    """All that a group's page offers, with the key of the section or the sentence where it does."""
    crew = crew_of(plan, group)
    for section in page.sections:
        yield from ((section.key, offer) for offer in offers_for(section.key, crew, list(plan.databases)))
        for sentence in section.sentences:
            yield from ((sentence.key, offer) for offer in acts_on(sentence.key, crew, site_of(plan, crew)))


def refusals(plan: Plan, group: str, page: Page) -> list[Refusal]:
    """The offers that would be refused, and why."""
    return [
        Refusal(key=key, text=offer.text, why=why)
        for key, offer in offers_of(plan, group, page)
        if (why := _refused(plan, group, offer))
    ]


def _refused(plan: Plan, group: str, offer: Offer) -> str:
    start = plan.start.astimezone(plan.zone)
    changes = [
        # A hand acts at the time that the page has chosen
        change.model_copy(update={"value": {**change.value, "at": 1000 * start.timestamp()}})
        if change.path == "hands"
        else change
        for change in offer.changes
    ]
    try:
        document = changed_group(plan.groups[group].model_dump(mode="json"), changes, start)
        crew_of(with_group(plan, group, document), group)
    except PlanError as error:
        return error.problems[0].message
    return ""
