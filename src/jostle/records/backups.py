"""Copies of the records, one for each day on which the service ran, and what is put in the place of records that are damaged."""

import sqlite3
from contextlib import closing
from datetime import UTC
from pathlib import Path

from jostle.core.today import stamp, today
from jostle.records.store import RecordsError, Store, check_file, read_only

# Days of running of which a copy is kept
KEPT = 7


def folder_of(path: Path) -> Path:
    """Where the copies of a file of records lie."""
    return path.parent / "backups"


def copies_of(path: Path) -> list[Path]:
    """The copies that there are, newest first."""
    return sorted(folder_of(path).glob("*.sqlite"), key=lambda copy: copy.stem, reverse=True)


def back_up_today(store: Store) -> Path | None:
    """Copy the records, where that was not done today; more than KEPT copies are not kept. None where there is one of today.
    Raises RecordsError, OSError."""
    copy = folder_of(store.path) / f"{_name(store.path, str(today(UTC)))}.sqlite"
    if copy.exists():
        return None
    copy.parent.mkdir(exist_ok=True)
    store.backup(copy)
    for old in copies_of(store.path)[KEPT:]:
        old.unlink()
    return copy


def _name(path: Path, day: str) -> str:
    """What the copy of a day is called, so that it comes after those of before where the clock was set back since: by the last
    day that was seen, and then its own."""
    newest = next(iter(copies_of(path)), None)
    if newest is None or newest.stem <= day:
        return day
    return newest.stem if newest.stem.endswith(f"-then-{day}") else f"{newest.stem[: len(day)]}-then-{day}"


def newest_sound(path: Path) -> Path | None:
    """The newest copy that is not damaged."""
    return next((copy for copy in copies_of(path) if is_sound(copy)), None)


def is_sound(file: Path) -> bool:
    try:
        check_file(file)
    except RecordsError:
        return False
    return True


def what_to_do(path: Path) -> str:
    """What is said to whoever has damaged records."""
    copy = newest_sound(path)
    return f"the newest sound copy comes back with: jostle restore {copy}" if copy else "there is no sound copy of them"


def put_in_place(source: Path, path: Path) -> Path:
    """Put a backup in the place of records that cannot be opened, which are kept beside; returns where. Raises RecordsError,
    OSError."""
    check_file(source)
    aside = path.with_name(f"damaged-{stamp().replace(':', '')}.sqlite")
    path.rename(aside)
    for rest in ("-wal", "-shm"):
        if (beside := path.with_name(path.name + rest)).exists():
            beside.rename(aside.with_name(aside.name + rest))
    with closing(read_only(source)) as good, closing(sqlite3.connect(path)) as new:
        good.backup(new)
    return aside
