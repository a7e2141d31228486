"""Drawn examples are the same at every run, so that a failure is found by whoever causes it; JOSTLE_EXPLORE draws new ones."""

import os
import time

import pytest
from hypothesis import HealthCheck, settings

from jostle.core import today
from tests.days import DAYS, Day

# How soon examples are drawn is the machine's affair
QUIET = [HealthCheck.too_slow]
settings.register_profile("steady", derandomize=True, deadline=None, suppress_health_check=QUIET)
settings.register_profile("explore", settings.get_profile("steady"), derandomize=False)
settings.load_profile("explore" if os.environ.get("JOSTLE_EXPLORE") else "steady")


@pytest.fixture(params=DAYS)
def any_day(request, monkeypatch) -> Day:
    """It is one of the days that are unlike others, and stays the instant that it is."""
    day = DAYS[request.param]
    monkeypatch.setattr(today, "clock", day.instant.timestamp)
    return day


@pytest.fixture
def passing_day(any_day, monkeypatch) -> Day:
    """It is one of these days, and the clock goes on."""
    ahead = any_day.instant.timestamp() - time.time()
    monkeypatch.setattr(today, "clock", lambda: time.time() + ahead)
    return any_day
