"""A shelf on which what was made stays until others need the room: the longest unused goes first."""

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

from cachetools import LRUCache

T = TypeVar("T")


class Shelf(Generic[T]):
    """Holds `most`, counted by `size` of each thing; one each where that is left out. Threads may share it."""

    def __init__(self, most: int, size: Callable[[T], int] | None = None) -> None:
        self._lock = Lock()
        self._kept: LRUCache[Hashable, T] = LRUCache(most, getsizeof=size)

    def __len__(self) -> int:
        return len(self._kept)

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """What is kept under a key, made where it is not there yet. Too large a thing is made and not kept."""
        with self._lock:
            if key in self._kept:
                return self._kept[key]
        made = make()
        with self._lock:
            if self._kept.getsizeof(made) <= self._kept.maxsize:
                self._kept[key] = made
        return made

    def peek(self, key: Hashable) -> T | None:
        """What is kept under a key, if anything."""
        with self._lock:
            return self._kept.get(key)
