"""How far work has come, for whoever watches it at a terminal."""

import sys
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from rich.progress import Progress

T = TypeVar("T")
# What takes less is over before it could be read
SHOWN_AFTER = 1.0


def watched(what: str, steps: Iterable[T], number: int) -> Iterator[T]:
    """The steps one by one; past a second a line on standard error says how many are done, where that is a terminal."""
    if not sys.stderr.isatty():
        yield from steps
        return
    with _line() as progress:
        task = progress.add_task(what, total=number, visible=False)
        for step in steps:
            yield step
            progress.advance(task)
            progress.update(task, visible=(progress.tasks[0].elapsed or 0.0) > SHOWN_AFTER)


@contextmanager
def meter(what: str, number: int) -> Iterator[Callable[[int], bool]]:
    """Gives what is told how many are done; it always says to go on."""
    if not sys.stderr.isatty():
        yield lambda done: True
        return
    with _line() as progress:
        task = progress.add_task(what, total=number)

        def told(done: int) -> bool:
            progress.update(task, completed=done)
            return True

        yield told


def _line() -> "Progress":
    # Loaded where somebody watches
    from rich.console import Console
    from rich.progress import Progress, TextColumn, TimeElapsedColumn

    columns = TextColumn("{task.description} {task.completed:.0f} of {task.total:.0f}"), TimeElapsedColumn()
    return Progress(*columns, console=Console(stderr=True), transient=True)
