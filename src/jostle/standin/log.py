"""The log of a stand-in's world: what was ordered, before it is acknowledged; with snapshots, so that it never grows for long.

Like a ship's log: what is not written did not happen, and a new volume begins with where the ship stands.
"""

import json
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

SNAPSHOT, VOLUME = "snapshot.npz", "orders-{}.jsonl"


class Log:
    """Kept in a folder; in memory only where there is none, in which case nothing survives."""

    def __init__(self, folder: Path | None) -> None:
        self.folder = folder
        self._volume = 0
        self._file: int | None = None
        if folder is not None:
            folder.mkdir(parents=True, exist_ok=True)

    def read_snapshot(self) -> tuple[dict[str, Any], dict[str, np.ndarray]] | None:
        """What the last snapshot says, and its arrays; None where there is none."""
        path = self.folder and self.folder / SNAPSHOT
        if path is None or not path.exists():
            return None
        with np.load(path, allow_pickle=False) as kept:
            arrays = {name: kept[name] for name in kept.files}
        said: dict[str, Any] = json.loads(arrays.pop("said").tobytes())
        self._volume = said["volume"]
        return said, arrays

    def entries(self) -> Iterator[dict[str, Any]]:
        """What was ordered since the last snapshot, in its order. A line that was never finished was never acknowledged."""
        if self.folder is None:
            return
        path = self.folder / VOLUME.format(self._volume)
        if not path.exists():
            return
        whole = path.read_bytes()
        kept = whole[: whole.rfind(b"\n") + 1]
        if len(kept) < len(whole):
            os.truncate(path, len(kept))
        for line in kept.splitlines():
            yield json.loads(line)

    def write(self, entry: dict[str, Any], lasting: bool) -> None:
        """Write an entry; a `lasting` one is on the disk when this returns. Raises OSError, and then nothing was written."""
        if self.folder is None:
            return
        if self._file is None:
            path = self.folder / VOLUME.format(self._volume)
            self._file = os.open(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o600)
        before = os.fstat(self._file).st_size
        line = json.dumps(entry, separators=(",", ":")).encode() + b"\n"
        try:
            if os.write(self._file, line) < len(line):
                raise OSError("the disk is full: the order was not written; make room and try again")
            if lasting:
                os.fsync(self._file)
        except OSError:
            os.ftruncate(self._file, before)
            raise

    def snapshot(self, said: dict[str, Any], arrays: dict[str, np.ndarray]) -> None:
        """Begin a new volume with where the world stands."""
        if self.folder is None:
            return
        following = self._volume + 1
        told = np.frombuffer(json.dumps({**said, "volume": following}).encode(), np.uint8)
        part = self.folder / f"{SNAPSHOT}.part"
        with part.open("wb") as file:
            np.savez_compressed(file, allow_pickle=False, said=told, **arrays)
            file.flush()
            os.fsync(file.fileno())
        if self._file is not None:
            os.close(self._file)
        self._file = None
        old, self._volume = self.folder / VOLUME.format(self._volume), following
        part.replace(self.folder / SNAPSHOT)
        old.unlink(missing_ok=True)
