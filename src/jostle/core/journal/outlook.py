"""When the count would next change if the demand stayed as it is."""

import numpy as np

from jostle.core.journal.event import say_time
from jostle.core.plan.quantity import say_duration, say_rate
from jostle.core.rehearsal.closer import played_again
from jostle.core.rehearsal.rehearsal import Rehearsal

AHEAD = 86400.0


def outlook(rehearsal: Rehearsal, seconds: float) -> str:
    """One sentence, of a host none: the rehearsal is played on with the demand of the last minutes, for a day at the most."""
    setup, clock = rehearsal.result.setup, rehearsal.clock
    step = int(setup.of("evaluate_ticks"))
    now = min(max(step, int(seconds / clock.tick)), clock.ticks)
    steady = float(setup.means[max(0, now - step) : now].mean())
    whole = rehearsal.crew.group.work.kind == "sessions" or setup.of("held_jobs")
    arrivals, means = setup.arrivals.copy(), setup.means.copy()
    means[now:] = steady
    arrivals[now:] = np.diff(np.floor(steady * np.arange(clock.ticks - now + 1))) if whole else steady
    until = min(clock.ticks, now + round(AHEAD / clock.tick))
    going_on = setup._replace(means=means, arrivals=arrivals)
    rows = played_again(rehearsal, going_on, until).decisions
    later = rows[(rows["time"] > seconds + 1e-6) & (rows["decided"] != rows["desired"])]
    if rehearsal.crew.group.hosts:
        return ""
    said = f"If the demand stays at {say_rate(steady / clock.tick)}"
    if not len(later):
        return f"{said}, the count stays for {say_duration(max(0.0, round((until - now) * clock.tick / 60) * 60))} at least."
    row = later[0]
    return f"{said}, it goes {int(row['desired'])} → {int(row['decided'])} at {say_time(clock, float(row['time']))}."
