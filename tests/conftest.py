"""Drawn examples are the same at every run, so that a failure is found by whoever causes it; JOSTLE_EXPLORE draws new ones."""

import os

from hypothesis import settings

settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("explore", derandomize=False, deadline=None)
settings.load_profile("explore" if os.environ.get("JOSTLE_EXPLORE") else "steady")
