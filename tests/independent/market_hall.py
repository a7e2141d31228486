"""A host and its guests once more, written apart from the engine: lists of stalls on halls, second by second where it matters.

Counts of guests are set by hand, halls are sized by a policy that keeps a share of their memory free.
"""

import math
from dataclasses import dataclass, field

STEP, MINUTE, BOOT, START, DELAY, COOLDOWN = 10, 60, 100, 10, 30, 300


@dataclass
class Stall:
    """What one copy takes, and how many are wanted from which hour on."""

    vcpus: float
    memory: float
    steps: list
    wanted: int = 1
    copies: list = field(default_factory=list)  # of Copy
    waiting: int = 0


@dataclass
class Copy:
    hall: "OneHall"
    runs_from: float
    replaces: "Copy | None" = None


@dataclass
class OneHall:
    opens: float
    leaves: float | None = None


class Hall:
    def __init__(self, vcpus, memory, put, stalls, share, slack):
        self.vcpus, self.memory, self.put, self.stalls, self.share, self.slack = vcpus, memory, put, stalls, share, slack
        self.halls = [OneHall(0), OneHall(0)]
        self.wanted, self.quiet_until, self.samples = 2, 0.0, []
        self.hosts_serving, self.waited, self.held = [], 0.0, 0.0
        for stall in stalls:
            self.fill(stall, 0, at_once=True)

    def left(self, hall):
        on = [(s.vcpus, s.memory) for s in self.stalls for c in s.copies if c.hall is hall]
        return self.vcpus - sum(v for v, _ in on), self.memory - sum(m for _, m in on)

    def place(self, stall, now):
        open_halls = [h for h in self.halls if h.opens <= now and h.leaves is None]
        fit = [h for h in open_halls if self.left(h)[0] >= stall.vcpus - 1e-9 and self.left(h)[1] >= stall.memory - 1e-9]
        if not fit:
            return None
        own = {id(h): sum(c.hall is h for c in stall.copies) for h in fit}
        if self.put == "spread":
            return min(fit, key=lambda h: (own[id(h)], -round(self.left(h)[1], 6), self.halls.index(h)))
        return min(fit, key=lambda h: (round(self.left(h)[1], 6), own[id(h)], self.halls.index(h)))

    def fill(self, stall, now, at_once=False):
        """As many copies as are wanted, where there is a place."""
        being_moved = sum(c.replaces is not None for c in stall.copies)
        while len(stall.copies) - being_moved < stall.wanted:
            hall = self.place(stall, now)
            if hall is None:
                break
            stall.copies.append(Copy(hall, now if at_once else now + START))
        while len(stall.copies) - being_moved > stall.wanted:
            stall.copies.pop(0)
        stall.waiting = max(0, stall.wanted - (len(stall.copies) - being_moved))

    def clear(self, now):
        """Copies of halls that leave start elsewhere, and end there once they run."""
        for stall in self.stalls:
            for copy in list(stall.copies):
                moving = any(c.replaces is copy for c in stall.copies)
                if copy.hall.leaves is not None and not moving and (hall := self.place(stall, now)):
                    stall.copies.append(Copy(hall, now + START, copy))
            for copy in list(stall.copies):
                if copy.replaces is not None and copy.runs_from <= now:
                    if copy.replaces in stall.copies:
                        stall.copies.remove(copy.replaces)
                    copy.replaces = None
        for hall in list(self.halls):
            if hall.leaves is not None and (
                all(c.hall is not hall for s in self.stalls for c in s.copies) or now >= hall.leaves + 600
            ):
                self.halls.remove(hall)
                for stall in self.stalls:
                    stall.copies = [c for c in stall.copies if c.hall is not hall]

    def size(self, now):
        """The policy: the last sample that is known, the smallest count with so much free, and down only with room to spare."""
        known = [used for time, used in self.samples if time + DELAY <= now]
        if not known or now < self.quiet_until:
            return

        def least(free):
            return math.ceil(known[-1] / (1 - free) / self.memory - 1e-9)

        count = least(self.share)
        if count < self.wanted:
            count = min(self.wanted, least(self.share * (1 + self.slack)))
        count = min(12, max(1, count))
        if count != self.wanted:
            self.wanted, self.quiet_until = count, now + COOLDOWN
        there = [h for h in self.halls if h.leaves is None]
        for _ in range(self.wanted - len(there)):
            self.halls.append(OneHall(now + BOOT))
        for hall in there[: max(0, len(there) - self.wanted)]:
            hall.leaves = now

    def run(self, seconds):
        for now in range(0, int(seconds), STEP):
            for stall in self.stalls:
                for hour, count in stall.steps:
                    if now == round(hour * 3600):
                        stall.wanted = count
                        self.fill(stall, now)
            self.clear(now)
            for stall in self.stalls:
                self.fill(stall, now)
            self.hosts_serving.append(sum(h.opens <= now and h.leaves is None for h in self.halls))
            self.waited += STEP * sum(s.waiting for s in self.stalls)
            self.held += STEP * sum(c.runs_from <= now for s in self.stalls for c in s.copies)
            if (now + STEP) % MINUTE == 0:
                used = sum(s.memory * (len(s.copies) + s.waiting) for s in self.stalls)
                self.samples.append((now + STEP, used))
                self.size(now + STEP)
