"""What the market asks for a machine that may be taken away: like a berth that is cheap until its owner comes home."""

from collections.abc import Callable
from typing import Annotated, Any, ClassVar

from pydantic import BeforeValidator, Field

from jostle.core.plan.editor import Editor, number
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Duration, Hourly, Name, Number, Share, Times
from jostle.core.plan.word import Word, say, share_word, time_word


class Stretches(Model):
    """Stretches of time that come by chance."""

    every: Duration = Field(default=604800.0, ge=3600, le=31_622_400, description="Mean time from the end of one to the next")
    length: Duration = Field(default=7200.0, alias="for", ge=300, le=2_592_000, description="How long one is, on average")


class Shocks(Stretches):
    """Stretches in which everybody wants it."""

    times: Times = Field(default=2.0, gt=0, le=100, description="So many times the price of else")


def alone(field: str) -> Callable[[Any], Any]:
    """Reads a number alone as one of these fields of what is like others in all else."""

    def read(value: Any) -> Any:
        return {field: value} if isinstance(value, str | int | float) and not isinstance(value, bool) else value

    return read


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
        "shocks": number("Times the price", "%", 100.0, 110.0, 500.0, 10.0),
        "gaps": number("None for", "h", 1 / 3600, 0.5, 48.0, 0.5),
        "shocks.times": number("Times the price", "%", 100.0, 110.0, 500.0, 10.0),
        **{
            f"{part}.{field}": number(label, "h", 1 / 3600, low, high, low)
            for part in ("shocks", "gaps")
            for field, label, low, high in (("every", "Every", 6.0, 720.0), ("for", "Lasts", 0.5, 48.0))
        },
    }

    level: Share = Field(gt=0, description="What it costs on average, as a share of the on-demand price")
    spread: Times = Field(default=0.15, ge=0, le=2, description="Standard deviation of its price as a share of the level")
    speed: Duration = Field(default=21600.0, gt=0, le=2592000, description="Mean time in which it comes back to its level")
    reclaims: Hourly = Field(
        default=0.01, ge=0, le=10, description="Reclaims of an instance in an hour while the price is at its level: 0.02 for 2 %"
    )
    rises: Number = Field(default=2.0, ge=0, le=10, description="Reclaims grow as this power of the price over its level")
    notice: Duration = Field(default=90.0, le=86400, description="Time from the news of a reclaim to the end of the instance")
    zones: dict[Name, Times] = Field(
        default_factory=dict, max_length=100, description="So many times the level in a zone: 0.8 where it is a fifth cheaper"
    )

    shocks: Annotated[Shocks | None, BeforeValidator(alone("times"))] = Field(
        default=None, description="Stretches in which it is much dearer; none if left out"
    )
    gaps: Annotated[Stretches | None, BeforeValidator(alone("for"))] = Field(
        default=None, description="Stretches in which none is to be had; none if left out"
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
            *self._stretches(path),
        ]

    def _stretches(self, path: str) -> list[Word]:
        found = [say("; ")]
        if self.shocks is None:
            found += [Word(text="no shocks", path=f"{path}.shocks", value=None)]
        else:
            found += [say("every "), time_word(f"{path}.shocks.every", self.shocks.every), say(" for ")]
            found += [time_word(f"{path}.shocks.for", self.shocks.length), say(" at ")]
            found += [share_word(f"{path}.shocks.times", self.shocks.times), say(" of its price")]
        if self.gaps is None:
            found += [say(", "), Word(text="always to be had", path=f"{path}.gaps", value=None)]
        else:
            found += [say(", and every "), time_word(f"{path}.gaps.every", self.gaps.every), say(" none is to be had for ")]
            found += [time_word(f"{path}.gaps.for", self.gaps.length)]
        return found
