"""A ground in the same process, as a provider."""

from jostle.provider.provider import Counts, Instance, Leaves, Readings
from jostle.standin.ground import Ground


class Embedded:
    """A ground in the same process, as a provider."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground

    def counts(self, group: str) -> Counts:
        return self._ground.counts()

    def instances(self, group: str) -> list[Instance]:
        return self._ground.instances()

    def readings(self, group: str, first: int) -> Readings:
        return self._ground.readings(first)

    def more(self, group: str, key: str, number: int, by: int, version: int | None = None) -> None:
        self._ground.more(key, number, by, version)

    def fewer(self, group: str, key: str, leaving: list[Leaves], by: int, notice: str = "") -> None:
        self._ground.fewer(key, leaving, by)

    def mend(self, group: str, key: str, number: int, again: bool) -> None:
        self._ground.handle(key, "mend" if again else "replace", number)
