"""Why it is this one that leaves, in words."""

from jostle.core.decide.code import Criterion, Reason

_REASONS: dict[int, str] = {
    Reason.ONLY: "no other may",
    Reason.ASKED: "it has only been asked for",
    Reason.ZONE: "its zone has the most",
    Reason.OVERFLOW: "it is overflow",
    Reason.BROKEN: "it is broken",
    Reason.COMING: "it does not serve yet",
    Reason.AGE: "in all else like the next, it is older",
    Reason.HAND: "by hand",
    Reason.SURPLUS: "enough serve without it",
    Reason.RECLAIMED: "the market takes it back",
    Reason.SWAPPED: "a cheaper one serves in its place",
    Reason.ROLLOUT: "another version comes in its place",
    Reason.MOVED: "its host leaves",
    Reason.CRITERION + Criterion.DEAREST: "it is the dearest",
    Reason.CRITERION + Criterion.SPOT_FIRST: "it is spot",
    Reason.CRITERION + Criterion.ON_DEMAND_FIRST: "it is on demand",
    Reason.CRITERION + Criterion.OLDEST_VERSION: "its version is older than the next one's",
    Reason.CRITERION + Criterion.OLDEST: "it is the oldest",
    Reason.CRITERION + Criterion.NEWEST: "it is the newest",
    Reason.CRITERION + Criterion.LEAST_PAID_LEFT: "its paid hour ends first",
    Reason.CRITERION + Criterion.FEWEST_SESSIONS: "it holds the fewest sessions",
    Reason.CRITERION + Criterion.FEWEST_COPIES: "it carries the fewest copies",
}


def reason_text(reason: int) -> str:
    return _REASONS[reason]
