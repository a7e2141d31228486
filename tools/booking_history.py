"""Write the made-up history that ships with the demo: what booking-web was asked for from 2 June to 6 July, by five minutes.

A day with two peaks, weekdays of their own, growth toward the summer, days that run above or below the usual, a wet Saturday that
brought rebookings, and a morning on which half of it stayed away.
Run: python tools/booking_history.py > src/jostle/demo/booking-history.csv
"""

import sys
from datetime import datetime, timedelta, timezone

import numpy as np

STEP, DAYS = 300, 35
HOURS = [0, 3.5, 6, 8, 9.5, 11.5, 13.5, 16, 18.5, 20.5, 22.5, 24]
SHAPE = [0.31, 0.17, 0.4, 1.2, 1.6, 1.2, 0.97, 1.03, 1.45, 1.28, 0.64, 0.31]
WEEKDAYS = [1.0, 0.97, 0.98, 1.03, 1.17, 1.08, 0.93]
LEVEL, WEEKLY = 172.0, 0.02
WET_SATURDAY, QUIET_MORNING = 19, 30


def main() -> None:
    random = np.random.default_rng(20250602)
    start = datetime(2025, 6, 2, tzinfo=timezone(timedelta(hours=1)))
    per_day = 86400 // STEP
    print("time,requests")
    for day in range(DAYS):
        runs = random.normal(1.0, 0.05)
        for place in range(per_day):
            hour = place * STEP / 3600
            rate = LEVEL * (1 + WEEKLY) ** (day / 7) * WEEKDAYS[day % 7] * float(np.interp(hour, HOURS, SHAPE)) * runs
            if day == WET_SATURDAY and 14 <= hour < 19:
                rate *= 1.8
            if day == QUIET_MORNING and 7 <= hour < 10:
                rate *= 0.5
            at = start + timedelta(days=day, seconds=place * STEP)
            print(f"{at.isoformat(timespec='minutes')},{random.poisson(rate * STEP * max(0.0, random.normal(1.0, 0.025)))}")


if __name__ == "__main__":
    sys.exit(main())
