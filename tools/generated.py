"""Fail where a generated file is not what its source gives today; `make types` writes them anew."""

import subprocess
import sys
import tempfile
from pathlib import Path

from describe import main as describe
from layout import main as layout

ROOT = Path(__file__).parent.parent
TYPES = "frontend/src/shared/api/schema.generated.ts"


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        fresh = Path(folder)
        describe(fresh)
        layout(fresh)
        command = ["npx", "--no-install", "openapi-typescript", str(fresh / "openapi.json"), "-o", str(fresh / "types.ts")]
        subprocess.run(command, cwd=ROOT / "frontend", check=True, capture_output=True)
        names = ("openapi.json", "provider.openapi.json", "plan.schema.json")
        laid = ((f"src/jostle/core/built/{name}", name) for name in ("layout.h", "layout.pxd"))
        pairs = (*((f"docs/{name}", name) for name in names), *laid, (TYPES, "types.ts"))
        stale = [kept for kept, made in pairs if (ROOT / kept).read_text() != (fresh / made).read_text()]
    for path in stale:
        print(f"{path} is not up to date; run make types", file=sys.stderr)
    return 1 if stale else 0


if __name__ == "__main__":
    sys.exit(main())
