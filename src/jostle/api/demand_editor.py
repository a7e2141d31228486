"""How a word of a demand is edited."""

from jostle.api.choice import Editor, Value, choices, number
from jostle.core.journal.demand_line import EVERYWHERE, FAULTS
from jostle.core.journal.word import Word
from jostle.core.plan.demand import WEEKDAYS
from jostle.core.plan.plan import Plan

# Label, shown unit, values shown per base unit, lowest and highest value shown, step
_NUMBERS = {
    "rate": ("Level", "/s", 1.0, 0.0, 200.0, 1.0),
    "each": ("Each client", "/s", 1.0, 0.0, 20.0, 0.1),
    "clients": ("Clients", "", 1.0, 0.0, 1000.0, 10.0),
    "amount": ("Arrivals", "", 1.0, 0.0, 2000.0, 10.0),
    "factor": ("Times", "", 1.0, 0.0, 10.0, 0.1),
    "scale": ("Times", "", 1.0, 0.0, 10.0, 0.1),
    "stretch": ("Stretched", "times", 1.0, 0.1, 10.0, 0.1),
    "weekly": ("Growth a week", "%", 100.0, -50.0, 50.0, 0.5),
    "spread": ("Unevenness", "%", 100.0, 0.0, 60.0, 1.0),
    "share": ("Share", "%", 100.0, 1.0, 100.0, 1.0),
    "period": ("Anew every", "s", 1.0, 10.0, 3600.0, 10.0),
    "ramp": ("Up in", "min", 1 / 60, 0.0, 240.0, 5.0),
    "hold": ("Held for", "min", 1 / 60, 0.0, 480.0, 5.0),
    "decay": ("Down in", "min", 1 / 60, 0.0, 480.0, 5.0),
    "over": ("Spread over", "min", 1 / 60, 1.0, 120.0, 1.0),
    "for": ("Lasts", "min", 1 / 60, 5.0, 720.0, 5.0),
    "extra": ("Longer by", "ms", 1000.0, 10.0, 5000.0, 10.0),
}


def demand_editor(word: Word, kind: str, plan: Plan) -> Editor | None:
    """The editor of a word of a layer or an incident of a kind; None for plain text."""
    if word.path is None:
        return None
    field = word.path.split(".")[-1]
    if ".at." in word.path:
        return Editor(kind="clock", label="At")
    if field == "at":
        return Editor(kind="moment", label="At")
    if field == "fault":
        return choices("What happens", list(FAULTS.items()))
    if field == "zone":
        every: list[tuple[Value, str]] = [(None, EVERYWHERE)] if kind == "no_capacity" else []
        return choices("Zone", [*every, *((zone, zone) for zone in plan.zones)])
    label, unit, scale, least, top, step = _NUMBERS["factor" if field in WEEKDAYS else field]
    shown = float(word.value) * scale
    if field in WEEKDAYS:
        label, top = field.capitalize(), 3.0
    if field == "rate" and shown > 200:
        step = 5.0
    return number(label, unit, scale, least, max(top, 1.5 * shown), step)
