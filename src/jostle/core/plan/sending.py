"""Clients that send: like callers who ring at a pace of their own, or hang up, think, and ring again."""

from typing import ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from jostle.core.plan.clock import Clock
from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Number, Rate, say_rate
from jostle.core.plan.wall import Moment
from jostle.core.plan.word import Word, say, time_word

WAITING = {False: "send at a rate of their own", True: "wait for each answer"}


class Sending(Model):
    """They come one after the other over `ramp` from a moment on, send together for `hold`, and stop."""

    sends: ClassVar[dict[str, Editor]] = {
        "each": number("Each client", "/s", 1.0, 0.0, 20.0, 0.1),
        "waits": choices("Clients", list(WAITING.items())),
        "think": number("Thinks for", "s", 1.0, 0.0, 60.0, 0.5),
        "ramp": number("Started over", "min", 1 / 60, 0.0, 240.0, 5.0),
        "hold": number("Held for", "min", 1 / 60, 0.0, 480.0, 5.0),
    }

    at: Moment
    clients: Number = Field(ge=0, le=1e7)
    each: Rate = Field(default=1.0, description="What each client sends that waits for no answer")
    waits: bool = Field(default=False, description="Whether each waits for its answer, thinks, and asks again")
    think: Duration = Field(default=1.0, ge=0.001, le=86400, description="How long one that waits thinks between")
    ramp: Duration = Field(default=0.0, description="Clients start one after the other over so long")
    hold: Duration = Field(default=1800.0, gt=0, description="All of them send for so long, and then stop")

    def sending_words(self, path: str) -> list[Word]:
        """How much each client sends, and how they come and stay."""
        how = Word(text=WAITING[self.waits], path=f"{path}.waits", value=self.waits)
        own = [say(", "), Word(text=say_rate(self.each), path=f"{path}.each", value=self.each), say(" each")]
        pause = [say(" and think for "), time_word(f"{path}.think", self.think), say(" between")]
        started = [say(", started over "), time_word(f"{path}.ramp", self.ramp)]
        return [how, *(pause if self.waits else own), *started, say(", held for "), time_word(f"{path}.hold", self.hold)]

    def present(self, clock: Clock) -> NDArray[np.float64]:
        """Clients in each tick, shape (ticks,)."""
        return np.asarray(self.clients * strength(clock.epochs - clock.epoch_of(self.at), self.ramp, self.hold, 0.0))

    def sent(self, clock: Clock) -> NDArray[np.float64]:
        """What they send in each tick (1/s), shape (ticks,); those that wait, where an answer takes no time."""
        return self.present(clock) * (1.0 / self.think if self.waits else self.each)


def strength(since: NDArray[np.float64], ramp: float, hold: float, decay: float) -> NDArray[np.float64]:
    """0 before its beginning, rising to 1 over `ramp`, 1 for `hold`, falling to 0 over `decay`; `since` is seconds from it."""
    ends = np.cumsum([0.0, ramp, hold, decay])
    rising = since / ramp if ramp else np.ones(len(since))
    falling = (ends[3] - since) / decay if decay else np.zeros(len(since))
    return np.select(
        [since < 0, since < ends[1], since < ends[2], since < ends[3]],
        [np.zeros(len(since)), rising, np.ones(len(since)), falling],
    )
