"""How a word of the page is edited: what its owner says, a policy, an entry, a promise, or else the group."""

from jostle.api.repeat_editor import exception_editor, repeat_editor
from jostle.core.engine.compile import Crew
from jostle.core.journal.machine_line import free_text
from jostle.core.journal.sentence import BASES, BRAKED, CRITERIA, CRITERIA_HINTS, MODES
from jostle.core.plan.balancer import LoadBalancer
from jostle.core.plan.buying import Buying
from jostle.core.plan.editor import Choice, Editor, Value, amount, choices, editor_in, number
from jostle.core.plan.identity import Identity
from jostle.core.plan.notice import Notice
from jostle.core.plan.order import Order
from jostle.core.plan.place import Place
from jostle.core.plan.plan import Plan
from jostle.core.plan.policy import Site
from jostle.core.plan.quantity import say_money
from jostle.core.plan.setting import position_of
from jostle.core.plan.tariff import MONTH_HOURS
from jostle.core.plan.template_field import template_field
from jostle.core.plan.word import Word

_OF_GROUP = {
    "minimum": number("Minimum", "instances", 1.0, 0.0, 100.0, 1.0).found_by("min size least lowest count lower limit"),
    "maximum": number("Maximum", "instances", 1.0, 1.0, 100.0, 1.0).found_by("max size most highest count upper limit cap"),
    "first_start.surplus": number("Beyond need", "instances", 1.0, 0.0, 100.0, 1.0),
    "cooldown": number("Wait", "min", 1 / 60, 0.0, 30.0, 0.5).found_by("cooldown pause between changes of all policies"),
    "drain": number("Drain", "min", 1 / 60, 0.0, 30.0, 0.5).found_by("draining connections shutdown"),
    "evaluate_every": number("Asked every", "s", 1.0, 10.0, 600.0, 10.0).found_by("evaluation period interval"),
    "meters.period": number("Meter period", "s", 1.0, 10.0, 600.0, 10.0).found_by("monitoring metrics granularity"),
    "meters.delay": number("Meter delay", "s", 1.0, 0.0, 300.0, 5.0),
    "leaving.brake.of": choices("Of", list(BRAKED.items())),
    "leaving.brake.within": number("Within", "min", 1 / 60, 1.0, 120.0, 1.0),
    "leaving.pinned": number("Pinned", "instances", 1.0, 0.0, 100.0, 1.0).found_by("protected from scale in"),
    "leaving.criteria": Editor(
        kind="order",
        label="Who leaves first",
        choices=[Choice(value=one, text=text, hint=CRITERIA_HINTS[one]) for one, text in CRITERIA.items()],
    ),
    "leaving.balance_zones": choices("Zones", [(True, "From the fullest zone"), (False, "From any zone")]),
    "health.interval": number("Between checks", "s", 1.0, 5.0, 300.0, 5.0).found_by("health check probe interval"),
    "health.grace": number("Grace", "min", 1 / 60, 0.0, 60.0, 0.5).found_by("health check grace period warmup"),
    "health.unhealthy_after": number("Failed checks", "", 1.0, 0.0, 100.0, 1.0).found_by("health check unhealthy"),
    "health.healthy_after": number("Passed checks", "", 1.0, 0.0, 100.0, 1.0).found_by("health check healthy"),
    "health.basis": choices("Basis", list(BASES.items())).found_by("health check kind"),
    "mending.restarts": number("Restarts", "", 1.0, 0.0, 20.0, 1.0).found_by("auto-repair heal recovery"),
    "faults.every": number("Mean time between faults", "d", 1 / 86400, 1.0, 365.0, 1.0),
    "faults.frozen": number("Freeze", "%", 100.0, 0.0, 100.0, 1.0),
    "faults.hung": number("Hang", "%", 100.0, 0.0, 100.0, 1.0),
    "faults.never_boots": number("Never boot", "%", 100.0, 0.0, 50.0, 1.0),
    "policies_paused": choices("Policies", [(False, "are at work"), (True, "are all paused")]),
    "mode": choices("Mode", list(MODES.items())),
}


def site_of(plan: Plan, crew: Crew) -> Site:
    """Where the policies of a group are at work."""
    group = crew.group
    return Site(group.work, crew.launch.zones, list(plan.outside), group.maximum - group.minimum, tuple(plan.demands))


def editor_of(word: Word, plan: Plan, crew: Crew, site: Site) -> Editor | None:
    """The editor of a word of a group at work there; None for plain text."""
    group = crew.group
    if word.path is None:
        return None
    part, _, place = word.path.partition(".")
    field = word.path.split(".")[-1]
    match part:
        case "policies":
            policy = next(p for p in group.policies if p.name == place.split(".")[0])
            return policy.editor(field, word.value, site)
        case "calendar":
            return _of_entry(word, crew)
        case "hands" | "promises":
            owners = group.hands if part == "hands" else group.promises
            number_of = position_of(place.split(".")[0], len(owners))
            if number_of is None:
                return None
            if part == "hands":
                return group.hands[number_of].editor(field, word.value, word.text)
            return group.promises[number_of].editor(field, word.value, plan.currency)
        case "work":
            return group.work.editor(field, word.value)
        case "buying" if place == "caps.amount":
            return amount("No more than", plan.currency, 0.0, max(1.0, 3 * float(str(word.value))), 0.001)
        case "buying":
            return editor_in(Buying.editors, "weights" if place.startswith("weights.") else place, word.value)
        case "place":
            return editor_in(Place.editors, place, word.value)
        case "notice":
            return editor_in(Notice.editors, place, word.value)
        case "identity":
            return editor_in(Identity.editors, place, word.value)
        case "order":
            return editor_in(Order.editors, place, word.value)
        case "load_balancer":
            return editor_in(LoadBalancer.editors, place.partition(".")[0], word.value)
        case _:
            return _of_the_group(word.path, word, plan, crew)


def _of_entry(word: Word, crew: Crew) -> Editor | None:
    _, name, field = str(word.path).split(".", 2)
    entry = next(entry for entry in crew.group.calendar if entry.name == name)
    match field:
        case "to":
            known = [(one, f"version {one}") for one in range(1, crew.launch.versions + 1)]
            return choices("Version", [("newest", "the newest"), *known])
        case "from":
            return Editor(kind="clock" if len(str(word.value)) == len("08:00") else "moment", label="From")
        case "first":
            return Editor(kind="moment", label="First on")
        case "until":
            return Editor(kind="clock", label="Until")
        case "zone":
            return Editor(kind="zone", label="Time zone")
        case "repeat":
            return repeat_editor(word, entry.begin)
        case "except":
            return exception_editor(word)
        case _:
            return entry.editor(field, word.value)


def _of_the_group(path: str, word: Word, plan: Plan, crew: Crew) -> Editor | None:
    group = crew.group
    match path:
        case "host":
            return choices("Host", [(name, name) for name, one in plan.groups.items() if one.hosts])
        case "demand" if group.hosts:
            return choices("Incidents of", [("", "none"), *((name, name) for name in plan.demands)])
        case "template" | "demand":
            names = plan.templates if path == "template" else plan.demands
            chosen = choices(path.capitalize(), [(name, name) for name in names])
            return chosen.found_by("launch template" if path == "template" else "load traffic")
        case "database":
            return choices("Database", [(None, "none"), *((name, name) for name in plan.databases)])
        case "version" | "start_version":
            numbers = range(1, len(plan.templates[group.template].versions) + 1)
            first: tuple[Value, str] = ("newest", "the newest") if path == "version" else (None, "that of the others")
            return choices("Version", [first, *((one, f"version {one}") for one in numbers)])
        case "minimum" | "maximum":
            return _OF_GROUP[path].around(word.value).model_copy(update={"hint": _always(crew, word.value, plan.currency)})
        case "start_count":
            return number("At the start", "instances", 1.0, float(group.minimum), float(group.maximum), 1.0).around(word.value)
        case "owned":
            return number("Owned", "instances", 1.0, 0.0, float(group.maximum), 1.0).around(word.value)
        case "leaving.brake.at_most":
            percent = group.leaving.brake is not None and group.leaving.brake.of == "percent"
            return number("At most", "%" if percent else "instances", 1.0, 1.0, 100.0, 1.0).around(word.value)
        case _ if path.startswith("launch."):
            return _of_the_launch(path.partition(".")[2], plan)
        case _:
            return editor_in(_OF_GROUP, path, word.value)


def _always(crew: Crew, count: int, currency: str) -> str:
    month = crew.tariff.running * MONTH_HOURS / crew.weight_of(0)
    return f"Always {count} cost {say_money(count * month, currency)} a month, each {say_money(month, currency)}"


def _free(plan: Plan, machine: str) -> str:
    free = free_text(plan.machines[machine])
    return f"{free} are free, over all groups" if free else ""


def _of_the_launch(name: str, plan: Plan) -> Editor | None:
    """What a group fills in for its template is written as on the template's sheet."""
    field = template_field(plan, name)
    if field is None:
        return None
    if field.kind == "flag":
        return choices(field.label, [("", "left open"), ("yes", "yes"), ("no", "no")])
    if name == "machine":
        hinted = [Choice(value=one, text=one, hint=_free(plan, one)) for one in field.choices]
        return Editor(kind="choice", label=field.label, choices=[Choice(value="", text="left open"), *hinted])
    if field.kind == "choice":
        return choices(field.label, [("", "left open"), *((one, one) for one in field.choices)])
    known = f" ({', '.join(field.choices)})" if field.choices else ""
    return Editor(kind="text", label=f"{field.label}{known}", blank=True)
