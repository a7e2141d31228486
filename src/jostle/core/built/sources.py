"""What compiled code is built from, told by a key."""

import hashlib
from pathlib import Path

FOLDER = Path(__file__).parent
# Holds the key of what it was built from, where that is there to be changed
MARK = FOLDER / "built_from"


def sources() -> list[Path]:
    """The files that compiled code is built from; none where it was installed without them."""
    if not (FOLDER / "play.pyx").exists():
        return []
    return sorted([*FOLDER.parent.rglob("*.pxi"), *(path for kind in ("pyx", "pxd", "h") for path in FOLDER.glob(f"*.{kind}"))])


def sources_key() -> str:
    """Their content, as 16 letters; empty where there are none."""
    digest, files = hashlib.sha256(), sources()
    for path in files:
        digest.update(path.name.encode() + path.read_bytes())
    return digest.hexdigest()[:16] if files else ""


def is_built() -> bool:
    """Whether it was built from the sources as they are, or has none that could be newer."""
    key = sources_key()
    return not key or (MARK.exists() and MARK.read_text() == key)
