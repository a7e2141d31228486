"""What people are told whose instance is about to leave: like the last call at a pier."""

from typing import ClassVar

from pydantic import Field

from jostle.core.plan.editor import Editor, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Share
from jostle.core.plan.word import Word, count_word, say, share_word, time_word


class Notice(Model):
    """Given when an instance begins to drain, and again so many times."""

    editors: ClassVar[dict[str, Editor]] = {
        "text": Editor(kind="text", label="What they are told"),
        "times": number("Times", "", 1.0, 1.0, 10.0, 1.0),
        "every": number("Again every", "min", 1 / 60, 0.5, 60.0, 0.5),
        "heed": number("Heed it", "%", 100.0, 5.0, 100.0, 5.0),
        "within": number("Gone within", "min", 1 / 60, 0.5, 60.0, 0.5),
        "come_back": number("Come back at once", "%", 100.0, 0.0, 100.0, 5.0),
    }

    text: str = Field(default="You will be moved shortly.", min_length=1, max_length=500, description="What they are told")
    times: int = Field(default=1, ge=1, le=20, description="How often they are told it in all")
    every: Duration = Field(default=300.0, gt=0, le=86400, description="How long after one time the next comes")
    heed: Share = Field(default=0.5, gt=0, description="Share of those who hear it that leave for it, each time")
    within: Duration = Field(default=120.0, gt=0, le=86400, description="Mean time in which they are gone then")
    come_back: Share = Field(default=0.8, description="Share of those that begin a new session at once")

    def words(self) -> list[Word]:
        return [
            say("Whose instance begins to drain is told “"),
            Word(text=self.text, path="notice.text", value=self.text),
            say("”, "),
            count_word("notice.times", self.times),
            say(" times, "),
            time_word("notice.every", self.every),
            say(" apart; each time "),
            share_word("notice.heed", self.heed),
            say(" go for it, within "),
            time_word("notice.within", self.within),
            say(" on average, and "),
            share_word("notice.come_back", self.come_back),
            say(" of those are back at once."),
        ]
