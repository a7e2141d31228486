"""Write the made-up monitoring export that ships with the demo: three days of booking-web, by five minutes.

It knows nothing of Jostle: requests follow a day's shape with a slow random walk, a plain rule adds and removes servers of two
cores late and in steps, each server burns 5 % by itself and 61 ms of CPU for each request, and the meter is a little off. One
hour is missing, and some readings are nonsense, as such files have them.
Run: python tools/observed_days.py > src/jostle/demo/observed-days.csv
"""

import sys
from datetime import datetime, timedelta, timezone

import numpy as np

STEP, ROWS = 300, 3 * 288
CPU, IDLE, CORES, BOOT = 0.061, 0.05, 2, 2


def main() -> None:
    random = np.random.default_rng(20250709)
    hour = np.arange(ROWS) * STEP / 3600 % 24
    shape = 0.25 + 0.8 * np.exp(-((hour - 10) ** 2) / 7) + 0.9 * np.exp(-((hour - 19) ** 2) / 8)
    level = np.exp(np.cumsum(random.normal(0, 0.01, ROWS)) * 0.5)
    requests = random.poisson(110 * shape * level * STEP)
    wanted, there, coming = 6, 6, []
    print("time,requests,servers in service,servers desired,cpu %")
    start = datetime(2025, 7, 9, tzinfo=timezone(timedelta(hours=1)))
    for k in range(ROWS):
        there += sum(1 for at in coming if at == k)
        coming = [at for at in coming if at > k]
        busy = min(1.0, IDLE + requests[k] / STEP * CPU / (there * CORES))
        seen = min(1.0, max(0.0, busy + random.normal(0, 0.008)))
        if random.random() < 0.02:
            seen = random.random()
        if not 400 <= k < 412:
            at = start + timedelta(seconds=STEP * k)
            print(f"{at.isoformat(timespec='minutes')},{requests[k]},{there},{wanted},{100 * seen:.1f}")
        if busy > 0.55 and there + len(coming) < 60:
            wanted += 2
            coming += [k + BOOT] * 2
        elif busy < 0.35 and there > 4 and not coming:
            wanted -= 1
            there -= 1


if __name__ == "__main__":
    sys.exit(main())
