"""What compiled code needs of the processor it runs on."""

import platform
from pathlib import Path

# x86-64-v2, by the names that Linux has for it
NEEDED = frozenset({"cx16", "lahf_lm", "popcnt", "sse4_1", "sse4_2", "ssse3"})
TOLD = Path("/proc/cpuinfo")


def lacking() -> list[str]:
    """What is missing, by name; nothing where the system does not tell."""
    if platform.machine() != "x86_64" or not TOLD.exists():
        return []
    with TOLD.open() as lines:
        flags = next((line for line in lines if line.startswith("flags")), None)
    return [] if flags is None else sorted(NEEDED.difference(flags.split()))
