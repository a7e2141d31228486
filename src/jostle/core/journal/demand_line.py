"""A demand as sentences: each layer and each incident, whose words stand for its settings."""

from jostle.core.journal.word import Sentence, Word, choice_word, listed, moment_word, say, say_count, share_word, time_word
from jostle.core.plan.demand import (
    WEEKDAYS,
    Breaking,
    Brought,
    Bursts,
    Daily,
    Demand,
    Growth,
    Incident,
    Layer,
    Level,
    LoadTest,
    NoCapacity,
    Noise,
    Scale,
    SlowBoots,
    SlowDependency,
    Surge,
    Weekdays,
    ZoneLost,
)
from jostle.core.plan.quantity import say_number, say_rate

FAULTS = {"stopped": "their machines stop", "frozen": "their machines freeze", "hung": "their service hangs"}
EVERYWHERE = "every zone"


def demand_sentences(demand: Demand) -> list[Sentence]:
    """The layers in order, then the incidents. A sentence's key is the path of what it is about."""
    layers = [_sentence(f"layers.{k}", layer.kind, layer_words(layer, f"layers.{k}")) for k, layer in enumerate(demand.layers)]
    incidents = [
        _sentence(f"incidents.{k}", one.kind, incident_words(one, f"incidents.{k}")) for k, one in enumerate(demand.incidents)
    ]
    return layers + incidents


def _sentence(key: str, kind: str, words: list[Word]) -> Sentence:
    return Sentence(key=key, tone=kind, words=[*words, say(".")])


def layer_words(layer: Layer, path: str) -> list[Word]:
    match layer:
        case Level():
            return [say("A level of "), _rate(f"{path}.rate", layer.rate)]
        case Daily():
            high, low = (pick(layer.points, key=lambda p: p.factor) for pick in (max, min))
            return [say(f"A day's shape, highest at {high.at} and lowest at {low.at}")]
        case Weekdays():
            words = [say("A factor for each weekday: ")]
            for k, day in enumerate(WEEKDAYS):
                words += [say(f"{', ' if k else ''}{day[:3].capitalize()} "), _number(f"{path}.{day}", getattr(layer, day))]
            return words
        case Growth():
            return [
                say("Growing by "),
                Word(text=f"{say_number(layer.weekly * 100)} %", path=f"{path}.weekly", value=layer.weekly),
                say(" a week"),
            ]
        case Scale():
            return [say("All of it "), _times(f"{path}.factor", layer.factor)]
        case Bursts():
            return [
                _number(f"{path}.amount", layer.amount),
                say(" arrive at "),
                *_listed([choice_word(f"{path}.at.{k}", at) for k, at in enumerate(layer.at)]),
                say(" each day, spread over "),
                time_word(f"{path}.over", layer.over),
            ]
        case Surge():
            return [
                say("From "),
                moment_word(f"{path}.at", layer.at),
                say(" a rush to "),
                _times(f"{path}.factor", layer.factor),
                say(", up in "),
                time_word(f"{path}.ramp", layer.ramp),
                say(", held for "),
                time_word(f"{path}.hold", layer.hold),
                say(", down in "),
                time_word(f"{path}.decay", layer.decay),
            ]
        case LoadTest():
            return [
                say("From "),
                moment_word(f"{path}.at", layer.at),
                say(" a load test: "),
                _number(f"{path}.clients", layer.clients),
                say(" clients that send "),
                _rate(f"{path}.each", layer.each),
                say(" each, started over "),
                time_word(f"{path}.ramp", layer.ramp),
                say(", held for "),
                time_word(f"{path}.hold", layer.hold),
            ]
        case Noise():
            return [
                say("Uneven by "),
                share_word(f"{path}.spread", layer.spread),
                say(", anew every "),
                time_word(f"{path}.period", layer.period),
            ]
        case Brought():
            at = [say(", laid at "), moment_word(f"{path}.at", layer.at)] if layer.at else []
            return [
                say(f"The series of {layer.file}, "),
                _times(f"{path}.scale", layer.scale),
                say(", stretched "),
                _times(f"{path}.stretch", layer.stretch),
                *at,
            ]


def incident_words(incident: Incident, path: str) -> list[Word]:
    at = [moment_word(f"{path}.at", incident.at), say(": ")]
    if isinstance(incident, Breaking):
        fault = choice_word(f"{path}.fault", incident.fault, FAULTS[incident.fault])
        return [*at, share_word(f"{path}.share", incident.share), say(" of the instances break: "), fault]
    lasting = [say(" for "), time_word(f"{path}.for", incident.length)]
    match incident:
        case ZoneLost():
            return [*at, say("zone "), choice_word(f"{path}.zone", incident.zone), say(" is lost"), *lasting]
        case NoCapacity():
            return [
                *at,
                say("no capacity in "),
                Word(text=incident.zone or EVERYWHERE, path=f"{path}.zone", value=incident.zone),
                *lasting,
            ]
        case SlowBoots():
            return [*at, say("boots take "), _times(f"{path}.factor", incident.factor), *lasting]
        case SlowDependency():
            return [*at, say("every answer takes "), time_word(f"{path}.extra", incident.extra), say(" more"), *lasting]


def say_demand(demand: Demand) -> str:
    """A demand in a few words, for lists: `3 layers and 1 incident`."""
    incidents = [say_count(len(demand.incidents), "incident")] if demand.incidents else []
    return listed([say_count(len(demand.layers), "layer"), *incidents])


def _listed(words: list[Word]) -> list[Word]:
    """Words in a row, with commas and an `and` between them."""
    between = [", "] * (len(words) - 2) + [" and "] * (len(words) > 1)
    return [part for word, link in zip(words, [*between, ""], strict=True) for part in (word, say(link))]


def _number(path: str, value: float) -> Word:
    return Word(text=say_number(value), path=path, value=value)


def _times(path: str, value: float) -> Word:
    return Word(text=f"{say_number(value)} times", path=path, value=value)


def _rate(path: str, value: float) -> Word:
    return Word(text=say_rate(value), path=path, value=value)
