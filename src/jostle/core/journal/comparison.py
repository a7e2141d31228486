"""Two versions of a group side by side: the sentences in which they differ."""

from pydantic import BaseModel, ConfigDict

from jostle.core.journal.sentence import SECTIONS, Page


class Pair(BaseModel):
    """A sentence of the one and the same sentence of the other; None where one of them has it not."""

    model_config = ConfigDict(frozen=True)

    section: str
    before: str | None
    after: str | None


def compared(before: Page, after: Page) -> list[Pair]:
    """The sentences that differ, in the order of the page."""
    old, new = _told(before), _told(after)
    keys = [*new, *(key for key in old if key not in new)]
    order = list(SECTIONS)
    differing = [key for key in keys if old.get(key) != new.get(key)]
    pairs = []
    for key in sorted(differing, key=lambda key: order.index((new.get(key) or old[key])[0])):
        section = (new.get(key) or old[key])[0]
        pairs.append(Pair(section=section, before=old.get(key, (None, None))[1], after=new.get(key, (None, None))[1]))
    return pairs


def _told(page: Page) -> dict[str, tuple[str, str]]:
    """Section and text of each sentence, by its key."""
    return {sentence.key: (section.key, sentence.text) for section in page.sections for sentence in section.sentences}
