"""A harbour that hires boats minute by minute, some for good and some at a price that wanders and may be called back: written
apart from the engine, with chance of its own."""

import math
from dataclasses import dataclass, field

import numpy as np

MINUTE, STEP = 60, 300


@dataclass
class Boat:
    sort: str
    quay: str
    hired: bool
    ready: int
    away: float = math.inf
    stead_of: "Boat | None" = None


@dataclass
class Harbour:
    """`sorts` has for each sort what it does a second, what it costs for good an hour, and the level of its hire as a share
    of that; the rest is as in the terms of a group."""

    sorts: dict[str, tuple[float, float, float]]
    quays: list[str]
    count: int
    kept: int
    rate: float
    days: int
    seed: int
    spread: float = 0.2
    back_in: float = 3 * 3600
    called: float = 0.3
    rises: float = 2.0
    notice: int = 120
    drain: int = 60
    ready_in: int = 120
    swap_every: int = 600
    swap_saves: float = 0.2
    at_once: int = 2
    boats: list[Boat] = field(default_factory=list)
    serving_minutes: int = 0
    serve: int = 0
    can: float = 0.0
    price: float = 0.0
    paid: float = 0.0
    calls: int = 0
    swapped: int = 0
    failed: float = 0.0

    def __post_init__(self) -> None:
        self.chance = np.random.default_rng(self.seed)
        self.depth = math.sqrt(math.log(1 + self.spread**2))
        self.swell = {(s, q): self.chance.normal() for s in self.sorts for q in self.quays}

    def factor(self, sort: str, quay: str) -> float:
        return math.exp(self.depth * self.swell[sort, quay] - self.depth**2 / 2)

    def hire(self, sort: str, quay: str) -> float:
        _, price, level = self.sorts[sort]
        return price * level * self.factor(sort, quay)

    def asks(self, boat: Boat) -> float:
        return self.hire(boat.sort, boat.quay) if boat.hired else self.sorts[boat.sort][1]

    def drift(self) -> None:
        stays = math.exp(-STEP / self.back_in)
        for place in self.swell:
            self.swell[place] = stays * self.swell[place] + math.sqrt(1 - stays**2) * self.chance.normal()

    def there(self) -> list[Boat]:
        return [boat for boat in self.boats if boat.away == math.inf]

    def cheapest(self, least: float) -> tuple[str, str]:
        fit = [place for place in self.swell if self.sorts[place[0]][0] >= least - 1e-9]
        return min(fit, key=lambda place: self.hire(*place) / self.sorts[place[0]][0])

    def emptiest(self) -> str:
        return min(self.quays, key=lambda quay: sum(boat.quay == quay for boat in self.there()))

    def fill(self, now: int) -> None:
        coming = sum(boat.stead_of is not None for boat in self.there())
        while len(self.there()) < self.count + coming:
            if sum(not boat.hired for boat in self.there()) < self.kept:
                sort = min(self.sorts, key=lambda one: self.sorts[one][1] / self.sorts[one][0])
                self.boats.append(Boat(sort, self.emptiest(), False, now + self.ready_in))
            else:
                self.boats.append(Boat(*self.cheapest(0), True, now + self.ready_in))

    def begin(self) -> None:
        """At first those that are hired are of each sort in turn."""
        dear = min(self.sorts, key=lambda one: self.sorts[one][1] / self.sorts[one][0])
        for number in range(self.count):
            quay, turn = self.quays[number % len(self.quays)], list(self.sorts)[(number - self.kept) % len(self.sorts)]
            self.boats.append(Boat(dear if number < self.kept else turn, quay, number >= self.kept, 0))

    def call_back(self, now: int) -> None:
        for boat in self.there():
            rate = self.called * self.factor(boat.sort, boat.quay) ** self.rises
            if boat.hired and self.chance.random() < 1 - math.exp(-rate * STEP / 3600):
                self.calls += 1
                boat.away = now + (min(self.drain, self.notice) if boat.ready <= now else 0)
                for other in self.there():
                    if other.stead_of is boat:
                        other.stead_of = None

    def swap(self, now: int) -> None:
        for _ in range(self.at_once - sum(boat.stead_of is not None for boat in self.there())):
            meant = [boat.stead_of for boat in self.there()]
            may = [boat for boat in self.there() if boat.hired and boat.ready <= now and not any(boat is one for one in meant)]
            if not may:
                return
            dear = max(may, key=lambda boat: self.asks(boat) / self.sorts[boat.sort][0])
            place = self.cheapest(self.sorts[dear.sort][0])
            does = self.sorts[place[0]][0]
            if self.hire(*place) / does > (1 - self.swap_saves) * self.asks(dear) / self.sorts[dear.sort][0]:
                return
            self.boats.append(Boat(*place, True, now + self.ready_in, stead_of=dear))

    def relieve(self, now: int) -> None:
        for boat in self.there():
            if boat.stead_of is not None and boat.ready <= now:
                if boat.stead_of.away == math.inf:
                    boat.stead_of.away = now + self.drain
                    self.swapped += 1
                boat.stead_of = None

    def run(self) -> "Harbour":
        self.begin()
        for now in range(0, self.days * 86400, MINUTE):
            if now % STEP == 0 or not self.is_calm(now):
                self.live(now)
            self.serving_minutes += self.serve
            self.paid += self.price * MINUTE / 3600
            self.failed += max(0.0, self.rate - self.can) * MINUTE
        return self

    def is_calm(self, now: int) -> bool:
        """Whether nobody comes or goes in a minute."""
        return len(self.boats) == self.count and all(boat.ready < now and boat.away == math.inf for boat in self.boats)

    def live(self, now: int) -> None:
        self.relieve(now)
        if now > 0:
            self.fill(now)
        if now > 0 and now % STEP == 0:
            self.drift()
            self.call_back(now)
        if now > 0 and now % self.swap_every == 0:
            self.swap(now)
        self.boats = [boat for boat in self.boats if boat.away > now]
        serving = [boat for boat in self.there() if boat.ready <= now]
        self.serve, self.can = len(serving), sum(self.sorts[boat.sort][0] for boat in serving)
        self.price = sum(self.asks(boat) for boat in self.boats)
