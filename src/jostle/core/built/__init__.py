"""Compiled code, and its doors to Python: `play` is the engine, `figure` what is reckoned before and after a rehearsal.

Each part of it stands beside what it belongs to, as NAME.pxi. `layout.h` and `layout.pxd` are written by tools/layout.py.
"""

import os

from jostle.core.built.processor import lacking
from jostle.core.built.sources import is_built

if missing := lacking():
    raise ImportError(f"the engine needs a processor with {', '.join(missing)} (x86-64-v2, from about 2009 on)")
if not (is_built() or os.environ.get("JOSTLE_BUILT_AS_IT_IS")):
    raise ImportError("the engine is not built, or is older than its source; run: make build")
