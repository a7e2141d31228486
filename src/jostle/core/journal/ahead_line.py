"""What came of a policy that looks ahead, in a sentence."""

import numpy as np

from jostle.core.decide.code import Stance
from jostle.core.plan.quantity import say_duration, say_share
from jostle.core.plan.word import say_count
from jostle.core.rehearsal.forecast import foreseen
from jostle.core.rehearsal.rehearsal import Rehearsal


def ahead_line(rehearsal: Rehearsal, number: int) -> str:
    """`4 min ahead it was off by 6 % on average, as yesterday by 14 %; it would have asked for more 31 times`."""
    views, rows = rehearsal.result.views[:, number], rehearsal.result.decisions
    off, yesterday = foreseen(rehearsal, number)
    if off is None:
        return "It knew of no week before."
    lead = float(rehearsal.result.setup.rules.policies.view(np.ndarray)["lead"][number])
    compared = "" if yesterday is None else f"; as a day before would have been off by {say_share(yesterday)}"
    more = views["ask"] > rows["desired"]
    began = int((more[1:] & ~more[:-1]).sum()) + int(len(more) > 0 and bool(more[0]))
    would = "would have asked" if bool((views["state"] == Stance.ADVISING).any()) else "asked"
    long = say_duration(float(more.sum()) * rehearsal.crew.group.evaluate_every)
    asked = f"It {would} for more {say_count(began, 'time')}, for {long}" if began else f"It {would} for no more"
    return f"{say_duration(lead)} ahead it was off by {say_share(off)} on average{compared}. {asked}."
