"""How a group's instances are bought: some for good, the others on the spot market."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from jostle.core.plan.editor import Editor, choices, number
from jostle.core.plan.machine import Machine
from jostle.core.plan.machine_type import MOST_TYPES, Names, Needs
from jostle.core.plan.model import Model
from jostle.core.plan.quantity import Count, Duration, Hourly, Money, Name, Share, Times
from jostle.core.plan.word import Word, choice_word, count_word, listed, price_word, say, share_word, time_word

CHOICES = {
    "balanced": "evenly over the zones",
    "cheapest": "where it is cheapest",
    "safest": "where the fewest are reclaimed",
    "in_order": "in the first of its zones that has it",
}
COUNTED = {"instances": "instances", "vcpus": "vCPUs", "weights": "units, so many for each machine"}
# One of what a group counts in
UNITS = {"instances": "instance", "vcpus": "vCPU", "weights": "unit"}
MOST_WEIGHT = 512


class OnDemand(Model):
    first: Count = Field(default=0, description="So many instances are on demand before any is spot")
    share: Share = Field(default=0.0, description="Of the others, this share is on demand too")


class Caps(Model):
    price: Times = Field(default=1.0, gt=0, le=10, description="No spot above so much of the on-demand price: 0.7 for 70 %")
    amount: Money | None = Field(
        default=None, gt=0, le=10_000, description="No spot above this for an hour, whatever the share says"
    )
    risk: Hourly = Field(
        default=0.25, gt=0, le=1000, description="No spot with more reclaims of an instance in an hour: 0.04 for 4 %"
    )


class Swap(Model):
    """Every so often, one that is dear is swapped for cheaper spot: the new one serves before the old one leaves."""

    every: Duration = Field(default=600.0, ge=60, le=604800, description="How often it is looked for")
    saves: Share = Field(default=0.15, gt=0, lt=1, description="What a swap saves of the price at the least")
    risk: Hourly = Field(default=0.25, gt=0, le=1000, description="No swap for spot with more reclaims of an instance in an hour")
    at_once: Count = Field(default=1, ge=1, description="Swaps under way at once, at the most")
    pinned: bool = Field(default=False, description="Whether pinned ones are swapped too")


class Buying(Model):
    """The spot part is launched where it is chosen, at its instant; on demand where none is to be had."""

    editors: ClassVar[dict[str, Editor]] = {
        "on_demand.first": number("On demand first", "instances", 1.0, 0.0, 50.0, 1.0),
        "on_demand.share": number("On demand of the rest", "%", 100.0, 0.0, 100.0, 5.0),
        "caps.price": number("At most, of the on-demand price", "%", 100.0, 5.0, 200.0, 5.0),
        "caps.risk": number("Reclaimed an hour at most", "%", 100.0, 0.5, 100.0, 0.5),
        "choose": choices("Spot", list(CHOICES.items())).model_copy(update={"varies": True}),
        "swap.every": number("Looked for every", "min", 1 / 60, 1.0, 240.0, 1.0),
        "swap.saves": number("Saves at least", "%", 100.0, 1.0, 90.0, 1.0),
        "swap.risk": number("Reclaimed an hour at most", "%", 100.0, 0.5, 100.0, 0.5),
        "swap.at_once": number("At once", "instances", 1.0, 1.0, 20.0, 1.0),
        "swap.pinned": choices("Pinned ones", [(False, "stay"), (True, "are swapped too")]),
        "wait": number("Waits for spot", "min", 1 / 60, 0.0, 60.0, 1.0),
        "types": Editor(kind="text", label="Machines", blank=True, varies=True),
        **{f"needs.{field}": editor for field, editor in Needs.editors.items()},
        "count_in": choices("Counted in", list(COUNTED.items())),
        "weights": number("Counts as", "units", 1.0, 1.0, 64.0, 1.0),
        "look_again": number("Looked again after", "min", 1 / 60, 1.0, 240.0, 1.0),
    }

    types: Names = Field(
        default_factory=list,
        max_length=MOST_TYPES,
        description="Machines that may serve, that of the template among them; that alone if left out",
    )
    needs: Needs | None = Field(default=None, description="What machines have to have, in place of their names")
    count_in: Literal["instances", "vcpus", "weights"] = Field(
        default="instances", description="What minimum, maximum, desired count and policies count"
    )
    weights: dict[Name, Annotated[int, Field(ge=1, le=MOST_WEIGHT)]] = Field(
        default_factory=dict,
        max_length=MOST_TYPES,
        description="What one of each machine counts as, in whole units; 1 for those left out",
    )
    on_demand: OnDemand = OnDemand()
    caps: Caps = Caps()
    choose: Literal["balanced", "cheapest", "safest", "in_order"] = Field(
        default="balanced", description="Which machine is bought as spot, and in which zone"
    )
    wait: Duration = Field(default=0.0, le=86400, description="How long a launch waits for spot before it is on demand")
    look_again: Duration = Field(
        default=1800.0, gt=0, le=604800, description="How long launches are on demand once no spot was to be had"
    )

    swap: Swap | None = Field(default=None, description="Whether dear ones are swapped for cheaper spot while they run")

    @property
    def unit(self) -> str:
        """One of what is counted."""
        return UNITS[self.count_in]

    def weight_of(self, name: str, machine: Machine) -> int:
        """What an instance on a machine counts as."""
        return {"instances": 1, "vcpus": machine.vcpus, "weights": self.weights.get(name, 1)}[self.count_in]

    def words(self, names: list[str], ordered: bool, currency: str) -> list[Word]:
        """Its sentences, for these machines; where they are ordered, what is not to be had stays asked for."""
        amount = self.caps.amount
        most = [] if amount is None else [say(", no more than "), price_word("buying.caps.amount", amount, currency)]
        swap = self.swap
        otherwise = (
            [say("it stays asked for.")]
            if ordered
            else [
                *(
                    [say("it is waited for it for "), time_word("buying.wait", self.wait), say(", and then ")]
                    if self.wait
                    else []
                ),
                say("it is on demand for "),
                time_word("buying.look_again", self.look_again),
                say("."),
            ]
        )
        swapping = (
            []
            if swap is None
            else [
                say(" Every "),
                time_word("buying.swap.every", swap.every),
                say(" one is swapped for spot that saves "),
                share_word("buying.swap.saves", swap.saves),
                say(" of its price or more, with up to "),
                share_word("buying.swap.risk", swap.risk),
                say(" reclaimed an hour; "),
                count_word("buying.swap.at_once", swap.at_once),
                say(" at once; pinned ones "),
                Word(text="are swapped too" if swap.pinned else "stay", path="buying.swap.pinned", value=swap.pinned),
                say("."),
            ]
        )
        return [
            say("On demand are the first "),
            count_word("buying.on_demand.first", self.on_demand.first),
            say(" and "),
            share_word("buying.on_demand.share", self.on_demand.share),
            say(" of the rest; the others are spot, "),
            choice_word("buying.choose", self.choose, self._chosen(len(names) > 1)),
            say(", at "),
            share_word("buying.caps.price", self.caps.price),
            say(" of the on-demand price at the most"),
            *most,
            say(" and with up to "),
            share_word("buying.caps.risk", self.caps.risk),
            say(" of instances reclaimed an hour. Where there is none, "),
            *otherwise,
            *swapping,
            *self._machines(names),
            *self._counted(names),
        ]

    def _counted(self, names: list[str]) -> list[Word]:
        """What is counted, where that is not instances."""
        if self.count_in == "instances":
            return []
        what = choice_word("buying.count_in", self.count_in, "vCPUs" if self.count_in == "vcpus" else "units")
        if self.count_in == "vcpus":
            return [say(" It counts "), what, say(".")]
        parts: list[Word] = []
        for number_of, name in enumerate(names):
            parts += [
                say("; " if number_of else ": "),
                say(f"{name} is "),
                count_word(f"buying.weights.{name}", self.weights.get(name, 1)),
            ]
        return [say(" It counts "), what, *parts, say(".")]

    def _chosen(self, several: bool) -> str:
        return "evenly over machines and zones" if several and self.choose == "balanced" else CHOICES[self.choose]

    def _machines(self, names: list[str]) -> list[Word]:
        """Which machines may serve, where there are several or might be."""
        if self.needs is not None:
            return [say(" Machines have "), *self.needs.words("buying.needs"), say(f": {listed(names)}.")]
        if not self.types:
            return []
        return [say(" Machines are "), Word(text=listed(names, "or"), path="buying.types", value=", ".join(names)), say(".")]
