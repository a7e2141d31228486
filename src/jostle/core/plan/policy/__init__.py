"""Scaling policies: the standing orders of a group. Each kind is whole in its own file; here they are registered."""

from enum import IntEnum
from typing import Annotated, get_args

from pydantic import Field

from jostle.core.plan.policy.base import MOST_BANDS, Expected, MetricPolicy, PolicyBase, Site, Start, chosen_metric
from jostle.core.plan.policy.hold import HoldPolicy
from jostle.core.plan.policy.lookahead import LookaheadPolicy
from jostle.core.plan.policy.spare import SparePolicy
from jostle.core.plan.policy.trigger import TriggerPolicy

__all__ = [
    "MOST_BANDS",
    "Expected",
    "HoldPolicy",
    "LookaheadPolicy",
    "MetricPolicy",
    "PolicyBase",
    "Site",
    "SparePolicy",
    "TriggerPolicy",
    "chosen_metric",
]

Kinds = TriggerPolicy | HoldPolicy | SparePolicy | LookaheadPolicy
Policy = Annotated[Kinds, Field(discriminator="kind")]
POLICY_KINDS: tuple[type[Kinds], ...] = get_args(Kinds)
POLICY_STARTS: dict[str, tuple[type[Kinds], Start]] = {
    name: (kind, start) for kind in POLICY_KINDS for name, start in kind.starts.items()
}


class PolicyKind(IntEnum):
    """The kinds as the compiled code has them."""

    HOLD = 0
    TRIGGER = 1
    SPARE = 2
    LOOKAHEAD = 3
