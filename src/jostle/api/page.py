"""A group's page as the screen has it: sentences whose words can be edited, what is found about each, and what can be added."""

from dataclasses import dataclass

from pydantic import BaseModel, Field

from jostle.api.editor import editor_of, site_of
from jostle.api.offer import Offer, acts_on, offers_for
from jostle.api.strips import at_ms
from jostle.core.checks.check import check
from jostle.core.checks.finding import Finding
from jostle.core.costs.bounds import Bounds
from jostle.core.journal.ahead_line import ahead_line
from jostle.core.journal.climb import climb
from jostle.core.journal.sentence import Page
from jostle.core.plan.editor import Editor
from jostle.core.plan.policy import TriggerPolicy
from jostle.core.plan.word import Sentence, Word
from jostle.core.rehearsal.closer import leaving_by_each
from jostle.core.rehearsal.forecast import looking_ahead
from jostle.core.rehearsal.rehearsal import Rehearsal


@dataclass(frozen=True, slots=True)
class EditableWord(Word):
    editor: Editor | None = None


def editable(word: Word, editor: Editor | None) -> EditableWord:
    return EditableWord(word.text, word.path, word.value, editor)


class ShownFinding(Finding):
    """A finding with the time at which the strips show it, ms since 1970."""

    shown_at: float | None


class PageSentence(BaseModel):
    key: str
    tone: str
    paused: bool
    words: list[EditableWord]
    note: str | None = Field(description="What comes of it")
    called: EditableWord | None = Field(description="The name of what it is about")
    findings: list[ShownFinding]
    acts: list[Offer]


class PageSection(BaseModel):
    key: str
    title: str
    sentences: list[PageSentence]
    more: list[Offer]


def page_of(rehearsal: Rehearsal, page: Page, bounds: Bounds | None) -> list[PageSection]:
    """The sections of a group's page, each sentence with what is found about it and what can be done with it."""
    plan, crew = rehearsal.plan, rehearsal.crew
    group, site = crew.group, site_of(plan, crew)
    paused = {f"policies.{policy.name}" for policy in group.policies if policy.paused}
    paused |= {f"calendar.{entry.name}" for entry in group.calendar if entry.paused}
    findings = check(rehearsal, bounds)
    notes = {f"policies.{policy.name}": climb(crew, policy) for policy in group.policies if isinstance(policy, TriggerPolicy)}
    notes |= {f"policies.{policy.name}": ahead_line(rehearsal, number) for number, policy in looking_ahead(rehearsal)}
    sections = []
    for section in page.sections:
        sentences = []
        for sentence in section.sentences:
            words = [editable(word, _with_next(editor_of(word, plan, crew, site), word, rehearsal)) for word in sentence.words]
            about = [_shown(rehearsal, finding) for finding in findings if _concerns(finding, sentence)]
            told = PageSentence(
                key=sentence.key,
                tone=sentence.tone,
                paused=sentence.key in paused,
                words=words,
                note=notes.get(sentence.key),
                called=sentence.called and editable(sentence.called, editor_of(sentence.called, plan, crew, site)),
                findings=about,
                acts=acts_on(sentence.key, crew, site),
            )
            sentences.append(told)
        more = offers_for(section.key, crew, list(plan.databases))
        sections.append(PageSection(key=section.key, title=section.title, sentences=sentences, more=more))
    return sections


def _with_next(editor: Editor | None, word: Word, rehearsal: Rehearsal) -> Editor | None:
    """The criteria by which instances leave say whom each would take."""
    if editor is None or word.path != "leaving.criteria":
        return editor
    taken = leaving_by_each(rehearsal)
    told = [
        choice.model_copy(update={"hint": f"{choice.hint}; at the end it would take instance {taken[str(choice.value)] + 1}"})
        if choice.value in taken
        else choice
        for choice in editor.choices
    ]
    return editor.model_copy(update={"choices": told})


def _shown(rehearsal: Rehearsal, finding: Finding) -> ShownFinding:
    at = None if finding.at is None else at_ms(rehearsal, finding.at)
    return ShownFinding(**finding.model_dump(), shown_at=at)


def _concerns(finding: Finding, sentence: Sentence) -> bool:
    """A finding stands under the sentence that has its setting; one about all policies under the last of them."""
    if finding.path == "policies":
        return sentence.key == "pace"
    return f"{finding.path}.".startswith(f"{sentence.key}.") or any(word.path == finding.path for word in sentence.words)
