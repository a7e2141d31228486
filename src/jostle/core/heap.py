"""How much of the memory that is given back stays with the process, where the C library can be told."""

import ctypes

MIB = 2**20
_TRIM_THRESHOLD, _MMAP_THRESHOLD, _ARENA_MAX = -1, -3, -8


def tune_heap(large: int, kept: int, arenas: int | None = None) -> None:
    """Have glibc ask the system for each piece of so many bytes by itself, and give it back at once; keep so many free bytes of
    the others; and keep so many heaps for threads, where that is said. A C library without this call does as it does."""
    try:
        tune = ctypes.CDLL(None).mallopt
    except (OSError, AttributeError):
        return
    for parameter, value in ((_MMAP_THRESHOLD, large), (_TRIM_THRESHOLD, kept), (_ARENA_MAX, arenas)):
        if value is not None:
            tune(parameter, value)


def keep_heap() -> None:
    """Have the record of one rehearsal stay for the next: the system clears every page that it hands out anew, which would take
    up to a quarter of a rehearsal's time."""
    tune_heap(32 * MIB, 64 * MIB)
