import os
import subprocess
import sys

SCRIPT = """
import numpy as np
from tests.engines import result
from tests.plans import ADD, REMOVE
found = result(list(range(5, 35)) + list(range(35, 5, -1)) * 2, groups__web__policies=[ADD, REMOVE])
print(repr(found.tally("served")), repr(found.tally("spend")), len(found.events), repr(found.latency(0.5)))
works = ({"kind": "jobs", "job_seconds": 40}, {"kind": "sessions", "seats": 9, "length": 90})
for work in (*works, {"kind": "requests", "cpu_seconds": 0.1}):
    calendar = [{"name": "nap", "kind": "sleep", "from": "2025-07-07T00:10", "for": "5 min"}]
    spare = {"kind": "spare", "name": "spare", "share": 0.3}
    machine = {"vcpus": 2, "memory_gib": 8, "price_per_hour": 1, "baseline": 0.1, "first_credits": 20, "most_credits": 60}
    own = {"groups__web__load_balancer": {"sticky": 60}, "machines__otter-2": machine}
    found = result([0.2] * 150, **own, groups__web__work=work, groups__web__calendar=calendar, groups__web__policies=[spare])
    print(repr(found.tally("served")), repr(found.tally("failed")), repr(found.tally("spend")), len(found.events))
"""


def test_without_the_compiler_the_same_code_gives_the_same_figures():
    answers = []
    for disabled in ("0", "1"):
        done = subprocess.run(
            [sys.executable, "-c", SCRIPT],
            env={**os.environ, "NUMBA_DISABLE_JIT": disabled},
            capture_output=True,
            text=True,
            check=True,
        )
        answers.append([float(word) for word in done.stdout.split()])
    compiled, plain = answers
    assert all(abs(a - b) <= 1e-9 * abs(b) for a, b in zip(compiled, plain, strict=True))
