"""How a balancer that sends each request to the least busy instance differs from one pooled line, told by the independent model.

Writes src/jostle/core/engine/least_busy.py: by instances and load, the share that waits as a part of that of a pooled line of
all vCPUs, and the mean of a wait as a multiple of 1 / (1 - load ** instances) services of one instance.
"""

import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.independent.counters import LEAST, steady

INSTANCES = (1, 2, 3, 5, 10, 20, 40)
LOADS = (0.3, 0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.93, 0.95, 0.97, 0.98)
CLERKS, NUMBER = (1, 2, 8), 4_000_000
FEW = 500
TARGET = Path(__file__).parent.parent / "src/jostle/core/engine/least_busy.py"
HEAD = '''"""The least busy of several instances against one pooled line, as an independent model found it.

Made by tools/least_busy.py; {number:,} requests for each figure.
"""

import numpy as np

# fmt: off
CLERKS = np.array({clerks})
INSTANCES = np.array({instances})
LOADS = np.array({loads})
# Share of requests that wait, as a part of that of a pooled line: by vCPUs, instances and load
WAITING = np.array([
{waiting}
])
# Mean of a wait where there is one, in services of a whole instance, times 1 - load ** instances: the same
LASTING = np.array([
{lasting}
])
# fmt: on
'''


def pooled(servers: int, load: float) -> float:
    blocked = 1.0
    for n in range(1, servers + 1):
        blocked = servers * load * blocked / (n + servers * load * blocked)
    return blocked / (1 - load * (1 - blocked))


def rows(found: np.ndarray) -> str:
    told = ["\n".join(f"     [{', '.join(f'{one:.4f}' for one in row)}]," for row in table) for table in found]
    return "\n".join(f"    [{one.lstrip()}]," for one in told)


def measured(clerks: int) -> tuple[np.ndarray, np.ndarray]:
    """The two tables for instances of so many vCPUs; where too few wait to tell, what the next higher load has."""
    waiting, lasting = np.ones((len(INSTANCES), len(LOADS))), np.ones((len(INSTANCES), len(LOADS)))
    for i, instances in enumerate(INSTANCES[1:], 1):
        for j in reversed(range(len(LOADS))):
            seen = steady(instances, clerks, LOADS[j], way=LEAST, number=NUMBER)
            waits = seen.waits[seen.waits > 0]
            if len(waits) < FEW:
                waiting[i, : j + 1], lasting[i, : j + 1] = waiting[i, j + 1], lasting[i, j + 1]
                break
            waiting[i, j] = len(waits) / len(seen.waits) / pooled(instances * clerks, LOADS[j])
            lasting[i, j] = waits.mean() * clerks * (1 - LOADS[j] ** instances)
    return waiting, lasting


def main() -> None:
    waiting, lasting = zip(*(measured(clerks) for clerks in CLERKS), strict=True)
    measures = {"number": NUMBER, "clerks": list(CLERKS), "instances": list(INSTANCES), "loads": list(LOADS)}
    TARGET.write_text(HEAD.format(**measures, waiting=rows(np.array(waiting)), lasting=rows(np.array(lasting))))


if __name__ == "__main__":
    main()
