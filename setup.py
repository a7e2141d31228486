"""How the compiled part is built; all else stands in pyproject.toml."""

import os
import platform
import sys
from pathlib import Path

import numpy
from Cython.Build import cythonize
from setuptools import Extension, setup
from setuptools.command.build_ext import build_ext

CORE = Path("src/jostle/core")
# The same figures on every machine: no sum and product in one, nor any other order of a sum
EXACT = ["-O3", "-ffp-contract=off", "-fno-math-errno", "-fno-trapping-math"]
# jostle.core.built.processor has what that takes
PORTABLE = ["-march=x86-64-v2"] if platform.machine() == "x86_64" else []
CHECKED = ["-O1", "-DJOSTLE_CHECK", "-ffp-contract=off"]
# Every address that is read and written, and what C leaves undefined, looked at; the process is to load what does that first
SANITIZED = [
    "-O1", "-ffp-contract=off", "-fno-omit-frame-pointer", "-fsanitize=address,undefined", "-fno-sanitize-recover=all",
]  # fmt: skip


class Built(build_ext):
    """Builds side by side, and notes from what."""

    def finalize_options(self):
        super().finalize_options()
        self.parallel = self.parallel or os.cpu_count()

    def run(self):
        super().run()
        if self.inplace:
            sys.path.insert(0, str(CORE / "built"))
            from sources import MARK, sources_key

            MARK.write_text(sources_key())


def extension(name: str) -> Extension:
    check = os.environ.get("JOSTLE_CHECK", "")
    how = {"": EXACT + PORTABLE, "bounds": CHECKED, "sanitizers": SANITIZED}[check]
    return Extension(
        f"jostle.core.built.{name}",
        [str(CORE / f"built/{name}.pyx")],
        language="c++",
        include_dirs=[numpy.get_include(), str(CORE / "built")],
        define_macros=[("NPY_NO_DEPRECATED_API", "NPY_1_7_API_VERSION")],
        depends=[str(CORE / f"built/{header}.h") for header in ("array", "layout")],
        extra_compile_args=["-std=c++17", "-g1" if check else "-g0", "-Wno-unused-function", *how],
        extra_link_args=["-fsanitize=address,undefined"] if check == "sanitizers" else [],
    )


setup(
    cmdclass={"build_ext": Built},
    # Where it is installed to be changed, it is built by itself
    ext_modules=[]
    if os.environ.get("JOSTLE_UNBUILT")
    else cythonize(
        [extension(name) for name in ("play", "figure")],
        include_path=["src"],
        nthreads=os.cpu_count(),
        compiler_directives={"embedsignature": True},
    ),
)
