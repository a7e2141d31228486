"""A demand as sentences: each layer and each incident, whose words stand for its settings."""

from jostle.core.plan.demand import Demand
from jostle.core.plan.word import Sentence, listed, say, say_count


def demand_sentences(demand: Demand) -> list[Sentence]:
    """The layers in order, then the incidents. A sentence's key is the path of what it is about."""
    return [
        Sentence(key=f"{part}.{k}", tone=sheet.kind, words=[*sheet.words(f"{part}.{k}"), say(".")])
        for part, sheets in (("layers", demand.layers), ("incidents", demand.incidents))
        for k, sheet in enumerate(sheets)
    ]


def say_demand(demand: Demand) -> str:
    """A demand in a few words, for lists: `3 layers and 1 incident`."""
    incidents = [say_count(len(demand.incidents), "incident")] if demand.incidents else []
    return listed([say_count(len(demand.layers), "layer"), *incidents])
