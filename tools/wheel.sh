#!/bin/sh
# A wheel of the tree at SOURCE, which has its page, into FOLDER: tools/wheel.sh SOURCE FOLDER
set -eu
tools=$(cd "$(dirname "$0")/../.venv/bin" && pwd)
[ -f "$1/src/jostle/web/index.html" ] || { echo "The page is not built; run: make build" >&2; exit 1; }
rm -rf "$2"
"$tools/python" -m build --no-isolation --outdir "$2" "$1" >"$1/build.log" 2>&1 || { cat "$1/build.log" >&2; exit 1; }
rm "$1/build.log"
# As many systems as the C library allows; where that cannot be told, this one
PATH="$tools:$PATH" "$tools/auditwheel" repair --wheel-dir "$2" "$2"/*-linux_*.whl >/dev/null && rm "$2"/*-linux_*.whl
ls "$2"
