"""How a word of the page is edited: the range of a number and its step, or the choices there are."""

from jostle.api.choice import Editor, amount, choices, number
from jostle.api.repeat_editor import exception_editor, repeat_editor
from jostle.core.journal.policy_line import FOLD_WORDS
from jostle.core.journal.sentence import ARRIVALS, BASES, CRITERIA, MODES, SPREADS
from jostle.core.journal.word import Word
from jostle.core.plan.group import Group
from jostle.core.plan.metric import Metric, metrics_of_work
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import MetricPolicy, TriggerPolicy

# Label, shown unit, values shown per second, lowest and highest value shown, step
_DURATIONS = {
    "cooldown": ("Wait", "min", 1 / 60, 0.0, 30.0, 0.5),
    "window": ("Window", "min", 1 / 60, 1.0, 30.0, 1.0),
    "drain": ("Drain", "min", 1 / 60, 0.0, 30.0, 0.5),
    "evaluate_every": ("Asked every", "s", 1.0, 10.0, 600.0, 10.0),
    "period": ("Meter period", "s", 1.0, 10.0, 600.0, 10.0),
    "delay": ("Meter delay", "s", 1.0, 0.0, 300.0, 5.0),
    "timeout": ("Timeout", "s", 1.0, 1.0, 60.0, 1.0),
    "cpu_seconds": ("CPU of a request", "ms", 1000.0, 1.0, 500.0, 1.0),
    "base_latency": ("Base latency", "ms", 1000.0, 0.0, 500.0, 5.0),
    "within": ("Within", "ms", 1000.0, 5.0, 3000.0, 5.0),
    "sticky": ("A client stays", "min", 1 / 60, 0.0, 120.0, 1.0),
    "job_seconds": ("Time of a job", "s", 1.0, 1.0, 600.0, 1.0),
    "length": ("Mean length", "min", 1 / 60, 1.0, 120.0, 1.0),
    "interval": ("Between checks", "s", 1.0, 5.0, 300.0, 5.0),
    "grace": ("Grace", "min", 1 / 60, 0.0, 60.0, 0.5),
    "every": ("Mean time between faults", "d", 1 / 86400, 1.0, 365.0, 1.0),
    "for": ("For", "h", 1 / 3600, 0.25, 48.0, 0.25),
    "retry": ("Tried for", "min", 1 / 60, 0.0, 120.0, 5.0),
}
_SHARES = {
    "share": ("Share", 100.0, 0.1),
    "idle_cpu": ("Idle CPU", 50.0, 1.0),
    "tolerance": ("Give or take", 50.0, 1.0),
    "slack": ("To spare", 100.0, 5.0),
    "never_boots": ("Never boot", 50.0, 1.0),
}
_COUNTS = {
    "minimum": "Minimum",
    "maximum": "Maximum",
    "start_count": "At the start",
    "amount": "How many",
    "base_size": "Owned",
    "surplus": "Beyond need",
    "seats": "Seats",
    "concurrency": "Side by side",
    "count": "How many",
    "at_most": "At most",
    "pinned": "Pinned",
    "unhealthy_after": "Failed checks",
    "healthy_after": "Passed checks",
    "restarts": "Restarts",
    "number": "Kept free",
}
_CHOICES = {
    "side": ("above", "below"),
    "action": ("add", "remove", "set"),
    "fold": ("average", "minimum", "maximum", "latest", "sum", "count", "p90"),
    "mode": ("both_ways", "out_only", "held"),
    "place": ("spread", "pack"),
    "arrivals": ("by_chance", "evenly"),
    "basis": ("machine", "heartbeat", "load_balancer"),
}


def editor_of(word: Word, plan: Plan, group: Group) -> Editor | None:
    """The editor of a word; None for plain text."""
    if word.path is None:
        return None
    field = word.path.split(".")[-1]
    shown = float(word.value) if isinstance(word.value, int | float) else 0.0
    if word.path.startswith("calendar.") and field == "zone":
        return Editor(kind="zone", label="Time zone")
    if word.path.startswith("calendar.") and field in ("repeat", "except"):
        return repeat_editor(word) if field == "repeat" else exception_editor(word)
    if word.path.startswith("hands.") and field in ("at", "for", "cpu", "instance"):
        return _hand_editor(field, word, shown)
    if field in ("from", "until"):
        return Editor(kind="moment" if field == "from" else "clock", label="From" if field == "from" else "Until")
    if word.path.startswith("promises.") and field == "within" and group.work.kind == "jobs":
        return number("Within", "min", 1 / 60, 0.5, max(60.0, 1.5 * shown / 60), 0.5)
    if field == "unevenness":
        return number("Unevenness", "", 1.0, 0.0, max(6.0, 1.5 * shown), 0.1)
    if field in ("threshold", "level", "beyond"):
        policy = _metric_policy(word, group)
        unit, scale, top, step = policy.metric.range
        least = step if field == "level" else 0.0
        return number(policy.metric.label, unit, scale, least, max(top, 1.5 * shown * scale), step)
    if field in _DURATIONS:
        label, unit, scale, least, top, step = _DURATIONS[field]
        return number(label, unit, scale, least, max(top, 1.5 * shown * scale), step)
    if word.path.startswith("policies.") and field == "share":
        return number("Kept free", "%", 100.0, 1.0, 95.0, 1.0)
    if field in _SHARES:
        label, top, step = _SHARES[field]
        return number(label, "%", 100.0, step if field == "share" else 0.0, top - (step if field == "share" else 0.0), step)
    if field in _COUNTS and not word.path.startswith("promises."):
        top = 100.0 if field not in ("start_count", "base_size") else float(group.maximum)
        percent = field in ("amount", "at_most") and "%" in word.text
        least = 1.0 if field in ("maximum", "amount") else float(group.minimum) if field == "start_count" else 0.0
        return number(_COUNTS[field], "%" if percent else "instances", 1.0, least, max(top, 1.5 * shown), 1.0)
    if field == "at_most":
        return amount("Cost a week", plan.currency, 0.0, max(1000.0, 2 * shown), 5.0)
    return _choice_of(field, word, plan, group)


def _hand_editor(field: str, word: Word, shown: float) -> Editor:
    if field == "at":
        return Editor(kind="moment", label="At")
    if field == "cpu":
        return number("CPU burnt", "%", 100.0, 1.0, 100.0, 1.0)
    if field == "for":
        return number("For", "min", 1 / 60, 1.0, max(120.0, 1.5 * shown / 60), 1.0)
    known = [("oldest", "the oldest instance"), ("newest", "the newest instance")]
    return choices("Which", known if word.value in ("oldest", "newest") else [(str(word.value), word.text), *known])


def _choice_of(field: str, word: Word, plan: Plan, group: Group) -> Editor | None:
    if field in ("template", "demand"):
        names = plan.templates if field == "template" else plan.demands
        return choices(field.capitalize(), [(name, name) for name in names])
    if field == "zone":
        return choices("Zone", [(zone, zone) for zone in plan.zones])
    if field == "version":
        numbers = range(1, len(plan.templates[group.template].versions) + 1)
        return choices("Version", [("newest", "the newest"), *((number, f"version {number}") for number in numbers)])
    if field == "criteria":
        return choices("Who leaves first", list(CRITERIA.items())).model_copy(update={"kind": "order"})
    if field == "policies_paused":
        return choices("Policies", [(False, "are at work"), (True, "are all paused")])
    if field == "metric":
        policy = _metric_policy(word, group)
        if policy.metric == Metric.OUTSIDE:
            return None
        fit = [m for m in metrics_of_work(group.work.kind) if m.proportional or isinstance(policy, TriggerPolicy)]
        return choices("Metric", [(m.value, m.label) for m in fit])
    if field == "balance_zones":
        return choices("Zones", [(True, "From the fullest zone"), (False, "From any zone")])
    if field == "may_remove":
        return choices("Removing", [(True, "adding and removing"), (False, "never removing")])
    if field == "spread":
        return choices("Spread", list(SPREADS.items()))
    if field in _CHOICES:
        said = {**FOLD_WORDS, **MODES, **BASES, **ARRIVALS, "spread": "emptiest", "pack": "fullest that has room"}
        return choices(field.capitalize(), [(value, said.get(value, value)) for value in _CHOICES[field]])
    return None


def _metric_policy(word: Word, group: Group) -> MetricPolicy:
    """The policy that a word is about."""
    name = str(word.path).split(".")[1]
    policy = next(p for p in group.policies if p.name == name)
    assert isinstance(policy, MetricPolicy)
    return policy
