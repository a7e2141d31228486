"""The frame of a plan in a sentence: the span that its rehearsals play, on whose clock, and the money they count in."""

from jostle.core.change.parameter_change import uses_of
from jostle.core.plan.plan import Plan
from jostle.core.plan.quantity import say_number
from jostle.core.plan.wall import say_moment
from jostle.core.plan.word import Sentence, Word, choice_word, say, time_word


def frame_sentence(plan: Plan) -> Sentence:
    """Each word's path is the field of the plan that it stands for."""
    start = plan.start.astimezone(plan.zone)
    return Sentence(
        key="frame",
        tone="plain",
        words=[
            say("Called "),
            choice_word("name", plan.name),
            say(", rehearsed for "),
            Word(text=f"{say_number(plan.days)} d", path="days", value=plan.days),
            say(" from "),
            Word(text=say_moment(start, with_year=True), path="start", value=f"{start:%Y-%m-%dT%H:%M}"),
            say(" on the clock of "),
            choice_word("time_zone", plan.time_zone),
            say(", in steps of "),
            time_word("tick", plan.tick),
            say("; money is in "),
            choice_word("currency", plan.currency),
            say("."),
        ],
    )


def parameter_words(plan: Plan) -> list[Word]:
    """The parameters with how many settings follow each; nothing where there are none."""
    words: list[Word] = []
    followed = uses_of(plan)
    for name, value in plan.parameters.items():
        text = {True: "yes", False: "no"}[value] if isinstance(value, bool) else str(value)
        words += [
            say("; " if words else "Parameters: "),
            say(f"{name} is "),
            Word(text=text, path=f"parameters.{name}", value=text),
        ]
        words.append(say(f" ({_who_follows(len(followed[name]))})"))
    return [*words, say(".")] if words else []


def _who_follows(number: int) -> str:
    return "nothing follows it" if number == 0 else "1 setting follows it" if number == 1 else f"{number} settings follow it"
