"""Who has a folder of records in use: one service at a time, until it ends, however it ends."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


class InUse(RuntimeError):
    """Another has it."""


@contextmanager
def alone_with(folder: Path) -> Iterator[None]:
    """Have a folder alone meanwhile. Raises InUse with who has it; OSError where it cannot be written to."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "in-use").open("a+") as mark:
        try:
            # Given back by the system when the process ends
            fcntl.flock(mark, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            mark.seek(0)
            who = mark.read(20).strip()
            raise InUse(f"process {who} serves the records in {folder} already; stop it first, or name another folder") from None
        mark.truncate(0)
        mark.write(str(os.getpid()))
        mark.flush()
        yield
