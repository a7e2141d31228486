"""What the market asks for a machine that may be taken away: like a berth that is cheap until its owner comes home."""

from typing import Any, ClassVar

from pydantic import Field

from jostle.core.plan.editor import Editor, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Hourly, Name, Share, Times
from jostle.core.plan.word import Word, say, share_word, time_word


class Spot(Model):
    """A price that wanders around a level, by chance, with a reclaim rate that rises as it does."""

    editors: ClassVar[dict[str, Editor]] = {
        "level": number("Of the on-demand price", "%", 100.0, 5.0, 100.0, 1.0),
        "spread": number("Wanders by", "%", 100.0, 0.0, 100.0, 1.0),
        "speed": number("Comes back in", "h", 1 / 3600, 0.5, 72.0, 0.5),
        "reclaims": number("Reclaims an hour", "%", 100.0, 0.0, 50.0, 0.5),
        "rises": number("Power", "", 1.0, 0.0, 6.0, 0.5),
        "notice": number("Notice", "s", 1.0, 0.0, 600.0, 10.0),
        "zones": number("Of the level there", "%", 100.0, 20.0, 300.0, 5.0),
    }

    level: Share = Field(gt=0, description="What it costs on average, as a share of the on-demand price")
    spread: Times = Field(default=0.15, ge=0, le=2, description="Standard deviation of its price as a share of the level")
    speed: Duration = Field(default=21600.0, gt=0, le=2592000, description="Mean time in which it comes back to its level")
    reclaims: Hourly = Field(
        default=0.01, ge=0, le=10, description="Reclaims of an instance in an hour while the price is at its level: 0.02 for 2 %"
    )
    rises: float = Field(default=2.0, ge=0, le=10, description="Reclaims grow as this power of the price over its level")
    notice: Duration = Field(default=120.0, le=86400, description="Time from the news of a reclaim to the end of the instance")
    zones: dict[Name, Times] = Field(
        default_factory=dict, max_length=100, description="So many times the level in a zone: 0.8 where it is a fifth cheaper"
    )

    def words(self, path: str) -> list[Word]:
        apart = [
            word
            for zone, times in self.zones.items()
            for word in (say(f", in {zone} "), share_word(f"{path}.zones.{zone}", times), say(" of that"))
        ]
        return [
            say("spot at "),
            share_word(f"{path}.level", self.level),
            *apart,
            say(", give or take "),
            share_word(f"{path}.spread", self.spread),
            say(", back in "),
            time_word(f"{path}.speed", self.speed),
            say("; "),
            share_word(f"{path}.reclaims", self.reclaims),
            say(" reclaimed an hour, as the price to the power "),
            Word(text=f"{self.rises:g}", path=f"{path}.rises", value=self.rises),
            say(", with notice of "),
            time_word(f"{path}.notice", self.notice),
        ]


def read_spot(value: Any) -> Any:
    """A share of the on-demand price alone, `40 %`, for a market that is like others in all else."""
    return {"level": value} if isinstance(value, str | int | float) and not isinstance(value, bool) else value
