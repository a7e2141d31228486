"""What becomes of an instance whose fault the health checks have found."""

from jostle.core.compiled import door
from jostle.core.decide.rules import Rules


@door
def restarts(rules: Rules, restarted: int, stranded: bool) -> bool:
    """Whether it is restarted, rather than replaced: not too often, and not in a zone that is lost."""
    return restarted < rules.row[0].restarts and not stranded
