"""Write what describes Jostle to programs into a folder: two OpenAPI documents, the API's and the provider protocol's, and the
plan's JSON Schema.

Run: python tools/describe.py docs
"""

import json
import sys
from pathlib import Path

from jostle.api.app import create_app
from jostle.core.plan.plan import Plan
from jostle.standin.server import create_standin


def main(folder: Path) -> None:
    for name, document in (
        ("openapi.json", create_app(None).openapi()),
        ("provider.openapi.json", create_standin(None).openapi()),
        ("plan.schema.json", Plan.model_json_schema()),
    ):
        (folder / name).write_text(json.dumps(document, indent=2, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
