"""A finding: a note in the margin of a group's page, with the figures that led to it."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Severity = Literal["error", "warning", "note"]


class Mend(BaseModel):
    """Settings of the group that would put a finding right: path and value of each."""

    model_config = ConfigDict(frozen=True)

    text: str
    settings: dict[str, Any]


class Finding(BaseModel):
    """`code` is stable; `path` is that of the setting within the group; `at` is when it shows, s from the start."""

    model_config = ConfigDict(frozen=True)

    code: str
    severity: Severity
    path: str
    text: str
    mend: Mend | None = None
    at: float | None = Field(default=None)


# What each code means, for readers of reports that know the code only.
MEANINGS = {
    "wrong-side": "A comparison points the wrong way",
    "adds-only": "Policies add and nothing removes",
    "removes-only": "Policies remove and nothing adds",
    "thresholds-cross": "The threshold to remove lies above the threshold to add",
    "swing": "One change drives the metric past the threshold of the opposite change",
    "zero-trap": "With no instance there is no metric, so nothing can ever add one",
    "wait-short": "A wait ends before the new instance shows in the metric",
    "window-short": "A window is shorter than the period of its metric",
    "sticky-slow": "Clients that stay leave a new instance idle for longer than a policy waits",
    "drain-short": "A drain ends before the work on the instance does",
    "grace-short": "Health checks count before a new instance can pass them",
    "health-blind": "The health check cannot see an instance that runs and does not answer",
    "over-quota": "The maximum is above the quota",
    "quota-holds": "The quota, or what other groups leave of it, holds the count down",
    "maximum-unreached": "No policy ever asks for as many as the maximum",
    "minimum-below-zones": "At its minimum the group leaves zones empty",
    "single-zone": "The group is in one zone",
    "template-incomplete": "The template lacks what its group needs",
    "open-to-all": "A firewall rule opens an administration port to the whole world",
    "open-wide": "A firewall rule opens a range of ports to the whole world",
    "check-shut-out": "No firewall rule lets the health check in",
    "network-forgotten": "A group names no subnet while others do",
    "quota-together": "The maxima of groups pass the quota that they share",
    "paid-time-idle": "Paid time decides who leaves, on a machine billed by the second",
    "stopped-billed": "Stopped instances of this type cost as much as running ones",
    "calendar-clash": "Calendar entries contradict one another or the group",
    "floor-late": "A floor's instances are launched at its time and serve after it",
    "calendar-idle": "A calendar entry holds only while another makes it of no effect",
    "calendar-unused": "A calendar entry does not come up in the rehearsal",
    "calendar-gap": "Neither calendar nor policies say how many for part of the time",
    "launch-refused": "Launches are refused in the rehearsal",
    "overflow-often": "Overflow is used so often that too few are owned",
    "never-acts": "A policy never asks for anything in the rehearsal",
    "always-acts": "A policy asks for a change nearly all the time",
    "no-data": "A policy often has no data",
    "cap-below-price": "The cap on the price is below what spot usually costs",
    "cap-below-risk": "The cap on the risk is below what the market usually has",
    "spot-one-zone": "All spot is in one zone",
    "spot-one-type": "All spot is on one machine where others would do as well",
    "needs-one-type": "Only one machine meets the needs of a group",
    "weights-differ": "A unit of one machine does much more than one of another",
    "kept-on-spot": "Instances keep their names and zones on spot",
    "kept-leaves-newest": "With kept names the newest leaves, which is any number",
    "kept-in-zones": "Kept names of a lost zone do not come up elsewhere",
    "types-differ": "Machines of unlike power count as one instance each",
    "spot-interrupts": "Work does not end within the notice of a reclaim",
    "on-demand-much": "More is on demand than the quietest hour needs",
    "storm-breaks": "A storm of reclaims in one zone breaks a promise",
    "regions-apart": "What belongs together lies in several regions",
    "ready-early": "What is to be ready by its time is called for before the span begins",
    "database-apart": "Instances and their database share no zone",
    "balancer-idle": "Nothing ever goes through a load balancer that is paid for",
    "zone-unasked": "The load balancer does not stand in a zone that has instances",
    "above-baseline": "A threshold on CPU lies above what a bursting machine gives for good",
    "against-rules": "A template's version breaks a rule of the plan",
    "network-full": "The network, not the CPU, limits an instance",
    "target-shut-out": "No firewall rule lets the load balancer reach its port",
    "credits-gone": "A bursting machine has no credits left for part of the time",
    "swaps-dear": "Swaps cost more while both are there than they save",
    "host-empty": "A host carries nothing",
    "host-too-small": "The minima of the guests never all find a place",
    "host-drain-short": "A host is gone before the copies of its guests have drained",
    "loss-unborne": "The copies of one host would find no room on the others were it lost",
    "room-in-pieces": "There is room in all, and none of it is large enough for a copy",
    "rollout-past": "A rollout lies before the plan begins, and does not come",
    "canary-short": "A canary is watched for too short a time to tell whether it does worse",
    "canary-few": "A canary meets too few answers to tell whether it does worse",
    "rollout-no-room": "A rollout wants more than the maximum or the quota allows",
    "rollout-meets-rush": "A rollout's pauses keep it under way into a rush",
    "rollout-breaks-promise": "A promise that is kept without a rollout is broken because of it",
    "history-none": "A policy that looks ahead has no history",
    "history-short": "A policy that looks ahead knows less than a week",
    "forecast-poor": "What a policy expects is worse than to expect what came a day before",
    "maximum-short": "The maximum holds the count down while requests wait",
    "promise-narrow": "A promise is kept by less than the rehearsal may be off",
    "promise-hopeless": "No count of instances keeps the promise",
}
