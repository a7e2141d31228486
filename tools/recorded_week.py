"""Write the made-up recorded week that ships with the demo: counts of requests by the minute, as a web server's log gives.

It knows nothing of Jostle: visitors come as a Poisson process whose intensity follows the day and a slow random walk,
and each visitor makes several requests. Two gaps and some rows out of order are left in, as such files have them.
Run: python tools/recorded_week.py > src/jostle/demo/june-week.csv
"""

import sys
from datetime import datetime, timedelta, timezone

import numpy as np

MINUTES = 7 * 24 * 60 + 150
GAPS = ((2 * 1440 + 611, 23), (5 * 1440 + 187, 41))


def main() -> None:
    random = np.random.default_rng(20250616)
    minute = np.arange(MINUTES)
    hour = minute / 60 % 24
    day = np.array([1.0, 0.95, 0.98, 1.06, 1.22, 1.34, 1.12, 1.0])[minute // 1440]
    shape = (
        0.12
        + 0.62 * np.exp(-((hour - 9.6) ** 2) / 5.5)
        + 0.78 * np.exp(-((hour - 19.2) ** 2) / 7.5)
        + 0.3 * np.exp(-((hour - 14) ** 2) / 14)
    )
    walk = np.empty(MINUTES)
    level = 0.0
    for k in range(MINUTES):
        level = 0.985 * level + random.normal(0, 0.012)
        walk[k] = level
    visitors = random.poisson(1450 * day * shape * np.exp(walk))
    requests = visitors + random.poisson(6.2 * visitors)
    start = datetime(2025, 6, 16, tzinfo=timezone(timedelta(hours=1)))
    rows = [(start + timedelta(minutes=int(k)), int(requests[k])) for k in minute if not any(a <= k < a + n for a, n in GAPS)]
    for swap in random.choice(len(rows) - 4, 17, replace=False):
        rows[swap], rows[swap + 3] = rows[swap + 3], rows[swap]
    print("time,requests")
    for at, count in rows:
        print(f"{at.isoformat(timespec='minutes')},{count}")


if __name__ == "__main__":
    sys.exit(main())
