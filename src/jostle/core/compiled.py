"""The one way in which numeric code is compiled, and where the compiled code is kept.

Numba looks only at the file of a function to tell whether its cached machine code is stale. A leaf that is called
from another file could so go on in its old form. The cache directory is therefore named after a hash of every
source that holds compiled code.
"""

import hashlib
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numba
from platformdirs import user_cache_path

F = TypeVar("F", bound=Callable[..., Any])

_CORE = Path(__file__).parent
_FOLDERS = ("engine", "decide", "plan/policy", "costs", "rehearsal")
_FILES = ("draw.py", "compiled.py", "plan/layer.py", "plan/rollout.py", "plan/tariff.py", "plan/work/__init__.py", "reference.py")
_SOURCES = (*(path for name in _FOLDERS for path in sorted((_CORE / name).glob("*.py"))), *(_CORE / name for name in _FILES))


def sources_key() -> str:
    """Hash of the sources that hold compiled code, and of Numba's version."""
    digest = hashlib.sha256(numba.__version__.encode())
    for source in _SOURCES:
        digest.update(source.read_bytes())
    return digest.hexdigest()[:16]


def cache_directory() -> Path:
    base = os.environ.get("JOSTLE_CACHE")
    return (Path(base) if base else user_cache_path("jostle")) / f"engine-{sources_key()}"


CACHE = cache_directory()
numba.config.CACHE_DIR = str(CACHE)
# Most loops are over a few machines, zones or readings: made ready to go by several at once they take longer.
numba.config.LOOP_VECTORIZE = 0


def is_warm() -> bool:
    """Whether the engine has been compiled before with these sources."""
    return bool(numba.config.DISABLE_JIT) or any(CACHE.glob("**/advance.advance-*.nbc"))


def _compile(function: F, **options: Any) -> F:
    compiled: F = numba.njit(cache=True, nogil=True, error_model="numpy", no_cfunc_wrapper=True, **options)(function)
    return compiled


def maker(function: F) -> F:
    """Compile a function that makes the arrays it returns."""
    return _compile(function)


def leaf(function: F) -> F:
    """Compile a function that works in the numbers and arrays it is given and makes no array of its own.

    Without arrays of its own it needs no counting of references to them, which would cost more than the work itself.
    """
    return _compile(function, _nrt=False)


def door(function: F) -> F:
    """Compile a leaf that Python calls too, into whatever compiled code calls it: for what runs often and takes many arrays."""
    return _compile(function, _nrt=False, forceinline=True)


def inner(function: F) -> F:
    """Compile a leaf that only compiled code calls: leaving out its door to Python halves the time it takes to compile."""
    return function if numba.config.DISABLE_JIT else _compile(function, _nrt=False, no_cpython_wrapper=True)


def part(function: F) -> F:
    """Have a function compiled as part of whatever compiled code calls it, as if it stood there: for what has few callers and
    calls much, since each function is compiled with all that it calls, once more for each that stands between."""
    return function if numba.config.DISABLE_JIT else _compile(function, _nrt=False, inline="always")


def hot(function: F) -> F:
    """Compile an inner leaf into whatever calls it: for what every tick runs through, where a call costs more than its work."""
    return function if numba.config.DISABLE_JIT else _compile(function, _nrt=False, no_cpython_wrapper=True, forceinline=True)
