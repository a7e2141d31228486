"""What does not go well with instances that keep their names, zones and disks."""

from jostle.core.checks.finding import Finding, Mend
from jostle.core.engine.compile import Crew
from jostle.core.plan.word import say_count


def check_identity(crew: Crew) -> list[Finding]:
    """Kept names on spot, leaving by newest, and in a zone that may be lost."""
    group, zones = crew.group, crew.launch.zones
    if group.identity is None or not group.identity.kept:
        return []
    found = []
    if group.buying is not None and group.buying.on_demand.share < 1.0:
        text = "A reclaimed instance leaves its name, zone and disk to the next, which waits for a machine in that one zone."
        mend = Mend(text="all on demand", settings={"buying.on_demand.share": 1.0})
        found.append(Finding(code="kept-on-spot", severity="warning", path="buying", text=text, mend=mend))
    if group.leaving.criteria[:1] == ["newest"]:
        text = "The newest leaves first: that is whoever came last in the place of another, whatever its number is."
        mend = Mend(text="by oldest instead", settings={"leaving.criteria": ["oldest"]})
        found.append(Finding(code="kept-leaves-newest", severity="warning", path="leaving.criteria", text=text, mend=mend))
    if len(zones) > 1:
        each = -(-group.first_count // len(zones))
        text = (
            f"If a zone is lost, the names there wait for it and do not come up elsewhere: {say_count(each, 'instance')} "
            f"of {group.first_count} at the start."
        )
        found.append(Finding(code="kept-in-zones", severity="note", path="identity.kept", text=text))
    return found
